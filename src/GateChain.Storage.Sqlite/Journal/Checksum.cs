using System.IO.Hashing;

namespace GateChain.Storage.Sqlite;

/// <summary>
/// A checksum of what is written to the journal: a bit that the disk has flipped is found. It is no protection against
/// whoever means to deceive. Source: XxHash3, 64 bits.
/// </summary>
static class Checksum
{
    public static long Of(ReadOnlySpan<byte> content) => (long)XxHash3.HashToUInt64(content);

    /// <summary>One that does not fit: what was found to be damaged stays so wherever it is copied to.</summary>
    public static long Wrong(ReadOnlySpan<byte> content) => ~Of(content);
}
