using System.Net.Security;
using System.Security.Authentication;
using System.Security.Cryptography;
using System.Security.Cryptography.X509Certificates;

namespace GateChain.Kinds.FileServers.Ftp;

/// <summary>Enciphers what goes to a server and comes from it.</summary>
sealed class FtpCipher(FtpSettings settings)
{
    string? _found;

    /// <summary>A stream over another one, after both have shown who they are.</summary>
    /// <exception cref="FtpCertificateException">The server's certificate is not the one that it should be.</exception>
    public SslStream Over(Stream plain)
    {
        var stream = new SslStream(plain, leaveInnerStreamOpen: false);
        try
        {
            stream.AuthenticateAsClient(
                new SslClientAuthenticationOptions
                {
                    TargetHost = settings.Host,
                    // Servers ask that the connection for data goes on with the session of the one for commands. Those
                    // of TLS 1.3 are good for one more connection only, and the second file would be refused.
                    EnabledSslProtocols = SslProtocols.Tls12,
                    RemoteCertificateValidationCallback = (_, certificate, _, errors) => IsTrusted(certificate, errors),
                }
            );
            return stream;
        }
        catch (AuthenticationException) when (_found is not null)
        {
            stream.Dispose();
            throw new FtpCertificateException(settings.Host, _found, settings.Certificate);
        }
        catch
        {
            stream.Dispose();
            throw;
        }
    }

    bool IsTrusted(X509Certificate? certificate, SslPolicyErrors errors)
    {
        var found = certificate is null ? "none" : $"SHA256:{certificate.GetCertHashString(HashAlgorithmName.SHA256)}";
        var trusted = settings.Certificate is { } expected
            ? string.Equals(Plain(expected), Plain(found), StringComparison.OrdinalIgnoreCase)
            : errors == SslPolicyErrors.None;
        _found = trusted ? null : found;
        return trusted;
    }

    // Tools write the digits in pairs with colons between them.
    static string Plain(string fingerprint) =>
        fingerprint
            .Replace("SHA256", "", StringComparison.OrdinalIgnoreCase)
            .Replace(":", "", StringComparison.Ordinal);
}
