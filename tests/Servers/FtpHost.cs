using System.Net;
using System.Security.Cryptography;
using System.Security.Cryptography.X509Certificates;

namespace GateChain.Tests;

/// <summary>ProFTPD with one user, and a certificate that nobody vouches for.</summary>
sealed class FtpHost : ServerProcess
{
    public const string User = "larkmoor";
    public const string Password = "churn";

    // What crypt makes of the password.
    const string Kept =
        "$6$larkmoor$Xuob4lSYxidUH43CoZAzr8xFS6LtSt8mLE98cfOSgmeLhqgjsDtiselDArqHE3txdif3.9TCScqmzN19MJ0lZ.";

    FtpHost(string folder, int port)
        : base(null, folder, port, "/usr/sbin/proftpd", "-n", "-q", "-c", Path.Combine(folder, "config")) =>
        Await(() =>
        {
            using var client = new System.Net.Sockets.TcpClient("127.0.0.1", port);
        });

    /// <summary>The fingerprint of the server's certificate.</summary>
    public string Certificate { get; private init; } = "";

    /// <summary>The folder that the user begins in.</summary>
    public string Files => Path.Combine(Folder, "files");

    /// <param name="tls"><c>explicit</c>, <c>implicit</c> or <c>none</c>.</param>
    /// <param name="facts">Whether it tells lists in the form of the standard.</param>
    public static FtpHost Start(string tls, bool facts = true)
    {
        var (folder, port) = (FolderOf(null), FreePort());
        Directory.CreateDirectory(Path.Combine(folder, "files"));
        var certificate = Certify(folder);
        var isRoot = Environment.UserName == "root";
        var users = Path.Combine(folder, "users");
        File.WriteAllText(users, $"{User}:{Kept}:{(isRoot ? "0:0" : "1000:1000")}::{folder}/files:/bin/sh\n");
        File.SetUnixFileMode(users, UnixFileMode.UserRead | UnixFileMode.UserWrite);
        File.WriteAllText(
            Path.Combine(folder, "config"),
            $"""
            ServerType standalone
            ServerName "Larkmoor"
            Port {port}
            DefaultAddress 127.0.0.1
            SocketBindTight on
            UseIPv6 off
            User {Environment.UserName}
            Group {(isRoot ? "root" : Environment.UserName)}
            RootLogin on
            RequireValidShell off
            UseReverseDNS off
            AuthOrder mod_auth_file.c
            AuthUserFile {users}
            PidFile {folder}/pid
            ScoreboardFile none
            DelayEngine off
            WtmpLog off
            TransferLog none
            SystemLog {folder}/log
            AllowOverwrite on
            AllowStoreRestart on
            FactsAdvertise {(facts ? "on" : "off")}
            ModulePath /usr/lib/proftpd
            LoadModule mod_tls.c
            <IfModule mod_tls.c>
            TLSEngine {(tls == "none" ? "off" : "on")}
            TLSRequired on
            TLSLog {folder}/tls
            TLSRSACertificateFile {folder}/certificate.pem
            TLSRSACertificateKeyFile {folder}/key.pem
            TLSOptions {(tls == "implicit" ? "UseImplicitSSL" : "AllowDotLogin")}
            </IfModule>

            """
        );
        return new(folder, port) { Certificate = certificate };
    }

    static string Certify(string folder)
    {
        using var key = RSA.Create(2048);
        var names = new SubjectAlternativeNameBuilder();
        names.AddIpAddress(IPAddress.Loopback);
        var request = new CertificateRequest("CN=depots", key, HashAlgorithmName.SHA256, RSASignaturePadding.Pkcs1);
        request.CertificateExtensions.Add(names.Build());
        using var made = request.CreateSelfSigned(DateTimeOffset.UtcNow.AddDays(-1), DateTimeOffset.UtcNow.AddDays(1));
        File.WriteAllText(Path.Combine(folder, "certificate.pem"), made.ExportCertificatePem());
        var file = Path.Combine(folder, "key.pem");
        File.WriteAllText(file, key.ExportPkcs8PrivateKeyPem());
        File.SetUnixFileMode(file, UnixFileMode.UserRead | UnixFileMode.UserWrite);
        return $"SHA256:{made.GetCertHashString(HashAlgorithmName.SHA256)}";
    }
}
