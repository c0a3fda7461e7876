using GateChain.Core.Identity;
using GateChain.Kinds.Arrivals;
using GateChain.Storage;

namespace GateChain.Engine.Triggers;

/// <summary>
/// Notices that a data folder is a copy, or was restored: two services on two copies would both start everything, and
/// do again what the other one does.
/// </summary>
public static class MovedFolder
{
    /// <summary>Why all is held then. Runs that had not ended wait as long as triggers are held for it.</summary>
    public const string Why =
        "the data folder is a copy, or was restored: gatechain hold off lets triggers start chains and runs continue";

    /// <summary>A place that none is: what is restored is a copy wherever it comes to lie.</summary>
    public const string Nowhere = "a backup";

    /// <summary>Holds all triggers when the data were last used elsewhere.</summary>
    /// <param name="folder">The data folder.</param>
    /// <param name="store">Where it stands where they were used last.</param>
    /// <param name="triggers">What is held.</param>
    /// <returns>Whether all is held for it, from now on or since an earlier start.</returns>
    /// <exception cref="StorageException">It could not be written.</exception>
    internal static async Task<bool> HoldAsync(string folder, ITriggerStore store, TriggerIndex triggers)
    {
        if (
            LocalPlace.NameOnDisk(folder) is { } name
            && $"{name} {Path.GetFullPath(folder)}" is var place
            && await store.PlaceAsync().ConfigureAwait(false) is var before
            && Plain(before) != place
        )
        {
            // The place is said last: whoever is killed in between holds again.
            var start = new Actor(ActorKind.Service, "start", "the start");
            if (before is not null)
                await triggers.HoldAsync(Area.Root, on: true, Why, start).ConfigureAwait(false);
            await store.SetPlaceAsync(place).ConfigureAwait(false);
        }
        return (await store.HoldsAsync().ConfigureAwait(false)).Any(h => h.Area.Length == 0 && h.Why == Why);
    }

    // Earlier versions wrote the numbers of the disk before it, with colons.
    static string? Plain(string? place) =>
        place is not null && place.IndexOf(' ', StringComparison.Ordinal) is var gap and > 0
            ? place[(place.LastIndexOf(':', gap) + 1)..]
            : place;
}
