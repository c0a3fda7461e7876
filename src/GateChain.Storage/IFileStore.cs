namespace GateChain.Storage;

/// <summary>A version of a file of the workspace. Immutable.</summary>
/// <param name="Path">Where it lies, with <c>/</c> between folders: <c>connections.yaml</c>.</param>
/// <param name="Version">Grows with each version of the path, from 1, and is never used twice.</param>
/// <param name="Author">Who made it.</param>
/// <param name="At">When.</param>
/// <param name="Content">Its text; null says that there is no such file from then on.</param>
/// <param name="Action">By what it came, as the audit log says: <c>push</c>, <c>save</c>; null when that is not
/// known.</param>
public sealed record WorkspaceFile(
    string Path,
    long Version,
    string Author,
    DateTimeOffset At,
    string? Content,
    string? Action = null
);

/// <summary>
/// The files of the workspace that stand beside the chains, with all of their versions. Pushes bring them too
/// (<see cref="ICatalogue.PushAsync"/>). Thread-safe.
/// </summary>
public interface IFileStore
{
    /// <summary>The newest version of a file; null when there is no such file.</summary>
    ValueTask<WorkspaceFile?> FindAsync(string path);

    /// <summary>The newest version of every file there is, by path.</summary>
    ValueTask<IReadOnlyList<WorkspaceFile>> AllAsync();

    /// <summary>All versions of a file, newest first; those that say it is gone among them.</summary>
    ValueTask<IReadOnlyList<WorkspaceFile>> HistoryAsync(string path);

    /// <summary>Saves a new version; nothing is stored when it says what the newest one says.</summary>
    /// <param name="path">Where the file lies.</param>
    /// <param name="seen">The version it is made from; 0 when there was no such file.</param>
    /// <param name="content">Its text; null takes the file away.</param>
    /// <param name="audit">Who does it, and when.</param>
    /// <returns>The newest version.</returns>
    /// <exception cref="FileChangedException">Somebody else has saved meanwhile; nothing was stored.</exception>
    /// <exception cref="StorageException">It could not be written.</exception>
    Task<WorkspaceFile?> SaveAsync(string path, long seen, string? content, AuditLine audit);
}

/// <summary>A file is not the one any more that somebody had seen.</summary>
public sealed class FileChangedException(string path)
    : Exception($"the file “{path}” was changed by somebody else meanwhile")
{
    /// <summary>Where it lies.</summary>
    public string Path { get; } = path;
}
