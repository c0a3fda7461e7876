namespace GateChain.Kinds.FileServers.Ftp;

/// <summary>What an FTP server answers (RFC 959).</summary>
/// <param name="Code">The three digits.</param>
/// <param name="Lines">What it says, without them.</param>
sealed record FtpReply(int Code, IReadOnlyList<string> Lines)
{
    /// <summary>All it says in a line.</summary>
    public string Text => string.Join(" ", Lines).Trim();

    /// <summary>Whether more is to come: the data.</summary>
    public bool IsBegun => Code is >= 100 and < 200;

    public bool IsDone => Code is >= 200 and < 300;

    /// <summary>Whether another command has to follow.</summary>
    public bool IsMore => Code is >= 300 and < 400;

    /// <summary>Whether the server does not know the command.</summary>
    public bool IsUnknown => Code is 500 or 502 or 504;
}

/// <summary>A server has refused a command.</summary>
sealed class FtpException(string command, FtpReply reply) : Exception($"{reply.Code} {reply.Text}")
{
    /// <summary>The command, without what it was about.</summary>
    public string Command { get; } = command;

    public FtpReply Reply { get; } = reply;
}

/// <summary>The conversation has ended before it should, or is none.</summary>
sealed class FtpCutException(string message) : Exception(message);

/// <summary>The server has another certificate than the one that is expected, or one that nobody vouches for.</summary>
sealed class FtpCertificateException(string host, string found, string? expected)
    : Exception(
        expected is null
            ? $"nobody that this machine knows vouches for the certificate of {host}: it has {found}"
            : $"{host} has another certificate than it should: {found} instead of {expected}"
    )
{
    /// <summary>What to do about it.</summary>
    public string Advice { get; } =
        expected is null
            ? "Ask who runs the server whether that is its certificate, and write "
                + $"certificate: {found} to the connection."
            : "Somebody may be standing between, or the certificate was renewed. Ask who runs the server before the "
                + "connection is changed. No password was sent to it.";
}
