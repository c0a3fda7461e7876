using GateChain.Core.Identity;
using GateChain.Core.Running;
using GateChain.Engine.Basics;
using GateChain.Engine.Releases;
using GateChain.Storage;

namespace GateChain.Engine.Workspaces;

/// <summary>
/// Takes chains out of use, and brings them back. A retired chain keeps its name, releases and runs; runs that have not
/// ended continue, and can be resumed; no new ones start, whoever asks. Thread-safe.
/// </summary>
public sealed class ChainRetirement
{
    readonly ICatalogue _catalogue;
    readonly ReleaseIndex _releases;
    readonly WorkspaceService _workspace;
    readonly TimeProvider _time;

    internal ChainRetirement(
        ICatalogue catalogue,
        ReleaseIndex releases,
        WorkspaceService workspace,
        TimeProvider time
    ) => (_catalogue, _releases, _workspace, _time) = (catalogue, releases, workspace, time);

    /// <summary>Retires a chain; it is on disk when this returns.</summary>
    /// <param name="chain">The chain.</param>
    /// <param name="why">Why, in a sentence; null when nobody says.</param>
    /// <param name="by">Who retires it.</param>
    /// <exception cref="RefusedException">There is no release of it, or it is retired already.</exception>
    /// <exception cref="StorageException">It could not be written.</exception>
    public async Task<Retirement> RetireAsync(string chain, string? why, Actor by)
    {
        await _releases.GetAsync(new(chain, null)).ConfigureAwait(false);
        await _releases.RefuseRetiredAsync(chain).ConfigureAwait(false);
        if (why is { Length: > MostOfReason })
            throw new RefusedException(RefusalKind.Invalid, $"a reason has at most {MostOfReason:N0} characters");
        // It is shown on terminals, in one line.
        var plain = new string([.. (why ?? "").Select(c => char.IsControl(c) ? ' ' : c)]).Trim();
        var retirement = new Retirement(by.Name, _time.GetUtcNow(), plain.Length == 0 ? null : plain);
        await StoreAsync(chain, retirement, "retire", by).ConfigureAwait(false);
        return retirement;
    }

    /// <summary>Brings a retired chain back; it is on disk when this returns.</summary>
    /// <exception cref="RefusedException">There is no release of it, or it is in use.</exception>
    /// <exception cref="StorageException">It could not be written.</exception>
    public async Task BringBackAsync(string chain, Actor by)
    {
        await _releases.GetAsync(new(chain, null)).ConfigureAwait(false);
        if (await _releases.RetiredAsync(chain).ConfigureAwait(false) is null)
            throw new RefusedException(RefusalKind.Conflict, $"“{chain}” is not retired");
        await StoreAsync(chain, null, "bring back", by).ConfigureAwait(false);
    }

    async Task StoreAsync(string chain, Retirement? retirement, string action, Actor by)
    {
        await _catalogue
            .SetRetiredAsync(chain, retirement, new(_time.GetUtcNow(), by, action, $"chain {chain}", retirement?.Why))
            .ConfigureAwait(false);
        // Drafts that call it are checked anew.
        _releases.Forget();
        await _workspace.LoadAsync().ConfigureAwait(false);
    }

    const int MostOfReason = 1000;
}
