using GateChain.Core.Identity;

namespace GateChain.Storage;

/// <summary>A chain as somebody is designing it. Immutable; each save makes a new version.</summary>
/// <param name="Version">Grows with each save, from 1, and is never used twice.</param>
/// <param name="Base">The number of the release it began from; null for a chain that has none.</param>
/// <param name="Author">Who saved it.</param>
public sealed record Draft(string Chain, long Version, string Source, int? Base, string Author, DateTimeOffset Saved)
{
    /// <summary>The folder that a chain without a release is to lie in.</summary>
    public Area Area { get; init; }
}

/// <summary>The version of a draft that somebody has seen; 0 for none.</summary>
public sealed record DraftVersion(string Chain, long Version);

/// <summary>The drafts the service keeps. Thread-safe.</summary>
public interface IDrafts
{
    /// <summary>The newest version of a chain's draft; null when there is none.</summary>
    ValueTask<Draft?> FindAsync(string chain);

    /// <summary>All drafts, by chain.</summary>
    ValueTask<IReadOnlyList<Draft>> AllAsync();

    /// <summary>
    /// Earlier versions that are still there, newest first: of each author's work the last of every minute, at most a
    /// hundred.
    /// </summary>
    ValueTask<IReadOnlyList<Draft>> HistoryAsync(string chain);

    /// <summary>Attachments of the draft that its base has not, or otherwise.</summary>
    ValueTask<IReadOnlyDictionary<string, byte[]>> FilesAsync(string chain);

    /// <summary>
    /// Saves a new version; it is on disk when this returns. The versions themselves say who made them: no line of the
    /// audit log is written, or every keystroke would have one.
    /// </summary>
    /// <param name="seen">The version it is made from; 0 when there was none.</param>
    /// <param name="source">The chain file.</param>
    /// <param name="start">The number of the release it began from.</param>
    /// <param name="files">Attachments to put to it; others stay.</param>
    /// <param name="author">Who saves.</param>
    /// <param name="at">When.</param>
    /// <param name="area">Where a chain without a release is to lie.</param>
    /// <exception cref="DraftChangedException">Somebody else has saved meanwhile; nothing was stored.</exception>
    /// <exception cref="StorageException">It could not be written.</exception>
    Task<Draft> SaveAsync(
        DraftVersion seen,
        string source,
        int? start,
        IReadOnlyDictionary<string, byte[]> files,
        string author,
        DateTimeOffset at,
        Area area = default
    );

    /// <summary>Lets a draft go; its last versions stay in the history.</summary>
    /// <param name="seen">The version that somebody has seen.</param>
    /// <param name="audit">Who does it, and when.</param>
    /// <exception cref="DraftChangedException">Somebody else has saved meanwhile.</exception>
    /// <exception cref="StorageException">It could not be written.</exception>
    Task DiscardAsync(DraftVersion seen, AuditLine audit);
}

/// <summary>A draft is not the one any more that somebody had seen.</summary>
public sealed class DraftChangedException(string chain)
    : Exception($"the draft of “{chain}” was changed by somebody else meanwhile")
{
    /// <summary>The chain whose draft it is.</summary>
    public string Chain { get; } = chain;
}
