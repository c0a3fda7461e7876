using GateChain.Core.Identity;
using GateChain.Core.Problems;
using GateChain.Core.Running;
using GateChain.Core.Triggers;
using GateChain.Engine.Basics;
using GateChain.Engine.Workspaces;
using GateChain.Storage;

namespace GateChain.Engine.Triggers;

/// <summary>Checks and saves files of triggers, one at a time. Thread-safe.</summary>
public sealed class TriggerFileService
{
    readonly WorkspaceService _workspace;
    readonly IFileStore _files;
    readonly TimeProvider _time;

    internal TriggerFileService(WorkspaceService workspace, IFileStore files, TimeProvider time) =>
        (_workspace, _files, _time) = (workspace, files, time);

    /// <summary>Checks a file; saves it when a version is given and nothing is wrong.</summary>
    /// <param name="path">Its path: <c>triggers.yaml</c> in any folder.</param>
    /// <param name="content">Its text.</param>
    /// <param name="seen">The version that was edited, 0 for a new file; null to check only.</param>
    /// <param name="by">Who asks.</param>
    /// <returns>What is wrong, what it says, and the version that was saved; null when nothing was.</returns>
    /// <exception cref="RefusedException">The path is no such file, or somebody else has saved meanwhile.</exception>
    /// <exception cref="StorageException">It could not be written.</exception>
    public async Task<(
        IReadOnlyList<Problem> Problems,
        IReadOnlyList<TriggerDefinition> Triggers,
        long? Version
    )> SaveAsync(string path, string content, long? seen, Actor by)
    {
        if (!Core.Chains.AttachmentNames.IsName(path) || Path.GetFileName(path) != WorkspaceFiles.TriggersName)
            throw new RefusedException(RefusalKind.Invalid, $"“{path}” is no triggers.yaml");
        var (problems, triggers) = await _workspace.CheckTriggersAsync(path, content).ConfigureAwait(false);
        if (seen is not { } version || problems.Any(p => p.IsError))
            return (problems, triggers, null);
        await using var held = await _workspace.HoldAsync().ConfigureAwait(false);
        try
        {
            var saved = await _files
                .SaveAsync(path, version, content, new(_time.GetUtcNow(), by, "save", $"file {path}"))
                .ConfigureAwait(false);
            await _workspace.LoadAsync().ConfigureAwait(false);
            return (problems, triggers, saved?.Version);
        }
        catch (FileChangedException e)
        {
            throw new RefusedException(RefusalKind.Conflict, $"{e.Message}; look at it again before you save");
        }
    }
}
