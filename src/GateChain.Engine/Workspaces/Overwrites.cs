using System.Security.Cryptography;
using System.Text;
using GateChain.Storage;

namespace GateChain.Engine.Workspaces;

/// <summary>A file that a push would replace though somebody has changed it in the service meanwhile.</summary>
/// <param name="Path">Where it lies in the workspace.</param>
/// <param name="By">Who has changed it last.</param>
/// <param name="At">When.</param>
public sealed record Overwrite(string Path, string By, DateTimeOffset At);

/// <summary>
/// Finds what a push would overwrite. Who pushes may say, by hashes, in what state the folder last was in step with the
/// service: then whatever is another now was changed meanwhile. Where that is not said, what did not come by a push
/// counts as changed.
/// </summary>
public static class Overwrites
{
    /// <summary>The hash of a content, SHA-256 in hex, without a byte order mark.</summary>
    public static string HashOf(ReadOnlySpan<byte> content) =>
        Convert.ToHexStringLower(
            SHA256.HashData(
                content.StartsWith(Encoding.UTF8.Preamble) ? content[Encoding.UTF8.Preamble.Length..] : content
            )
        );

    sealed record Present(string Path, string Hash, string By, DateTimeOffset At, bool WasPushed);

    /// <param name="catalogue">The chains that are there.</param>
    /// <param name="store">The files that are there.</param>
    /// <param name="files">What is pushed.</param>
    /// <param name="chainIn">The name of the chain in a file; null for other files.</param>
    /// <param name="known">Hashes of what the folder had when it last was in step, by path; null when nobody
    /// knows.</param>
    internal static async Task<IReadOnlyList<Overwrite>> FindAsync(
        ICatalogue catalogue,
        IFileStore store,
        IReadOnlyDictionary<string, byte[]> files,
        Func<string, string?> chainIn,
        IReadOnlyDictionary<string, string>? known
    )
    {
        var (chains, beside) = await PresentAsync(catalogue, store).ConfigureAwait(false);
        var found = new List<Overwrite>();
        foreach (var (path, content) in files.OrderBy(f => f.Key, StringComparer.Ordinal))
        {
            // A chain is the same one in another folder.
            var present = chainIn(path) is { } chain ? chains.GetValueOrDefault(chain) : beside.GetValueOrDefault(path);
            if (present is null || present.Hash == HashOf(content))
                continue;
            var isChanged =
                known is not null && (known.GetValueOrDefault(path) ?? known.GetValueOrDefault(present.Path)) is { } was
                    ? was != present.Hash
                    : !present.WasPushed;
            if (isChanged)
                found.Add(new(path, present.By, present.At));
        }
        return found;
    }

    static async Task<(Dictionary<string, Present> Chains, Dictionary<string, Present> Beside)> PresentAsync(
        ICatalogue catalogue,
        IFileStore store
    )
    {
        var chains = new Dictionary<string, Present>();
        var beside = new Dictionary<string, Present>();
        var numbers = await catalogue.LatestReleasesAsync().ConfigureAwait(false);
        var attached = (await catalogue.AttachmentsAsync().ConfigureAwait(false)).ToLookup(a => a.Chain);
        foreach (var release in await catalogue.ChainsAsync().ConfigureAwait(false))
        {
            var number = numbers[release.Chain];
            Present Of(string path, ReadOnlySpan<byte> content) =>
                new(path, HashOf(content), number.Author, number.Made, number.Action is null or "push");
            chains[release.Chain] = Of(
                release.Area.File(release.Chain + Workspace.ChainEnding),
                Encoding.UTF8.GetBytes(release.Source)
            );
            if (!attached[release.Chain].Any())
                continue;
            var whole = await catalogue.FindAsync(release.Hash).ConfigureAwait(false);
            foreach (var file in attached[release.Chain])
                beside.TryAdd(file.Path, Of(file.Path, whole!.Files[file.Name]));
        }
        foreach (var file in await store.AllAsync().ConfigureAwait(false))
        {
            beside[file.Path] = new(
                file.Path,
                HashOf(Encoding.UTF8.GetBytes(file.Content!)),
                file.Author,
                file.At,
                file.Action is null or "push"
            );
        }
        return (chains, beside);
    }
}
