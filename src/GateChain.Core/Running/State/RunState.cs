using GateChain.Core.Chains;
using GateChain.Core.Running.Events;
using GateChain.Core.Values;

namespace GateChain.Core.Running.State;

/// <summary>
/// The state of one run: the fold of its events over its chain. Not thread-safe; one mailbox owns it.
/// </summary>
public sealed partial class RunState
{
    readonly PriorityQueue<StepState, DateTimeOffset> _timers = new();
    readonly List<AttemptRecord> _attempts = [];
    readonly Dictionary<string, int> _successes = [];
    readonly List<RunWarned> _warnings = [];
    readonly List<(StepState? By, ScopeState Scope, string Name, Value Value)> _assignments = [];

    public RunState(long id, Chain chain)
    {
        (Id, Chain) = (id, chain);
        Root = new(chain.Root, null, -1, Value.Null);
    }

    public long Id { get; }
    public string Uid { get; private set; } = "";
    public Chain Chain { get; }
    public ScopeState Root { get; }

    /// <summary>0 before the first decision.</summary>
    public int Leg { get; private set; }

    public string Release { get; private set; } = "";
    public string By { get; private set; } = "";
    public DictionaryMap Params { get; private set; } = DictionaryMap.Empty;
    public Value Profile { get; private set; } = Value.EmptyMap;
    public DateTimeOffset? Started { get; private set; }
    public DateTimeOffset? Ended { get; private set; }
    public Outcome? Outcome { get; private set; }
    public Value Outputs { get; private set; } = Value.EmptyMap;
    public StepError? Error { get; private set; }
    public StopAsked? Stop { get; private set; }

    /// <summary>
    /// Names one piece of work: the same after a crash, a retry or a resume, another one once it has succeeded.
    /// Kinds write it into other databases as their mark.
    /// </summary>
    public string WorkKey(StepState step) => WorkKeySource(step)();

    /// <summary>Makes the work key later and on any thread, as it is now.</summary>
    public Func<string> WorkKeySource(StepState step)
    {
        var (uid, path, successes) = (Uid, step.Path, _successes.GetValueOrDefault(step.Path));
        return () => $"{uid}/{path}/{successes}";
    }

    /// <summary>The attempts of all legs, in the order they began.</summary>
    public IReadOnlyList<AttemptRecord> Attempts => _attempts;

    public IReadOnlyList<RunWarned> Warnings => _warnings;
    public IReadOnlyList<LegStarted> Resumes { get; private set; } = [];
    public bool IsStopping => Stop is not null;
    public bool HasEnded => Outcome is not null;

    /// <summary>The word of the vocabulary for its state.</summary>
    public string Word => Outcome?.ToString().ToLowerInvariant() ?? "running";

    /// <summary>The next moment that matters; null when only events from outside do.</summary>
    public DateTimeOffset? NextDue
    {
        get
        {
            while (_timers.TryPeek(out var step, out var due))
            {
                if (step.Due == due && !step.IsSettled) { return due; }
                _timers.Dequeue();
            }
            return null;
        }
    }

    internal StepState TakeDue() => _timers.Dequeue();

    /// <summary>The step instance of a path, or null.</summary>
    public StepState? Find(string path)
    {
        // Most paths are those of the chain's own steps.
        if (Root.Find(path) is { } own) { return own; }
        var scope = Root;
        StepState? step = null;
        foreach (var part in path.Split('/'))
        {
            if (step is not null && scope is null) { return null; }
            var bracket = part.IndexOf('[', StringComparison.Ordinal);
            step = scope?.Find(bracket < 0 ? part : part[..bracket]);
            scope = step is null ? null : bracket < 0 ? step.Inner : IterationOf(step, part[(bracket + 1)..].TrimEnd(']'));
        }
        return step;
    }

    static ScopeState? IterationOf(StepState step, string index) =>
        int.TryParse(index, out var i) && step.Each is { } each && i >= 0 && i < each.Opened.Length ? each.Opened[i] : null;

    internal ScopeState FindScope(string path)
    {
        if (path.Length == 0) { return Root; }
        var bracket = path.EndsWith(']') ? path.LastIndexOf('[') : -1;
        var owner = Find(bracket < 0 ? path : path[..bracket]);
        return (bracket < 0 ? owner?.Inner : owner is null ? null : IterationOf(owner, path[(bracket + 1)..^1]))
            ?? throw new InvalidOperationException($"the journal names a scope that is not there: {path}");
    }

    /// <summary>All step instances there are, outer before inner.</summary>
    public IEnumerable<StepState> AllSteps => StepsOf(Root);

    static IEnumerable<StepState> StepsOf(ScopeState scope)
    {
        foreach (var step in scope.Steps)
        {
            yield return step;
            foreach (var inner in step.InnerScopes)
            {
                foreach (var deeper in StepsOf(inner)) { yield return deeper; }
            }
        }
    }

    /// <summary>The steps whose own failure counts: the innermost ones.</summary>
    public IEnumerable<StepState> Failures =>
        AllSteps.Where(s => s.IsCountedFailure && !s.InnerScopes.Any(i => i.CountedFailures > 0));

    /// <summary>Folds a whole journal.</summary>
    public static RunState Fold(long id, Chain chain, IEnumerable<Decision> journal)
    {
        var state = new RunState(id, chain);
        foreach (var decision in journal)
        {
            foreach (var e in decision.Events) { state.Apply(e, decision.At); }
        }
        return state;
    }
}
