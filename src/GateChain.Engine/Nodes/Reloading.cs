using GateChain.Engine.Drafts;
using GateChain.Engine.Secrets;
using GateChain.Engine.Triggers;
using GateChain.Engine.Workspaces;
using GateChain.Storage;

namespace GateChain.Engine.Nodes;

/// <summary>Reads again what is kept in memory of parts of the store that somebody has changed.</summary>
sealed class Reloading(
    WorkspaceService workspace,
    DraftService drafts,
    SecretVault secrets,
    TriggerIndex triggers,
    BackfillService backfills
)
{
    public async Task ReadAsync(IReadOnlyCollection<StoredPart> parts)
    {
        // First: what stands beside chains may name them.
        if (parts.Contains(StoredPart.Secrets))
            await secrets.LoadAsync().ConfigureAwait(false);
        // Triggers are read with the workspace.
        if (parts.Contains(StoredPart.Workspace))
            await workspace.ReadAgainAsync().ConfigureAwait(false);
        else if (parts.Contains(StoredPart.Triggers))
            await triggers.LoadAsync().ConfigureAwait(false);
        if (parts.Contains(StoredPart.Drafts))
            drafts.Forget();
        if (parts.Contains(StoredPart.Backfills))
            backfills.Reload();
    }
}
