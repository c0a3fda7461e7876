namespace GateChain.Storage;

/// <summary>A chain with its attachments as it was at one time. Immutable.</summary>
/// <param name="Hash">SHA-256 over the chain's text and its attachments, in hex; names it.</param>
/// <param name="Source">The chain file.</param>
/// <param name="Files">Its attachments by name.</param>
public sealed record Release(string Hash, string Chain, string? Title, string Source, IReadOnlyDictionary<string, byte[]> Files, DateTimeOffset Pushed);

/// <summary>Everything one push brings: written together or not at all.</summary>
/// <param name="Releases">The chains.</param>
/// <param name="Settings">Workspace files by name, for example <c>connections.yaml</c>; they replace the former ones.</param>
public sealed record Push(IReadOnlyList<Release> Releases, IReadOnlyDictionary<string, string> Settings);

/// <summary>The chains the service knows. Thread-safe.</summary>
public interface ICatalogue
{
    /// <summary>Stores a push; it is on disk when this returns.</summary>
    /// <exception cref="StorageException">It could not be written.</exception>
    Task PushAsync(Push push);

    /// <summary>The latest release of every chain, by name, without attachments.</summary>
    IReadOnlyList<Release> Chains();

    Release? Latest(string chain);

    Release? Find(string hash);

    /// <summary>The hashes of a chain's releases that begin with a text; at most ten.</summary>
    IReadOnlyList<string> FindReleases(string chain, string beginning);

    /// <summary>A workspace file, or null.</summary>
    string? Setting(string name);
}

/// <summary>Something could not be stored. The message is a sentence for people.</summary>
public sealed class StorageException(string message, Exception? inner = null) : Exception(message, inner);
