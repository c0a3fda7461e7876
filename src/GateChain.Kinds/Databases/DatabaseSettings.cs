using GateChain.Kinds.Connections;
using GateChain.Kinds.Settings;

namespace GateChain.Kinds.Databases;

/// <summary>A connection of type <c>sqlite</c>.</summary>
public sealed record SqliteSettings
{
    [Setting("The database file; it is created when it is not there.", Required = true)]
    public string Path { get; init; } = "";

    [Setting("How long to wait for a lock of another program.")]
    public TimeSpan BusyTimeout { get; init; } = TimeSpan.FromSeconds(10);
}

/// <summary>A connection of type <c>duckdb</c>.</summary>
public sealed record DuckDbSettings
{
    [Setting(
        "The database file; it is created when it is not there. One program at a time can have it open.",
        Required = true
    )]
    public string Path { get; init; } = "";
}

/// <summary>A connection to a database server.</summary>
public record ServerSettings
{
    [Setting("The server's name or address.", Required = true)]
    public string Host { get; init; } = "";

    [Setting("Its port; the usual one of its type when absent.", Min = 1, Max = 65_535)]
    public int? Port { get; init; }

    [Setting("The database.", Required = true)]
    public string Database { get; init; } = "";

    [Setting("The user's name.", Required = true)]
    public string User { get; init; } = "";

    [Setting("The password, as `secret:name`.", Secret = true)]
    public string? Password { get; init; }

    [Setting(
        "`verify` asks for TLS with a certificate that is good for the host, "
            + "`require` for TLS with any certificate, `prefer` takes TLS when the server offers it, "
            + "`off` does without. When absent, `prefer` on this machine, and `require` for servers elsewhere: "
            + "whoever stands between could talk `prefer` down."
    )]
    public Tls? Tls { get; init; }

    /// <summary>What holds for TLS.</summary>
    internal Tls TlsRule => Tls ?? (IsHere ? Databases.Tls.Prefer : Databases.Tls.Require);

    /// <summary>Whether the server is on this machine.</summary>
    internal bool IsHere => Hosts.IsLoopback(Host) || Host.StartsWith('/');

    [Setting("How long to wait for the server to answer at first.")]
    public TimeSpan ConnectTimeout { get; init; } = TimeSpan.FromSeconds(10);
}

/// <summary>A connection of type <c>mysql</c>.</summary>
public sealed record MySqlSettings : ServerSettings
{
    [Setting(
        "Whether loads go the server's own way for many rows, LOAD DATA LOCAL, about twice as fast. "
            + "The server has to allow it (`local_infile`), and it could ask for files of this machine when "
            + "its certificate is checked (`tls: verify`); so it needs TLS, or a server on this machine."
    )]
    public bool Bulk { get; init; }
}

public enum Tls
{
    Verify,
    Require,
    Prefer,
    Off,
}
