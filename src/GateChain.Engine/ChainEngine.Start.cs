using GateChain.Core.Chains;
using GateChain.Core.Expressions;
using GateChain.Core.Problems;
using GateChain.Core.Running;
using GateChain.Core.Running.Events;
using GateChain.Core.Values;
using GateChain.Engine.Children;
using GateChain.Engine.Runs;
using GateChain.Engine.Workspaces;
using GateChain.Storage;

namespace GateChain.Engine;

// How runs begin.
public sealed partial class ChainEngine
{
    /// <summary>Starts a run; it is on disk when this returns.</summary>
    /// <param name="name">The chain.</param>
    /// <param name="given">Parameters; text is read as their types ask.</param>
    /// <param name="profile">The name of a profile, or null.</param>
    /// <param name="by">Who asks.</param>
    /// <exception cref="RefusedException">There is no such chain, a parameter is missing, unknown or ill-typed, or the chain is busy and its <c>whenBusy</c> is <c>skip</c>.</exception>
    /// <exception cref="StorageException">Nothing can be written at the moment.</exception>
    public Task<long> StartAsync(string name, IReadOnlyDictionary<string, Value> given, string? profile, string by)
    {
        var release = CurrentOf(name);
        return StartAsync(release, given, ProfileValues(profile), by, parent: null, restartOf: null);
    }

    /// <summary>Starts a new run with the parameters and profile values of an earlier one, linked to it.</summary>
    /// <param name="run">The earlier run; it may still be going.</param>
    /// <param name="latest">Whether it follows the latest release of the chain instead of the same one.</param>
    /// <param name="by">Who asks.</param>
    /// <exception cref="RefusedException">There is no such run, or the latest release wants other parameters.</exception>
    public async Task<long> RestartAsync(long run, bool latest, string by)
    {
        var (chain, release, given, profile) = await ReadAsync(run, (s, _) => (s.Chain.Name, s.Release, s.Params.Entries.ToDictionary(e => e.Key.AsString, e => e.Value), s.Profile)).ConfigureAwait(false);
        return await StartAsync(latest ? CurrentOf(chain) : release, given, profile, by, parent: null, restartOf: run).ConfigureAwait(false);
    }

    Task<long> IChildHost.StartChildAsync(string chain, IReadOnlyDictionary<string, Value> inputs, Value profile, string by, ParentLink parent) =>
        StartAsync(CurrentOf(chain), inputs, profile, by, parent, restartOf: null);

    async Task<long> StartAsync(string release, IReadOnlyDictionary<string, Value> given, Value profile, string by, ParentLink? parent, long? restartOf)
    {
        var chain = ChainOf(release);
        var values = Parameters.Read(chain.Parameters, given, complete: true);
        // Runs that are going hold still while nothing can be written, and so do their children; a new run of a person is refused instead.
        if (parent is null && Journal.Writer.Trouble is { } trouble) { throw new StorageException($"the run was not started: {trouble}"); }
        var id = _store.NextId();
        await BeginAsync(new(new(id, chain, ChainOf), 0, 1, this), chain, parent, queued =>
            new StartInput(Time.GetUtcNow(), Guid.NewGuid().ToString("N"), release, values, profile, by) { Queued = queued, Parent = parent, RestartOf = restartOf }).ConfigureAwait(false);
        return id;
    }

    /// <summary>Begins a run or a leg as the chain's <c>whenBusy</c> lets it; what it begins with is told whether it has to wait.</summary>
    async Task BeginAsync(RunActor actor, Chain chain, ParentLink? parent, Func<bool, RunInput> input)
    {
        var run = actor.Run;
        var place = _lines.Enter(chain.Name, run, chain.WhenBusy, Above(parent));
        if (place.Queued && chain.WhenBusy == BusyRule.Skip) { throw Conflict($"“{chain.Name}” is busy with run {place.Others[0]}, and its whenBusy is skip"); }
        _actors[run] = actor;
        try { await actor.PostAsync(input(place.Queued)).ConfigureAwait(false); }
        catch
        {
            _actors.TryRemove(KeyValuePair.Create(run, actor));
            LeaveLine(chain.Name, run);
            throw;
        }
        // Its turn may have come before it could be told.
        if (place.Queued && _lines.IsReleased(chain.Name, run)) { actor.Post(new ReleaseInput(Time.GetUtcNow())); }
        if (chain.WhenBusy == BusyRule.Replace) { foreach (var other in place.Others) { await ReplaceAsync(other, run).ConfigureAwait(false); } }
    }

    async Task ReplaceAsync(long other, long by)
    {
        try { await StopAsync(other, $"run {by}", $"replaced by run {by}").ConfigureAwait(false); }
        catch (RefusedException)
        {
            // It has just ended.
        }
    }

    /// <summary>The runs above a child: they wait for it, so it can't wait for them.</summary>
    List<long> Above(ParentLink? parent)
    {
        var above = new List<long>();
        for (var run = parent?.Run; run is { } at; run = _store.Find(at)?.Parent?.Run) { above.Add(at); }
        return above;
    }

    string CurrentOf(string name) => FindCurrentOf(name) ?? LatestOf(name);

    // Kept until the next push.
    string? FindCurrentOf(string name)
    {
        if (!_latest.TryGetValue(name, out var release) && _store.Latest(name) is { } latest) { _latest[name] = release = latest.Hash; }
        return release;
    }

    string LatestOf(string name) => _store.Latest(name)?.Hash ?? throw new RefusedException(RefusalKind.NotFound,
        $"there is no chain “{name}”{(Nearest.Mend(name, _store.Chains().Select(c => c.Chain)) is { } mend ? $"; {mend}" : "")}");

    Profiles ReadProfiles() => ReadFile(Workspace.ProfilesName, Profiles.Read);

    /// <summary>The chain that new runs of a name would follow.</summary>
    /// <exception cref="RefusedException">There is none.</exception>
    public Chain LatestChain(string name) => ChainOf(CurrentOf(name));

    /// <summary>The same; null when there is none.</summary>
    public Chain? FindLatestChain(string name) => FindCurrentOf(name) is { } release ? ChainOf(release) : null;

    /// <summary>The values of a profile, as a run would have them.</summary>
    /// <exception cref="RefusedException">There is no profile of that name.</exception>
    public Value ProfileValues(string? name) => (_profiles ??= ReadProfiles()).Choose(name);

    /// <summary>The names of the profiles that a run can be started under.</summary>
    public IEnumerable<string> ProfileNames => (_profiles ??= ReadProfiles()).Names;
}
