using GateChain.Core.Chains;
using GateChain.Core.Running.Events;

namespace GateChain.Core.Tests.Running;

/// <summary>
/// The run machine's rules, said a second time and in another way: as what must be true of any journal. It knows the
/// chain and the events, and nothing of the machine. What is broken is named by its rule.
/// </summary>
sealed partial class Specification(Chain chain)
{
    public const string SettlesOnce = "a step settles once per leg",
        GateOnce = "a gate is decided once per leg",
        GateFollowsOutcome = "a gate without expression follows the outcome alone",
        ElseComesLast = "an else gate is decided last, and opens when no gate beside it has",
        GateAfterSource = "a gate is decided when its source has settled",
        StartsReleased = "a step starts only when its join releases it",
        SkippedUnreleased = "a step is skipped by its gates only when its join can't be satisfied",
        AttemptsCount = "attempts are numbered from 1 in each leg",
        RetriesEnd = "retries end at their limit",
        Parallel = "iterations in flight stay within parallel",
        RoundsCount = "rounds are numbered without gaps",
        RoundsEnd = "rounds of one leg end at their limit",
        NothingStartsPaused = "nothing starts while the run is paused",
        NothingStartsStopped = "nothing starts when the run was stopped",
        SuccessIsKept = "what succeeded starts again only when the leg resets it",
        OutcomeFollows = "the run's outcome follows from its steps",
        ContainerFollows = "a container succeeds only when nothing in it failed that counts",
        HoldsEnd = "a guard's hold ends at its limit",
        HandlersFit = "handlers fit the outcome and come in order",
        AssignsOnSuccess = "variables are set by steps that succeed at once",
        NothingAfterEnd = "nothing happens behind the end",
        EndsWhenSettled = "a run ends when all its own steps have settled",
        ChildOfCall = "child runs belong to calls at work",
        CancelHolds = "what a person cancelled settles as they said, and does not begin again",
        IterationCancelHolds = "a cancelled iteration settles as the person said";

    readonly Dictionary<string, Cell> _cells = [];
    readonly Dictionary<(string Scope, int Gate), bool> _gates = [];
    readonly HashSet<(string Scope, int Gate)> _gatesInError = [];
    readonly Dictionary<string, int> _inFlight = [];
    readonly Dictionary<string, int> _roundsInLeg = [];
    readonly HashSet<string> _paused = [];
    readonly Dictionary<string, Outcome> _cancelled = [];
    readonly HashSet<string> _timedOut = [];
    readonly List<Occasion> _handlers = [];
    readonly HashSet<string> _kept = [];
    readonly List<string> _broken = [];
    (string By, string Name)? _assigned;
    bool _stopped,
        _ended,
        _pausedByPerson,
        _crashed;
    RootSettled? _rootEnd;

    sealed class Cell(Step step)
    {
        public Step Step { get; } = step;
        public bool Begun { get; set; }
        public bool Running { get; set; }
        public int Attempts { get; set; }
        public int Retries { get; set; }
        public Outcome? Outcome { get; set; }
        public bool GoesOn { get; set; }
        public Dictionary<int, int> Holds { get; } = [];
        public bool Woken { get; set; }
        public bool Answered { get; set; }
        public bool CountsAsFailure => Outcome == Core.Chains.Outcome.Failed && Step.IfFails != FailureRule.Absorb;
    }

    /// <summary>The rules that a journal breaks, each once, in the order in which it does.</summary>
    public static IReadOnlyList<string> BrokenBy(Chain chain, IEnumerable<RunEvent> events)
    {
        var specification = new Specification(chain);
        foreach (var e in events)
            specification.See(e);
        return [.. specification._broken.Distinct()];
    }

    void Must(bool holds, string rule)
    {
        if (!holds)
            _broken.Add(rule);
    }

    static string ScopeOf(string path) => path.LastIndexOf('/') is >= 0 and var slash ? path[..slash] : "";

    // Whether all of the run, or something that it lies in, was asked to end too.
    bool EndsWithAll(string path) =>
        _stopped || _cancelled.Keys.Any(c => IsInside(path, c)) || _timedOut.Any(c => IsInside(path, c));

    Cell At(string path)
    {
        if (!_cells.TryGetValue(path, out var cell))
            _cells[path] = cell = new(Definition(path));
        return cell;
    }

    Step Definition(string path)
    {
        var scope = chain.Root;
        Step? step = null;
        foreach (var part in path.Split('/'))
        {
            var name = part.Split('[')[0];
            if (name[0] == '@')
            {
                scope = chain.Handlers[Enum.Parse<Occasion>(name[1..], ignoreCase: true)];
            }
            else
            {
                step = scope.Find(name)!;
                scope = step.Inner ?? scope;
            }
        }
        return step!;
    }

    static bool IsInside(string path, string owner) =>
        path.StartsWith(owner + "/", StringComparison.Ordinal)
        || path.StartsWith(owner + "[", StringComparison.Ordinal);

    // Everything inside a container that begins again is as if it had never been.
    void Forget(string path, bool itself)
    {
        foreach (var inner in _cells.Keys.Where(p => IsInside(p, path) || (itself && p == path)).ToList())
        {
            _cells.Remove(inner);
            _paused.Remove(inner);
            _cancelled.Remove(inner);
        }
        foreach (var gate in _gates.Keys.Where(g => g.Scope == path || IsInside(g.Scope, path)).ToList())
            _gates.Remove(gate);
        _kept.RemoveWhere(p => IsInside(p, path));
        _inFlight.Remove(path);
        _roundsInLeg.Remove(path);
        if (!itself)
            return;
        foreach (var gate in Definition(path).Outgoing)
            _gates.Remove((ScopeOf(path), gate.Index));
    }

    bool IsReleased(string path, Step step)
    {
        var incoming = step
            .Incoming.Select(g => _gates.TryGetValue((ScopeOf(path), g.Index), out var open) ? open : (bool?)null)
            .ToList();
        var opened = incoming.Count(g => g == true);
        return incoming.Count == 0
            || step.Join.Mode switch
            {
                JoinMode.All => opened == incoming.Count,
                JoinMode.Any => opened > 0,
                JoinMode.Some => opened > 0 && incoming.TrueForAll(g => g is not null),
                _ => opened >= step.Join.Needed,
            };
    }

    void Begins(string path)
    {
        var cell = At(path);
        var handler = path[0] == '@';
        Must(!_stopped || handler, NothingStartsStopped);
        Must(handler || _crashed || !(_pausedByPerson || _paused.Count > 0), NothingStartsPaused);
        if (cell.Begun)
            return;
        Must(
            cell.Outcome is null && (IsReleased(path, cell.Step) || cell.Answered),
            cell.Outcome is null ? StartsReleased : SettlesOnce
        );
        Must(!_kept.Contains(path), SuccessIsKept);
        cell.Begun = true;
    }

    void See(RunEvent e)
    {
        Must(!_ended || e is LegStarted or RecoveryCalledOff, NothingAfterEnd);
        if (_assigned is { } assigned && e is not VariableSet)
        {
            Must(
                e is StepSettled { Outcome: Outcome.Succeeded } settled && settled.Step == assigned.By,
                AssignsOnSuccess
            );
            _assigned = null;
        }
        switch (e)
        {
            case AttemptStarted x:
                Started(x);
                break;
            case AttemptFailed x:
                At(x.Step).Running = false;
                Must(++At(x.Step).Retries <= (At(x.Step).Step.Retry?.Limit ?? 0), RetriesEnd);
                Must(!_cancelled.ContainsKey(x.Step), CancelHolds);
                break;
            case AttemptLost x:
                (At(x.Step).Running, _crashed) = (false, true);
                break;
            case GuardAsked x:
                Begins(x.Step);
                At(x.Step).Woken = x.Woken;
                break;
            case GuardLooked x:
                Looked(x);
                break;
            case StepQueued x:
                Begins(x.Step);
                break;
            case StepPaused x:
                At(x.Step).Running = false;
                _cancelled.Remove(x.Step);
                _paused.Add(x.Step);
                break;
            case PauseAnswered x:
                Answered(x);
                break;
            case PauseAsked:
                _pausedByPerson = true;
                break;
            case IterationOpened x:
                _inFlight[x.Step] = _inFlight.GetValueOrDefault(x.Step) + 1;
                Must(_inFlight[x.Step] <= At(x.Step).Step.Each!.Parallel, Parallel);
                break;
            case IterationSettled x:
                _inFlight[x.Step]--;
                Must(
                    !_cancelled.Remove($"{x.Step}[{x.Index}]", out var said)
                        || x.Outcome == said
                        || EndsWithAll($"{x.Step}[{x.Index}]")
                        || (said == Outcome.Succeeded && x.Error is not null),
                    IterationCancelHolds
                );
                break;
            case RoundOpened x:
                Must(
                    x.Round
                        == _cells
                            .Keys.Where(p => p.StartsWith(x.Step + "[", StringComparison.Ordinal))
                            .Select(p =>
                                int.Parse(
                                    p[(x.Step.Length + 1)..p.IndexOf(']', x.Step.Length)],
                                    System.Globalization.CultureInfo.InvariantCulture
                                )
                            )
                            .DefaultIfEmpty(0)
                            .Max() + 1,
                    RoundsCount
                );
                Must(_roundsInLeg[x.Step] = _roundsInLeg.GetValueOrDefault(x.Step) + 1, At(x.Step).Step.Repeat!.Limit);
                foreach (var inner in At(x.Step).Step.Inner!.Steps)
                    At($"{x.Step}[{x.Round}]/{inner.Id}");
                break;
            case StepCancelled x:
                _cancelled[x.Index is { } index ? $"{x.Step}[{index}]" : x.Step] = x.As;
                break;
            case ChildStarted x:
                Must(At(x.Step) is { Running: true, Step.Call: not null }, ChildOfCall);
                break;
            case ContainerReopened x:
                (At(x.Step).Running, At(x.Step).Begun, At(x.Step).GoesOn, At(x.Step).Attempts) = (true, true, false, 1);
                At(x.Step).Retries = 0;
                break;
            case StepSettled x:
                Settled(x);
                break;
            case GateDecided x:
                Decided(x);
                break;
            case VariableSet x:
                _assigned = (x.By, x.Name);
                break;
            case CancelAsked { Reason: CancelReason.Timeout } x:
                _timedOut.Add(x.Step);
                break;
            case StopAsked:
                _stopped = true;
                break;
            case HandlerOpened x:
                Opened(x);
                break;
            case RootSettled x:
                Ends(x.Outcome, _rootEnd = x);
                break;
            case RunSettled x:
                Ends(x.Outcome, _rootEnd);
                _ended = true;
                break;
            case LegStarted x:
                NextLeg(x);
                break;
            default:
                break;
        }
        _crashed &= e is not GateDecided;
    }

    void Must(int count, int limit) => Must(count <= limit, RoundsEnd);

    void GoesOnInside(IReadOnlyList<string> reset, IReadOnlyList<string> reopened, IReadOnlyList<GateName> undecided)
    {
        foreach (var path in reset)
            Forget(path, itself: true);
        foreach (var path in reopened)
        {
            var cell = At(path);
            if (cell.Running)
                continue;
            (cell.Outcome, cell.Begun, cell.GoesOn, cell.Answered) = (null, false, true, false);
            _paused.Remove(path);
            foreach (var gate in cell.Step.Outgoing)
                _gates.Remove((ScopeOf(path), gate.Index));
        }
        foreach (var gate in undecided)
            _gates.Remove((gate.Scope, gate.Gate));
        foreach (var path in reopened)
            _roundsInLeg[path] = 0;
    }

    void NextLeg(LegStarted e)
    {
        (_ended, _stopped, _pausedByPerson, _rootEnd) = (false, false, false, null);
        _handlers.Clear();
        _kept.Clear();
        GoesOnInside(e.Reset, e.Reopened, e.Undecided);
        foreach (var (path, cell) in _cells)
        {
            // What continues in a paused run, or was about to, counts on.
            (cell.Attempts, cell.Retries) =
                cell.Running || cell.Begun || (cell.Answered && cell.Outcome is null)
                    ? (cell.Attempts, cell.Retries)
                    : (0, 0);
            if (cell.Outcome == Outcome.Succeeded)
                _kept.Add(path);
        }
        foreach (var path in e.Reopened.Where(p => !At(p).Running))
            At(path).Attempts = 1;
        // A round that an earlier leg has begun counts for this one.
        foreach (var path in e.Reopened.Where(p => At(p).Step.Repeat is not null))
            _roundsInLeg[path] = 0;
    }
}
