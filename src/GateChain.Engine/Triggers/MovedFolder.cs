using GateChain.Core.Identity;
using GateChain.Kinds.Arrivals;
using GateChain.Storage;

namespace GateChain.Engine.Triggers;

/// <summary>Notices that a data folder is a copy: two services on two copies would both start everything.</summary>
static class MovedFolder
{
    /// <summary>Holds all triggers when the data were last used elsewhere.</summary>
    /// <param name="folder">The data folder.</param>
    /// <param name="store">Where it stands where they were used last.</param>
    /// <param name="triggers">What is held.</param>
    /// <exception cref="StorageException">It could not be written.</exception>
    public static async Task HoldAsync(string folder, ITriggerStore store, TriggerIndex triggers)
    {
        if (
            LocalPlace.NameOnDisk(folder) is not { } name
            || !await store.IsMovedAsync($"{name} {Path.GetFullPath(folder)}").ConfigureAwait(false)
        )
        {
            return;
        }
        await triggers
            .HoldAsync(
                Area.Root,
                on: true,
                "the data folder is a copy, or was restored: gatechain hold off lets triggers start chains again",
                new(ActorKind.Service, "start", "the start")
            )
            .ConfigureAwait(false);
    }
}
