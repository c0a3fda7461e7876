using GateChain.Kinds.Settings;

namespace GateChain.Kinds.FileServers.Ftp;

/// <summary>A connection of type <c>ftp</c>.</summary>
public sealed record FtpSettings
{
    [Setting("The server's name or address.", Required = true)]
    public string Host { get; init; } = "";

    [Setting("Its port; 21, and 990 with `tls: implicit`, when absent.", Min = 1, Max = 65_535)]
    public int? Port { get; init; }

    [Setting("The user's name.", Required = true)]
    public string User { get; init; } = "";

    [Setting("The password, as `secret:name`.", Secret = true)]
    public string? Password { get; init; }

    [Setting(
        "How all is enciphered: `explicit` (the server is asked to, before anything is said), `implicit` (from the "
            + "first byte) or `none`: then passwords and files can be read and changed on their way."
    )]
    public FtpTls Tls { get; init; } = FtpTls.Explicit;

    [Setting(
        "The fingerprint of the server's certificate, `SHA256:…` in hex digits, where no authority that this machine "
            + "knows vouches for it. The test of a connection without it says which one the server has."
    )]
    public string? Certificate { get; init; }
}

public enum FtpTls
{
    Explicit,
    Implicit,
    None,
}
