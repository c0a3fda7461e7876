using GateChain.Core.Identity;
using GateChain.Storage;

namespace GateChain.Engine.Workspaces;

/// <summary>
/// What the service has in folders around those that somebody brings: who may change one folder has nothing of them,
/// and yet it holds.
/// </summary>
static class FoldersAbove
{
    /// <summary>
    /// The settings of folders above of which nothing is brought, triggers left out; contents by path.
    /// </summary>
    /// <param name="store">What the service has.</param>
    /// <param name="paths">The paths of what is brought.</param>
    public static async Task<IReadOnlyDictionary<string, string>> OfAsync(IFileStore store, IEnumerable<string> paths)
    {
        var areas = paths.Select(Area.OfFile).ToHashSet();
        return (await store.AllAsync().ConfigureAwait(false))
            .Where(f => Area.OfFile(f.Path) is var at && !areas.Contains(at) && areas.Any(a => at.Holds(a)))
            .Where(f => Path.GetFileName(f.Path) != WorkspaceFiles.TriggersName)
            .ToDictionary(f => f.Path, f => f.Content!);
    }
}
