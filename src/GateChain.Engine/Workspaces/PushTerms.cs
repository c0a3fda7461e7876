using GateChain.Core.Identity;
using GateChain.Core.Running;
using GateChain.Engine.Basics;
using GateChain.Storage;

namespace GateChain.Engine.Workspaces;

/// <summary>Something that a push would change.</summary>
/// <param name="Path">The file.</param>
/// <param name="Chain">The chain that it holds; null for another file.</param>
/// <param name="Before">Where that chain lies now; null when it is new.</param>
public sealed record PushChange(string Path, string? Chain, Area? Before);

/// <summary>What a push must not do without being told to.</summary>
/// <param name="Known">Hashes of what the folder had when it last was in step with the service, by path; null when
/// nobody knows.</param>
/// <param name="Over">Whether it may overwrite what was changed in the service, and break chains that it does not
/// bring.</param>
/// <param name="Broken">Knows what it would break.</param>
/// <param name="Permit">Refuses what whoever pushes may not change.</param>
public sealed record PushTerms(
    IReadOnlyDictionary<string, string>? Known,
    bool Over,
    BrokenChains Broken,
    Func<IReadOnlyList<PushChange>, Task>? Permit = null
)
{
    const int MostNamed = 5;

    /// <summary>Refuses a push that does not keep to it.</summary>
    internal async Task HoldAsync(
        WorkspaceService service,
        IFileStore store,
        IReadOnlyDictionary<string, byte[]> files,
        Workspace workspace,
        Push push
    )
    {
        if (Permit is not null)
            await Permit(await ChangesAsync(service, store, push).ConfigureAwait(false)).ConfigureAwait(false);
        if (Over)
            return;
        var overwrites = await Overwrites
            .FindAsync(service.Catalogue, store, files, path => workspace.ChainIn(path)?.Name, Known)
            .ConfigureAwait(false);
        if (overwrites.Count > 0)
        {
            var told = overwrites.Select(o => $"{o.Path} (by {o.By}, {o.At:yyyy-MM-dd HH:mm} UTC)");
            throw new RefusedException(
                RefusalKind.Conflict,
                $"nothing was stored: {Named(told)} "
                    + $"{(overwrites.Count == 1 ? "was" : "were")} changed in the service since this folder last had "
                    + "what is there; bring that over first (gatechain export), or push with --over"
            );
        }
        var texts = files
            .Where(f => Workspace.IsSettings(f.Key))
            .Select(f => (f.Key, Workspace.TextOf(f.Value)))
            .ToDictionary(f => f.Key, f => (string?)f.Item2);
        var next = await service.FilesWithAsync(texts).ConfigureAwait(false);
        var broken = await Broken.ByAsync(next, workspace.Chains.Select(c => c.Name).ToHashSet()).ConfigureAwait(false);
        if (broken.Count > 0)
        {
            throw new RefusedException(
                RefusalKind.Conflict,
                "nothing was stored: this would break "
                    + $"{Named(broken.Select(b => $"{b.What} ({b.Message})"))}, which this push does not bring; "
                    + "push with --over to do it all the same"
            );
        }
    }

    // What stays as it is needs no right.
    static async Task<IReadOnlyList<PushChange>> ChangesAsync(WorkspaceService service, IFileStore store, Push push)
    {
        var changes = new List<PushChange>();
        foreach (var release in push.Releases)
        {
            var before = await service.Catalogue.LatestAsync(release.Chain).ConfigureAwait(false);
            if (before is null || before.Hash != release.Hash || before.Area != release.Area)
            {
                changes.Add(
                    new(
                        release.Area.File(release.Chain + Workspace.ChainEnding),
                        release.Chain,
                        before?.Area ?? await service.FindAreaAsync(release.Chain).ConfigureAwait(false)
                    )
                );
            }
        }
        foreach (var (path, text) in push.Files)
        {
            if ((await store.FindAsync(path).ConfigureAwait(false))?.Content != text)
                changes.Add(new(path, null, null));
        }
        return changes;
    }

    static string Named(IEnumerable<string> things)
    {
        var all = things.ToList();
        var more = all.Count > MostNamed ? $" and {all.Count - MostNamed} more" : "";
        return string.Join(", ", all.Take(MostNamed)) + more;
    }
}
