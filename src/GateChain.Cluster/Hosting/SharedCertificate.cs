using System.Numerics;
using System.Security.Cryptography;
using System.Security.Cryptography.X509Certificates;

namespace GateChain.Cluster.Hosting;

/// <summary>
/// A certificate that every node makes for itself from a key that all of them have: who can show it is a node, and
/// nobody else is.
/// </summary>
/// <remarks>
/// Source: HKDF, RFC 5869; P-256, FIPS 186-5: a private key is a number from 1 to the order less one.
/// </remarks>
public static class SharedCertificate
{
    static readonly BigInteger Order = BigInteger.Parse(
        "115792089210356248762697446949407573529996955224135760342422259061068512044369",
        System.Globalization.CultureInfo.InvariantCulture
    );

    /// <summary>Makes it: the same for the same key.</summary>
    /// <param name="key">What all nodes have, 32 random bytes.</param>
    public static X509Certificate2 Of(ReadOnlySpan<byte> key)
    {
        using var pair = ECDsa.Create(new ECParameters { Curve = ECCurve.NamedCurves.nistP256, D = PrivateKey(key) });
        var request = new CertificateRequest("CN=gatechain-node", pair, HashAlgorithmName.SHA256);
        using var certificate = request.CreateSelfSigned(
            new(2020, 1, 1, 0, 0, 0, TimeSpan.Zero),
            new(2120, 1, 1, 0, 0, 0, TimeSpan.Zero)
        );
        // As TLS takes it: with its key in the same store.
        return X509CertificateLoader.LoadPkcs12(certificate.Export(X509ContentType.Pkcs12), null);
    }

    static byte[] PrivateKey(ReadOnlySpan<byte> key)
    {
        var bytes = new byte[32];
        // Of four thousand million one is too big.
        for (byte i = 0; ; i++)
        {
            HKDF.DeriveKey(HashAlgorithmName.SHA256, key, bytes, [], [.. "gatechain nodes"u8, i]);
            var number = new BigInteger(bytes, isUnsigned: true, isBigEndian: true);
            if (number > 0 && number < Order)
                return bytes;
        }
    }

    /// <summary>Whether a certificate has the key of another one.</summary>
    public static bool IsSame(X509Certificate2? shown, X509Certificate2 own) =>
        shown is not null
        && shown
            .PublicKey.ExportSubjectPublicKeyInfo()
            .AsSpan()
            .SequenceEqual(own.PublicKey.ExportSubjectPublicKeyInfo());
}
