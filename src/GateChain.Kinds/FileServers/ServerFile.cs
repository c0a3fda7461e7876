namespace GateChain.Kinds.FileServers;

/// <summary>A file on a server or in a bucket.</summary>
/// <param name="Path">Its path there.</param>
/// <param name="Length">Its size in bytes.</param>
/// <param name="Changed">When it was changed last, in UTC.</param>
sealed record ServerFile(string Path, long Length, DateTime Changed)
{
    /// <summary>The last part of its path.</summary>
    public string Name => Path[(Path.LastIndexOf('/') + 1)..];

    /// <summary>What the server calls this version of it; null where it only tells size and time.</summary>
    public string? Tag { get; init; }

    /// <summary>The MD5 of its content as hex digits, where the server knows it.</summary>
    public string? Md5 { get; init; }
}
