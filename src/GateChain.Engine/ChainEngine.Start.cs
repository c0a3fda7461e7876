using GateChain.Core.Chains;
using GateChain.Core.Expressions;
using GateChain.Core.Problems;
using GateChain.Core.Running;
using GateChain.Core.Running.Events;
using GateChain.Core.Values;
using GateChain.Engine.Children;
using GateChain.Engine.Drafts;
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
    /// <exception cref="RefusedException">There is no such chain, a parameter is missing, unknown or ill-typed, or the
    /// chain is busy and its <c>whenBusy</c> is <c>skip</c>.</exception>
    /// <exception cref="StorageException">Nothing can be written at the moment.</exception>
    public Task<long> StartAsync(string name, IReadOnlyDictionary<string, Value> given, string? profile, string by)
    {
        var release = _releases.Get(new(name, null));
        return StartAsync(release, given, Workspace.ProfileValues(profile), by, parent: null, restartOf: null);
    }

    /// <summary>Runs a draft, or a part of one, without releasing it.</summary>
    /// <param name="name">The chain.</param>
    /// <param name="order">What is tried, and with what.</param>
    /// <param name="by">Who asks.</param>
    /// <exception cref="RefusedException">A parameter or step does not fit, or the earlier run is not one of this
    /// chain.</exception>
    /// <exception cref="InvalidDraftException">The draft has errors.</exception>
    /// <exception cref="StorageException">Nothing can be written at the moment.</exception>
    public async Task<long> TryAsync(string name, TryOrder order, string by)
    {
        var content = Drafts.Content(name, order.Source);
        var chain = Drafts.Check(name, order.Source).Chain!;
        if (order.Part != TryPart.Whole && chain.Root.Find(order.Step ?? "") is null)
        {
            throw new RefusedException(
                RefusalKind.Invalid,
                $"there is no step “{order.Step}” in the chain's own scope"
                    + (
                        Nearest.Mend(order.Step ?? "", chain.Root.Steps.Select(s => s.Id)) is { } mend
                            ? $"; {mend}"
                            : ""
                    )
            );
        }
        if (order.PauseBefore.FirstOrDefault(p => !chain.AllSteps.Any(s => s.Address == p)) is { } unknown)
            throw new RefusedException(RefusalKind.Invalid, $"there is no step “{unknown}” to pause before");
        var known = order.Known is { } run ? await KnownAsync(run, name).ConfigureAwait(false) : [];
        foreach (var (step, outputs) in order.Given)
        {
            if (chain.Root.Find(step) is null || outputs.Kind != ValueKind.Map)
            {
                throw new RefusedException(
                    RefusalKind.Invalid,
                    $"the outputs for “{step}” are a mapping, for a step of the chain's own scope"
                );
            }
            known[step] = new(step, Outcome.Succeeded, outputs, null);
        }
        await _store.KeepAsync(content).ConfigureAwait(false);
        return await StartAsync(
                content.Hash,
                order.Params,
                Workspace.ProfileValues(order.Profile),
                by,
                parent: null,
                restartOf: null,
                TryPlan.For(chain, order.Part, order.Step ?? "", known, order.PauseBefore)
            )
            .ConfigureAwait(false);
    }

    async Task<Dictionary<string, TakenStep>> KnownAsync(long run, string chain)
    {
        var (of, steps) = await ReadAsync(run, (s, _) =>
                (
                    s.Chain.Name,
                    s.Root.Steps.Where(step => step.IsSettled)
                        .Select(step => new TakenStep(step.Step.Id, step.Outcome, step.Outputs, run))
                        .ToDictionary(t => t.Step)
                )
            )
            .ConfigureAwait(false);
        return of == chain
            ? steps
            : throw new RefusedException(RefusalKind.Invalid, $"run {run} is one of “{of}”, not of “{chain}”");
    }

    /// <summary>Starts a new run with the parameters and profile values of an earlier one, linked to it.</summary>
    /// <param name="run">The earlier run; it may still be going.</param>
    /// <param name="latest">Whether it follows the latest release of the chain instead of the same one.</param>
    /// <param name="by">Who asks.</param>
    /// <exception cref="RefusedException">There is no such run, or the latest release wants other
    /// parameters.</exception>
    public async Task<long> RestartAsync(long run, bool latest, string by)
    {
        var (chain, release, given, profile) = await ReadAsync(run, (s, _) =>
                (s.Chain.Name, s.Release, s.Params.Entries.ToDictionary(e => e.Key.AsString, e => e.Value), s.Profile)
            )
            .ConfigureAwait(false);
        return await StartAsync(
                latest ? _releases.Get(new(chain, null)) : release,
                given,
                profile,
                by,
                parent: null,
                restartOf: run
            )
            .ConfigureAwait(false);
    }

    Task<long> IChildHost.StartChildAsync(
        CalledChain chain,
        IReadOnlyDictionary<string, Value> inputs,
        Value profile,
        string by,
        ParentLink parent
    ) => StartAsync(_releases.Get(chain), inputs, profile, by, parent, restartOf: null);

    async Task<long> StartAsync(
        string release,
        IReadOnlyDictionary<string, Value> given,
        Value profile,
        string by,
        ParentLink? parent,
        long? restartOf,
        TryPlan? tried = null
    )
    {
        var chain = _released.RunnableOf(release);
        var values = Parameters.Read(chain.Parameters, given, complete: true, Bounds);
        // Runs that are going hold still while nothing can be written, and so do their children; a new run of a person
        // is refused instead.
        if (parent is null && Journal.Writer.Trouble is { } trouble)
            throw new StorageException($"the run was not started: {trouble}");
        var id = _store.NextId();
        await BeginAsync(new(new(id, chain, ChainOf), 0, 1, this), chain, parent, queued => new StartInput(
                Time.GetUtcNow(),
                Guid.NewGuid().ToString("N"),
                release,
                values,
                profile,
                by
            )
            {
                Number = _releases.NumberOf(chain.Name, release) ?? 0,
                Queued = queued,
                Parent = parent,
                RestartOf = restartOf,
                Try = tried,
                Home = Home,
            })
            .ConfigureAwait(false);
        return id;
    }

    /// <summary>
    /// Begins a run or a leg as the chain's <c>whenBusy</c> lets it; what it begins with is told whether it has to
    /// wait.
    /// </summary>
    async Task<Ruling> BeginAsync(RunActor actor, Chain chain, ParentLink? parent, Func<bool, RunInput> input)
    {
        var run = actor.Run;
        var place = _lines.Enter(chain.Name, run, chain.WhenBusy, Above(parent));
        if (place.Queued && chain.WhenBusy == BusyRule.Skip)
            throw Conflict($"“{chain.Name}” is busy with run {place.Others[0]}, and its whenBusy is skip");
        _actors[run] = actor;
        Ruling ruling;
        try
        {
            ruling = Accepted(await actor.PostAsync(input(place.Queued)).ConfigureAwait(false));
        }
        catch
        {
            _actors.TryRemove(KeyValuePair.Create(run, actor));
            LeaveLine(chain.Name, run);
            throw;
        }
        // Its turn may have come before it could be told.
        if (place.Queued && _lines.IsReleased(chain.Name, run))
            actor.Post(new ReleaseInput(Time.GetUtcNow()));
        if (chain.WhenBusy == BusyRule.Replace)
        {
            foreach (var other in place.Others)
                await ReplaceAsync(other, run).ConfigureAwait(false);
        }
        return ruling;
    }

    async Task ReplaceAsync(long other, long by)
    {
        try
        {
            await StopAsync(other, $"run {by}", $"replaced by run {by}").ConfigureAwait(false);
        }
        catch (RefusedException)
        {
            // It has just ended.
        }
    }

    /// <summary>The runs above a child: they wait for it, so it can't wait for them.</summary>
    List<long> Above(ParentLink? parent)
    {
        var above = new List<long>();
        for (var run = parent?.Run; run is { } at; run = _store.Find(at)?.Parent?.Run)
            above.Add(at);
        return above;
    }
}
