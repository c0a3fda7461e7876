using GateChain.Core.Chains;
using GateChain.Core.Identity;
using GateChain.Core.Running.Events;
using GateChain.Core.Values;

namespace GateChain.Core.Running.State;

/// <summary>
/// The state of one run: the fold of its events over its chain. Not thread-safe; one mailbox owns it.
/// </summary>
public sealed partial class RunState
{
    readonly PriorityQueue<StepState, DateTimeOffset> _timers = new();
    readonly List<AttemptRecord> _attempts;
    readonly Dictionary<string, int> _successes;
    readonly List<RunWarned> _warnings = [];
    readonly List<(StepState? By, ScopeState Scope, string Name, Value Value)> _assignments = [];

    readonly List<HandlerState> _handlers = [];
    readonly Func<string, Chain?>? _chains;
    int _pausedSteps;

    /// <param name="id">The run's number.</param>
    /// <param name="chain">The chain of its first leg.</param>
    /// <param name="chains">Gives the chain of a release, for legs that moved to another one.</param>
    public RunState(long id, Chain chain, Func<string, Chain?>? chains = null)
    {
        (Id, Chain, _chains) = (id, chain, chains);
        Root = new(chain.Root, null, -1, Value.Null);
        // Most runs try and finish each of their own steps once.
        var likely = Math.Min(Root.Steps.Length, 100);
        (_attempts, _successes) = (new(likely), new(likely));
    }

    public long Id { get; }
    public string Uid { get; private set; } = "";
    public Chain Chain { get; private set; }
    public ScopeState Root { get; private set; }

    /// <summary>0 before the first decision.</summary>
    public int Leg { get; private set; }

    public string Release { get; private set; } = "";

    /// <summary>
    /// The number of that release; 0 for a draft, null when the run began with a version that did not note it.
    /// </summary>
    public int? Number { get; private set; }
    public Actor By { get; private set; }
    public DictionaryMap Params { get; private set; } = DictionaryMap.Empty;
    public Value Profile { get; private set; } = Value.EmptyMap;

    /// <summary>The profile that these values are of; null when none was named, or nobody noted it.</summary>
    public string? ProfileName { get; private set; }

    /// <summary>
    /// The folder that its chain lay in when it began: it works with what stands in files there and above.
    /// </summary>
    public Area Area { get; private set; }

    public DateTimeOffset? Started { get; private set; }
    public DateTimeOffset? Ended { get; private set; }
    public Outcome? Outcome { get; private set; }
    public Value Outputs { get; private set; } = Value.EmptyMap;
    public StepError? Error { get; private set; }
    public StopAsked? Stop { get; private set; }

    /// <summary>The call it is a child of; null for a run of its own.</summary>
    public ParentLink? Parent { get; private set; }

    /// <summary>The run it repeats.</summary>
    public long? RestartOf { get; private set; }

    /// <summary>The address of the service's console when it began; null when nobody knew.</summary>
    public string? Home { get; private set; }

    /// <summary>What of its chain it tries; null for all.</summary>
    public TryPlan? Try { get; private set; }

    /// <summary>The occasion that it was started for; null when no trigger fired.</summary>
    public FireLink? Fire { get; private set; }

    /// <summary>What it is busy for; null for the whole chain.</summary>
    public string? BusyKey { get; private set; }

    /// <summary>The version of what its chain keeps that it began with; null when it keeps nothing.</summary>
    public long? KeptVersion { get; private set; }

    /// <summary>What its chain keeps, as it is now: a map.</summary>
    public Value Kept =>
        Value.Map(DictionaryMap.Of(Chain.Kept.Select(v => KeyValuePair.Create(v.Name, Root.Variables[v.Name]))));

    /// <summary>The runs that it takes the place of.</summary>
    public IReadOnlyList<long> Replaces { get; private set; } = [];

    /// <summary>How many events it is the fold of.</summary>
    public long EventCount { get; private set; }

    /// <summary>Whether it is the try of a draft, or a child of one.</summary>
    public bool IsTry => Try is not null || Parent is { Tried: true };

    /// <summary>Why there is this run.</summary>
    public RunOrigin Origin =>
        Parent is { } call ? new RunOrigin.Call(call.Run, call.Step, call.Attempt)
        : Try is not null ? new RunOrigin.Try()
        : Fire is { } fire ? new RunOrigin.Fire(fire.Trigger, fire.Key)
        : RestartOf is { } earlier ? new RunOrigin.Restart(earlier)
        : new RunOrigin.Person();

    /// <summary>Paths of the steps that it has already paused before, as its try was told to.</summary>
    public IReadOnlySet<string> PausedBefore => _pausedBefore;

    readonly HashSet<string> _pausedBefore = [];

    /// <summary>What a try does with a step.</summary>
    internal Part PartOf(StepState step)
    {
        if (Try is not { } tried || step.Scope != Root)
            return Part.Done;
        var id = step.Step.Id;
        return tried.Begin.Contains(id) ? Part.Begun
            : tried.LeftOut.Contains(id) ? Part.LeftOut
            : tried.TakenFor(id) is not null ? Part.Taken
            : Part.Done;
    }

    /// <summary>Whether it waits for other runs of its chain.</summary>
    public bool IsQueued { get; private set; }

    /// <summary>Who paused it; null when nobody did. Steps can pause it too.</summary>
    public PauseAsked? Pause { get; private set; }

    /// <summary>Whether nothing new starts until somebody decides.</summary>
    public bool IsPaused => !HasEnded && (Pause is not null || _pausedSteps > 0);

    public bool IsLate { get; private set; }

    /// <summary>That it will be late, as it was first seen; null when it was not.</summary>
    public RunEndangered? Danger { get; private set; }

    /// <summary>
    /// When it is late; null when it never is, or is already. Handlers behind its own steps take no part in that.
    /// </summary>
    public DateTimeOffset? LateAt =>
        IsLate || HasEnded || RootEnd is not null ? null : Sooner((Fire?.Due ?? Started) + Chain.DueIn, Fire?.By);

    static DateTimeOffset? Sooner(DateTimeOffset? a, DateTimeOffset? b) => a is null || b < a ? b : a;

    /// <summary>How its own steps ended, while handlers run; null before.</summary>
    public RootSettled? RootEnd { get; private set; }

    /// <summary>When the ended run is resumed by itself; null for not.</summary>
    public DateTimeOffset? ResumeAt { get; private set; }

    /// <summary>Steps that are done again in this leg only because others that are done again depend on them.</summary>
    public IReadOnlyList<StepState> Redo { get; private set; } = [];

    /// <summary>The handlers that ran or run, of all legs.</summary>
    public IReadOnlyList<HandlerState> Handlers => _handlers;

    /// <summary>
    /// Names one piece of work: the same after a crash, a retry or a resume, another one once it has succeeded.
    /// Kinds write it into other databases as their mark.
    /// </summary>
    public WorkKey WorkKey(StepState step) => new(Uid, step.Path, _successes.GetValueOrDefault(step.Path));

    /// <summary>The attempts of all legs, in the order they began.</summary>
    public IReadOnlyList<AttemptRecord> Attempts => _attempts;

    public IReadOnlyList<RunWarned> Warnings => _warnings;
    public IReadOnlyList<LegStarted> Resumes { get; private set; } = [];

    /// <summary>Whether it was asked to stop and is ending; handlers that run behind a stopped chain are not.</summary>
    public bool IsStopping { get; private set; }

    public bool HasEnded => Outcome is not null;

    /// <summary>The word of the vocabulary for its state.</summary>
    public string Word =>
        Outcome?.Word()
        ?? (
            IsQueued ? "queued"
            : IsPaused ? "paused"
            : "running"
        );

    /// <summary>
    /// When a decision that had become too long was cut: what it would have continued with follows at once; null when
    /// nothing was left.
    /// </summary>
    public DateTimeOffset? CutAt { get; private set; }

    /// <summary>The next moment that matters; null when only events from outside do.</summary>
    public DateTimeOffset? NextDue
    {
        get
        {
            if (CutAt is { } cut)
                return cut;
            while (_timers.TryPeek(out var step, out var due))
            {
                if (IsDue(step, due))
                    return due < LateAt || LateAt is null ? due : LateAt;
                _timers.Dequeue();
            }
            return LateAt;
        }
    }

    // While the run is paused, what would begin something new is left out; it is put back when the run continues.
    bool IsDue(StepState step, DateTimeOffset due)
    {
        if (step.IsSettled)
            return false;
        var paused = IsPaused && !step.Scope.IsHandler;
        return (step.Due == due && !(paused && step.Phase is StepPhase.Resting or StepPhase.Held))
            || (step.Repeat?.Next == due && !paused);
    }

    /// <summary>The step whose moment has come; null when it is the run's own.</summary>
    internal StepState? TakeDue(DateTimeOffset due) =>
        _timers.TryPeek(out _, out var first) && first == due ? _timers.Dequeue() : null;

    internal Chain? ChainOf(string release) => _chains?.Invoke(release);

    /// <summary>The step instance of a path, or null.</summary>
    public StepState? Find(string path)
    {
        // Most paths are those of the chain's own steps.
        if (Root.Find(path) is { } own)
            return own;
        var scope = Root;
        StepState? step = null;
        var last = default(StepPath.Part);
        foreach (var part in new StepPath(path).Parts)
        {
            last = part;
            if (part.IsHandler)
            {
                scope = HandlerScope(part.Text);
                continue;
            }
            if (step is not null && scope is null)
                return null;
            step = scope?.Find(part.Name);
            scope =
                step is null ? null
                : part.Index is { } index ? IterationOf(step, index)
                : step.Inner;
        }
        // The path of an iteration is that of a scope.
        return last.Index is null ? step : null;
    }

    ScopeState? HandlerScope(string path) => _handlers.Find(h => h.Scope.Path == path)?.Scope;

    /// <summary>
    /// An iteration, counted from 0, or a round, counted from 1; null when there is none of that number.
    /// </summary>
    static ScopeState? IterationOf(StepState owner, int index) =>
        owner.Each is { } each
            ? index >= 0 && index < each.Opened.Length
                ? each.Opened[index]
                : null
            : owner.Repeat is { } repeat && index >= 1 && index <= repeat.Opened.Count
                ? repeat.Opened[index - 1]
                : null;

    /// <summary>The scope of a path that events name.</summary>
    /// <exception cref="InvalidOperationException">There is none.</exception>
    public ScopeState FindScope(string path) =>
        FindScopeOrNull(path)
        ?? throw new InvalidOperationException($"the journal names a scope that is not there: {path}");

    /// <summary>
    /// The scope of a path: empty for the chain's own, <c>depots[2]</c> for an iteration; null when there is none.
    /// </summary>
    public ScopeState? FindScopeOrNull(string path)
    {
        if (path.Length == 0)
            return Root;
        if (HandlerScope(path) is { } handler)
            return handler;
        var named = new StepPath(path);
        var owner = Find(named.Owner.Text);
        return owner is null ? null
            : named.Index is { } index ? IterationOf(owner, index)
            : owner.Inner;
    }

    /// <summary>All step instances there are, outer before inner, those of handlers last.</summary>
    public IEnumerable<StepState> AllSteps =>
        _handlers.Aggregate(StepsOf(Root), (all, h) => all.Concat(StepsOf(h.Scope)));

    static IEnumerable<StepState> StepsOf(ScopeState scope)
    {
        foreach (var step in scope.Steps)
        {
            yield return step;
            foreach (var inner in step.InnerScopes)
            {
                foreach (var deeper in StepsOf(inner))
                    yield return deeper;
            }
        }
    }

    /// <summary>
    /// The innermost steps whose failure counts for the run. What a container tolerated or got over does not.
    /// </summary>
    public IEnumerable<StepState> Failures => FailuresIn(Root);

    /// <summary>The innermost steps whose failure counts for a scope.</summary>
    internal static IEnumerable<StepState> FailuresIn(ScopeState scope) =>
        scope
            .Steps.Where(s => s.IsCountedFailure)
            .SelectMany(s =>
                s.InnerScopes.Any(i => i.CountedFailures > 0) ? s.InnerScopes.SelectMany(FailuresIn) : [s]
            );

    // What all values had when they were measured last, and what has come since; null before the first time.
    long? _size;

    /// <summary>Whether a run's values may grow by another one; see <see cref="Bounds.RunSize"/>.</summary>
    internal bool HasRoomFor(long size, long most)
    {
        if (size > most)
            return false;
        if ((_size ??= Measure()) + size > most && (_size = Measure()) + size > most)
            return false;
        _size += size;
        return true;
    }

    // Gone through only when the room seems to be used up: resets may have given some back.
    long Measure() =>
        Value.Map(Params).Size
        + Profile.Size
        + _assignments.Sum(a => a.Value.Size)
        + AllSteps.Sum(s =>
            s.Outputs.Size
            + s.Inputs.Size
            + (s.Each is { } each ? each.Items.Sum(i => i.Size) + each.Iterations.Sum(i => i?.Collected?.Size ?? 0) : 0)
        );

    /// <summary>Folds a whole journal.</summary>
    /// <param name="id">The run's number.</param>
    /// <param name="chain">The chain of its first leg.</param>
    /// <param name="journal">Its decisions, in order.</param>
    /// <param name="chains">Gives the chain of a release, for legs that moved to another one.</param>
    public static RunState Fold(
        long id,
        Chain chain,
        IEnumerable<Decision> journal,
        Func<string, Chain?>? chains = null
    )
    {
        var state = new RunState(id, chain, chains);
        foreach (var decision in journal)
            state.Add(decision);
        return state;
    }

    /// <summary>Folds one more decision of the journal.</summary>
    public void Add(Decision decision)
    {
        foreach (var e in decision.Events)
            Apply(e, decision.At);
    }
}

/// <summary>
/// What a try does with a step: what its gates say, start it whatever they say, take it as it ended elsewhere, skip it.
/// </summary>
enum Part
{
    Done,
    Begun,
    Taken,
    LeftOut,
}
