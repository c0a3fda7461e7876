using System.Net;
using System.Security.Authentication;
using System.Security.Cryptography;
using System.Security.Cryptography.X509Certificates;
using GateChain.Storage;
using Microsoft.AspNetCore.Server.Kestrel.Core;

namespace GateChain.Service.Hosting;

/// <summary>Where the service listens, and with which certificate.</summary>
static class Listener
{
    /// <exception cref="StorageException">The certificate can't be read.</exception>
    public static void Configure(KestrelServerOptions kestrel, ServiceOptions options)
    {
        kestrel.AddServerHeader = false;
        kestrel.Limits.MaxRequestBodySize = 64 << 20;
        kestrel.Limits.MaxConcurrentConnections = 1000;
        // Who sends its head drop by drop is not waited for.
        kestrel.Limits.RequestHeadersTimeout = TimeSpan.FromSeconds(15);
        kestrel.Limits.MaxRequestHeadersTotalSize = 64 << 10;
        var listen = new Uri(options.Listen);
        var file = options.TlsCertificate is { } path ? new CertificateFile(path, options.TlsKey ?? path) : null;
        void Https(ListenOptions on)
        {
            if (file is null)
                return;
            on.UseHttps(https =>
            {
                https.SslProtocols = SslProtocols.Tls12 | SslProtocols.Tls13;
                https.ServerCertificateSelector = (_, _) => file.Current;
            });
        }
        if (IPAddress.TryParse(listen.Host.Trim('[', ']'), out var address))
            kestrel.Listen(address, listen.Port, Https);
        else
            kestrel.ListenLocalhost(listen.Port, Https);
    }
}

/// <summary>A certificate in PEM files, read again when they change. Thread-safe.</summary>
sealed class CertificateFile
{
    static readonly TimeSpan Pause = TimeSpan.FromSeconds(5);

    readonly string _certificate,
        _key;
    readonly Lock _reading = new();
    X509Certificate2 _current;
    (DateTime, DateTime) _written;
    long _looked;

    /// <exception cref="StorageException">It can't be read.</exception>
    public CertificateFile(string certificate, string key)
    {
        (_certificate, _key) = (certificate, key);
        try
        {
            (_current, _written) = (Read(), Written());
        }
        catch (Exception e) when (e is CryptographicException or IOException or UnauthorizedAccessException)
        {
            throw new StorageException($"the certificate {certificate} can't be used: {e.Message}", e);
        }
    }

    X509Certificate2 Read()
    {
        using var pem = X509Certificate2.CreateFromPemFile(_certificate, _key);
        return X509CertificateLoader.LoadPkcs12(pem.Export(X509ContentType.Pkcs12), null);
    }

    (DateTime, DateTime) Written() => (File.GetLastWriteTimeUtc(_certificate), File.GetLastWriteTimeUtc(_key));

    /// <summary>The one that is there; the one before while the new one can't be read.</summary>
    public X509Certificate2 Current
    {
        get
        {
            lock (_reading)
            {
                if (Environment.TickCount64 - _looked < Pause.TotalMilliseconds)
                    return _current;
                _looked = Environment.TickCount64;
                try
                {
                    var written = Written();
                    if (written != _written)
                        (_current, _written) = (Read(), written);
                }
                catch (Exception e) when (e is CryptographicException or IOException or UnauthorizedAccessException)
                {
                    // It may be half written: the next look takes it.
                    Serilog.Log.Warning("The certificate could not be read again: {Reason}", e.Message);
                }
                return _current;
            }
        }
    }
}
