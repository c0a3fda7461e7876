using GateChain.Core.Chains;
using GateChain.Core.Checking;
using GateChain.Core.Expressions;
using GateChain.Core.Identity;
using GateChain.Core.Running;
using GateChain.Core.Running.Events;
using GateChain.Core.Values;
using GateChain.Engine.Basics;
using GateChain.Engine.Drafts;
using GateChain.Engine.Reading;
using GateChain.Engine.Releases;
using GateChain.Engine.Sharing;
using GateChain.Engine.Workspaces;
using GateChain.Storage;

namespace GateChain.Engine.Runs;

/// <summary>Starts runs: of releases, of drafts, of earlier runs, and of calls. Thread-safe.</summary>
public sealed class RunStarter
{
    readonly RunServices _services;
    readonly Admission _admission;
    readonly ReleaseIndex _releases;
    readonly ReleasedChains _chains;
    readonly WorkspaceService _workspace;
    readonly DraftService _drafts;
    readonly ICatalogue _catalogue;
    readonly IRunStore _runs;
    readonly RunReader _reader;

    internal RunStarter(
        RunServices services,
        Admission admission,
        ReleaseIndex releases,
        ReleasedChains chains,
        WorkspaceService workspace,
        DraftService drafts,
        ICatalogue catalogue,
        IRunStore runs,
        RunReader reader
    )
    {
        (_services, _admission, _releases, _chains) = (services, admission, releases, chains);
        (_workspace, _drafts, _catalogue, _runs, _reader) = (workspace, drafts, catalogue, runs, reader);
    }

    /// <summary>Where runs are started that this service may not own; null where it may own all.</summary>
    internal StartRouter? Router { get; set; }

    /// <summary>The address of the console, for links to runs; null while nobody knows.</summary>
    public string? Home { get; set; }

    /// <summary>Starts a run; it is on disk when this returns.</summary>
    /// <param name="name">The chain.</param>
    /// <param name="given">Parameters; text is read as their types ask.</param>
    /// <param name="profile">The name of a profile, or null.</param>
    /// <param name="by">Who asks.</param>
    /// <exception cref="RefusedException">There is no such chain, a parameter is missing, unknown or ill-typed, or the
    /// chain is busy and its <c>whenBusy</c> is <c>skip</c>.</exception>
    /// <exception cref="StorageException">Nothing can be written at the moment.</exception>
    public Task<long> StartAsync(string name, IReadOnlyDictionary<string, Value> given, string? profile, Actor by) =>
        Router is { } router
            ? router.StartAsync(new StartOrder.Run(name, given, profile, FarActor.Of(by)), () =>
                StartHereAsync(name, given, profile, by)
            )
            : StartHereAsync(name, given, profile, by);

    async Task<long> StartHereAsync(string name, IReadOnlyDictionary<string, Value> given, string? profile, Actor by)
    {
        var release = await _releases.GetAsync(new(name, null)).ConfigureAwait(false);
        var values = await ChooseAsync(name, profile).ConfigureAwait(false);
        return await StartAsync(release, given, values, by, parent: null, restartOf: null).ConfigureAwait(false);
    }

    /// <summary>The profile values that runs of a chain work with.</summary>
    /// <exception cref="RefusedException">There is no such profile.</exception>
    internal async Task<RunProfile> ChooseAsync(string chain, string? profile)
    {
        var area = await _workspace.AreaOfAsync(chain).ConfigureAwait(false);
        return new(profile, _workspace.In(area).Profiles.Choose(profile), area);
    }

    /// <summary>Runs a draft, or a part of one, without releasing it.</summary>
    /// <param name="name">The chain.</param>
    /// <param name="order">What is tried, and with what.</param>
    /// <param name="by">Who asks.</param>
    /// <exception cref="RefusedException">A parameter or step does not fit, or the earlier run is not one of this
    /// chain.</exception>
    /// <exception cref="InvalidDraftException">The draft has errors.</exception>
    /// <exception cref="StorageException">Nothing can be written at the moment.</exception>
    public async Task<long> TryAsync(string name, TryOptions order, Actor by)
    {
        var content = await _drafts.ContentAsync(name, order.Source).ConfigureAwait(false);
        var chain = (await _drafts.CheckAsync(name, order.Source).ConfigureAwait(false)).Chain!;
        if (order.Part != TryPart.Whole && chain.Root.Find(order.Step ?? "") is null)
        {
            throw new RefusedException(
                RefusalKind.Invalid,
                $"there is no step “{order.Step}” in the chain's own scope"
                    + (Nearest.Hint(order.Step ?? "", chain.Root.Steps.Select(s => s.Id)))
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
        await _catalogue.KeepAsync(content).ConfigureAwait(false);
        return await StartAsync(
                content.Hash,
                order.Params,
                await ChooseAsync(name, order.Profile).ConfigureAwait(false),
                by,
                parent: null,
                restartOf: null,
                TryPlan.For(chain, order.Part, order.Step ?? "", known, order.PauseBefore)
            )
            .ConfigureAwait(false);
    }

    async Task<Dictionary<string, TakenStep>> KnownAsync(long run, string chain)
    {
        var (of, steps) = await _reader
            .ReadAsync(run, (s, _) =>
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
    public Task<long> RestartAsync(long run, bool latest, Actor by) =>
        Router is { } router
            ? router.StartAsync(new StartOrder.Restart(run, latest, FarActor.Of(by)), () =>
                RestartHereAsync(run, latest, by)
            )
            : RestartHereAsync(run, latest, by);

    /// <summary>Starts here what was ordered.</summary>
    internal Task<long> DoAsync(StartOrder order) =>
        order switch
        {
            StartOrder.Run run => StartHereAsync(run.Chain, run.Given, run.Profile, run.By.ToActor()),
            StartOrder.Restart restart => RestartHereAsync(restart.Former, restart.Latest, restart.By.ToActor()),
            _ => throw new InvalidOperationException($"{order.GetType().Name} is no start"),
        };

    async Task<long> RestartHereAsync(long run, bool latest, Actor by)
    {
        var (chain, release, given, profile) = await _reader
            .ReadAsync(run, (s, _) =>
                (
                    s.Chain.Name,
                    s.Release,
                    s.Params.Entries.ToDictionary(e => e.Key.AsString, e => e.Value),
                    RunProfile.Of(s)
                )
            )
            .ConfigureAwait(false);
        return await StartAsync(
                latest ? await _releases.GetAsync(new(chain, null)).ConfigureAwait(false) : release,
                given,
                profile,
                by,
                parent: null,
                restartOf: run
            )
            .ConfigureAwait(false);
    }

    /// <summary>Starts the child run of a call.</summary>
    /// <param name="chain">What is called.</param>
    /// <param name="inputs">The child's parameters.</param>
    /// <param name="profile">What the caller works with.</param>
    /// <param name="by">Who started the caller.</param>
    /// <param name="parent">The call.</param>
    /// <exception cref="RefusedException">There is no such chain, a parameter does not fit, or it is busy.</exception>
    internal async Task<long> StartChildAsync(
        CalledChain chain,
        IReadOnlyDictionary<string, Value> inputs,
        RunProfile profile,
        Actor by,
        ParentLink parent
    )
    {
        var release = await _releases.GetAsync(chain).ConfigureAwait(false);
        var area = await _workspace.AreaOfAsync(chain.Name).ConfigureAwait(false);
        if (
            !area.Holds(profile.Area)
            && !(await InterfaceAsync(chain.Name).ConfigureAwait(false)).IsCallableFrom(profile.Area)
        )
        {
            throw NotFrom(chain.Name, profile.Area);
        }
        var values = _workspace
            .In(area)
            .Profiles.ForCalled(profile.Values, profile.Name, _workspace.In(profile.Area).Profiles);
        return await StartAsync(release, inputs, new(profile.Name, values, area), by, parent, restartOf: null)
            .ConfigureAwait(false);
    }

    // As it lies and says now, whichever release is called.
    async Task<ChainInterface> InterfaceAsync(string chain)
    {
        var latest = await _releases.GetAsync(new(chain, null)).ConfigureAwait(false);
        return ChainInterfaces.Of(await _chains.OfAsync(latest).ConfigureAwait(false)) with
        {
            Area = await _workspace.AreaOfAsync(chain).ConfigureAwait(false),
        };
    }

    static RefusedException NotFrom(string chain, Area area) =>
        new(
            RefusalKind.NotFound,
            $"there is no chain “{chain}” that may be started from “{(area == Area.Root ? "/" : area.Path)}”"
        );

    /// <summary>
    /// Starts a run for an occasion of a trigger: the fire, what it takes and the run's first decision are one write.
    /// </summary>
    /// <param name="from">The folder of the trigger.</param>
    /// <param name="chain">The chain.</param>
    /// <param name="release">What the run follows; null for the latest release.</param>
    /// <param name="keeps">Whether it writes what its chain keeps.</param>
    /// <param name="given">Parameters.</param>
    /// <param name="profile">What <see cref="ChooseAsync"/> gave.</param>
    /// <param name="fire">What is written of the fire.</param>
    /// <param name="link">What the run knows of it.</param>
    /// <exception cref="RefusedException">There is no release, a parameter does not fit, the chain is busy, or the
    /// occasion was taken.</exception>
    /// <exception cref="StorageException">Nothing can be written at the moment.</exception>
    internal async Task<long> StartAsync(
        string chain,
        string? release,
        bool keeps,
        IReadOnlyDictionary<string, Value> given,
        RunProfile profile,
        NewFire fire,
        FireLink link,
        Area from
    )
    {
        if (!from.Holds(profile.Area) && !(await InterfaceAsync(chain).ConfigureAwait(false)).IsStartedFrom(from))
            throw NotFrom(chain, from);
        return await StartAsync(
                release ?? await _releases.GetAsync(new(chain, null)).ConfigureAwait(false),
                given,
                profile,
                new(ActorKind.Trigger, link.Trigger, link.Trigger),
                parent: null,
                restartOf: null,
                fired: (fire, link),
                keeps: keeps
            )
            .ConfigureAwait(false);
    }

    async Task<long> StartAsync(
        string release,
        IReadOnlyDictionary<string, Value> given,
        RunProfile profile,
        Actor by,
        ParentLink? parent,
        long? restartOf,
        TryPlan? tried = null,
        (NewFire Fire, FireLink Link)? fired = null,
        bool keeps = true
    )
    {
        var chain = await _chains.RunnableOfAsync(release).ConfigureAwait(false);
        // What is only tried may well be on its way back into use.
        if (tried is null)
            await _releases.RefuseRetiredAsync(chain.Name).ConfigureAwait(false);
        var values = Parameters.Read(chain.Parameters, given, complete: true, _services.Options.Bounds);
        Parameters.RefuseUnset(chain.Parameters, values, name => _services.Secrets.IsSet(name, profile.Area));
        // Runs that are going hold still while nothing can be written, and so do their children; a new run of a person
        // is refused instead.
        if (parent is null && _services.Journal.Writer.Trouble is { } trouble)
            throw new StorageException($"the run was not started: {trouble}");
        var id = await _runs.NextIdAsync().ConfigureAwait(false);
        var kept = await _services.Kept.StartAsync(chain, profile.Name, keeps).ConfigureAwait(false);
        var busyKey = BusyKeyOf(chain, values, profile.Values, fired?.Link.Event);
        var number = await _releases.NumberOfAsync(chain.Name, release).ConfigureAwait(false) ?? 0;
        await _admission
            .BeginAsync(
                new(new(id, chain, _chains.Loaded), 0, 1, _services),
                new(chain, busyKey),
                parent,
                entry => new StartInput(
                    _services.Time.GetUtcNow(),
                    Guid.NewGuid().ToString("N"),
                    release,
                    values,
                    profile.Values,
                    by
                )
                {
                    Area = profile.Area,
                    ProfileName = profile.Name,
                    Number = number,
                    Queued = entry.Queued,
                    Replaces = entry.Replaces,
                    BusyKey = busyKey,
                    Kept = kept,
                    Fire = fired?.Link,
                    Parent = parent,
                    RestartOf = restartOf,
                    Try = tried,
                    Home = Home,
                },
                fired?.Fire
            )
            .ConfigureAwait(false);
        return id;
    }

    // What it is busy for, as text: 1 and "1" are the same.
    static string? BusyKeyOf(Chain chain, IReadOnlyDictionary<string, Value> given, Value profile, Value? happened)
    {
        if (chain is not { BusyKey.Expression: var expression } || chain.WhenBusy == BusyRule.Allow)
            return null;
        var parameters = chain
            .Parameters.Select(p => (p.Name, Value: given.TryGetValue(p.Name, out var value) ? value : p.Default))
            .Where(p => p.Value is not null)
            .Select(p => KeyValuePair.Create(p.Name, p.Value!.Value));
        var key = expression.Evaluate(
            new DictionaryBindings(
                new Dictionary<string, Value>
                {
                    ["params"] = Value.Map(DictionaryMap.Of(parameters)),
                    ["profile"] = profile,
                    ["event"] = happened ?? Value.EmptyMap,
                }
            )
        );
        if (key.IsError)
        {
            throw new RefusedException(
                RefusalKind.Invalid,
                $"the busyKey of “{chain.Name}” can't be computed: {key.AsError.Message}"
            );
        }
        var text = ValueText.ToPlainString(key);
        return text.Length <= MostOfKey
            ? text
            : throw new RefusedException(
                RefusalKind.Invalid,
                $"the busyKey of “{chain.Name}” has {text.Length:N0} characters; {MostOfKey} are the most"
            );
    }

    const int MostOfKey = 500;
}
