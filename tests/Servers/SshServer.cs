namespace GateChain.Tests;

/// <summary>OpenSSH's server, with a key of its own and one user key that may come in.</summary>
sealed class SshServer : ServerProcess
{
    SshServer(string folder, int port)
        : base(null, folder, port, "/usr/sbin/sshd", "-D", "-e", "-f", Path.Combine(folder, "config")) =>
        Await(() =>
        {
            using var client = new System.Net.Sockets.TcpClient("127.0.0.1", port);
        });

    /// <summary>The private key that may come in.</summary>
    public string PrivateKey => File.ReadAllText(Path.Combine(Folder, "user"));

    /// <summary>The fingerprint of the server's key.</summary>
    public string HostKey { get; private init; } = "";

    /// <summary>A folder that the user sees too.</summary>
    public string Files => Path.Combine(Folder, "files");

    public static SshServer Start()
    {
        var (folder, port) = (FolderOf(null), FreePort());
        foreach (var name in (string[])["host", "user"])
            Run(null, "ssh-keygen", "-q", "-t", "ed25519", "-N", "", "-C", name, "-f", Path.Combine(folder, name));
        Directory.CreateDirectory("/run/sshd");
        Directory.CreateDirectory(Path.Combine(folder, "files"));
        File.Copy(Path.Combine(folder, "user.pub"), Path.Combine(folder, "allowed"));
        File.WriteAllText(
            Path.Combine(folder, "config"),
            $"""
            Port {port}
            ListenAddress 127.0.0.1
            HostKey {folder}/host
            PidFile {folder}/pid
            AuthorizedKeysFile {folder}/allowed
            StrictModes no
            UsePAM no
            PermitRootLogin yes
            PasswordAuthentication no
            Subsystem sftp internal-sftp

            """
        );
        var blob = Convert.FromBase64String(File.ReadAllText(Path.Combine(folder, "host.pub")).Split(' ')[1]);
        return new(folder, port)
        {
            HostKey =
                "SHA256:" + Convert.ToBase64String(System.Security.Cryptography.SHA256.HashData(blob)).TrimEnd('='),
        };
    }
}
