using GateChain.Core.Identity;

namespace GateChain.Storage;

/// <summary>A chain with its attachments as it was at one time. Immutable.</summary>
/// <param name="Hash">SHA-256 over the chain's text and its attachments, in hex; names it.</param>
/// <param name="Source">The chain file.</param>
/// <param name="Files">Its attachments by name.</param>
public sealed record Release(
    string Hash,
    string Chain,
    string? Title,
    string Source,
    IReadOnlyDictionary<string, byte[]> Files,
    DateTimeOffset Pushed
)
{
    /// <summary>Since when nothing starts its chain any more, and who said so; null for chains in use.</summary>
    public Retirement? Retired { get; init; }

    /// <summary>The folder that the chain lies in now; in a push, the one that it comes to lie in.</summary>
    public Area Area { get; init; }

    /// <summary>Where attachments lay that were not in the folder of the chain, or below it, by name.</summary>
    public IReadOnlyDictionary<string, string> Places { get; init; } = new Dictionary<string, string>();
}

/// <summary>That a chain is retired: nothing starts it, its name stays taken.</summary>
/// <param name="By">Who said so.</param>
/// <param name="At">When.</param>
/// <param name="Why">Why, in a sentence; null when nobody said.</param>
public sealed record Retirement(string By, DateTimeOffset At, string? Why);

/// <summary>Everything one push brings: written together or not at all.</summary>
/// <param name="Releases">The chains.</param>
/// <param name="Files">Workspace files by path, for example <c>connections.yaml</c>; each that says something else
/// than before gets a new version. Others stay.</param>
/// <param name="Audit">Who brings it, and when.</param>
/// <param name="Note">What the releases are for; null when nobody said.</param>
public sealed record Push(
    IReadOnlyList<Release> Releases,
    IReadOnlyDictionary<string, string> Files,
    AuditLine Audit,
    string? Note = null
)
{
    /// <summary>
    /// The drafts that these releases are made of: gone with the push, which is refused when one has changed.
    /// </summary>
    public IReadOnlyList<DraftVersion> Drafts { get; init; } = [];
}

/// <summary>A release by its number. Numbers count from 1 within a chain and are never used twice.</summary>
/// <param name="Hash">Its content.</param>
/// <param name="Note">What it is for.</param>
/// <param name="Action">By what it came, as the audit log says: <c>push</c>, <c>release</c>, <c>go back</c>,
/// <c>save</c>; null when that is not known.</param>
public sealed record NumberedRelease(
    string Chain,
    int Number,
    string Hash,
    string? Note,
    string Author,
    DateTimeOffset Made,
    string? Action = null
);

/// <summary>An attachment of the latest release of a chain, without its content.</summary>
/// <param name="Chain">The chain.</param>
/// <param name="Name">What the chain calls it.</param>
/// <param name="Path">Where it lies in the workspace.</param>
/// <param name="Size">Bytes.</param>
public sealed record AttachmentEntry(string Chain, string Name, string Path, long Size);

/// <summary>A release that brought another content of an attachment than the one before it.</summary>
/// <param name="Release">The release.</param>
/// <param name="Size">Bytes.</param>
public sealed record AttachmentVersion(NumberedRelease Release, long Size);

/// <summary>The chains the service knows. Thread-safe.</summary>
public interface ICatalogue
{
    /// <summary>
    /// Stores a push; it is on disk when this returns. A chain whose content is what it was gets no new number.
    /// </summary>
    /// <exception cref="StorageException">It could not be written.</exception>
    /// <exception cref="DraftChangedException">One of its drafts has changed meanwhile; nothing was stored.</exception>
    Task PushAsync(Push push);

    /// <summary>
    /// Retires a chain that has a release, or brings it back. Pushes and releases leave that as it is.
    /// </summary>
    /// <param name="chain">The chain; nothing happens when it has no release.</param>
    /// <param name="retirement">Null to bring it back.</param>
    /// <param name="audit">Who changes it.</param>
    /// <exception cref="StorageException">It could not be written.</exception>
    Task SetRetiredAsync(string chain, Retirement? retirement, AuditLine audit);

    /// <summary>Stores content that runs can follow without its being a release, for trying a draft.</summary>
    /// <exception cref="StorageException">It could not be written.</exception>
    Task KeepAsync(Release content);

    /// <summary>The releases of a chain, newest first.</summary>
    ValueTask<IReadOnlyList<NumberedRelease>> ReleasesAsync(string chain);

    /// <summary>The latest number of every chain.</summary>
    ValueTask<IReadOnlyDictionary<string, NumberedRelease>> LatestReleasesAsync();

    /// <summary>The latest release of every chain, by name, without attachments.</summary>
    ValueTask<IReadOnlyList<Release>> ChainsAsync();

    /// <summary>The latest release of a chain with its attachments; null when there is none.</summary>
    ValueTask<Release?> LatestAsync(string chain);

    /// <summary>The attachments of the latest releases, by chain and name.</summary>
    ValueTask<IReadOnlyList<AttachmentEntry>> AttachmentsAsync();

    /// <summary>The releases that changed an attachment of a chain, newest first; at most a hundred.</summary>
    ValueTask<IReadOnlyList<AttachmentVersion>> AttachmentHistoryAsync(string chain, string name);

    /// <summary>The content of a hash with its attachments; null when there is none.</summary>
    ValueTask<Release?> FindAsync(string hash);

    /// <summary>The hashes of a chain's releases that begin with a text; at most ten.</summary>
    ValueTask<IReadOnlyList<string>> FindReleasesAsync(string chain, string beginning);
}
