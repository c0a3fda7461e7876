using GateChain.Core.Chains;
using GateChain.Core.Running.Events;
using GateChain.Core.Values;

namespace GateChain.Core.Running.State;

/// <summary>Where a step instance is in its life.</summary>
public enum StepPhase { Pending, Held, Queued, Running, Resting, Paused, Settled }

/// <summary>One instance of a step: in an <c>each</c> there is one per iteration. Changed only by the fold.</summary>
public sealed class StepState(Step step, ScopeState scope)
{
    string? _path;

    public Step Step { get; } = step;
    public ScopeState Scope { get; } = scope;

    /// <summary>For example <c>depots[2]/load</c>.</summary>
    public string Path => _path ??= Scope.Path.Length == 0 ? Step.Id : $"{Scope.Path}/{Step.Id}";

    public StepPhase Phase { get; internal set; }
    public Outcome Outcome { get; internal set; }
    public Value Outputs { get; internal set; } = Value.EmptyMap;
    public Value Inputs { get; internal set; } = Value.EmptyMap;
    public StepError? Error { get; internal set; }
    public string? Note { get; internal set; }
    public IReadOnlyList<string> Warnings { get; internal set; } = [];
    public IReadOnlyList<BranchLook> Looks { get; internal set; } = [];

    /// <summary>The number of the latest attempt in this leg; 0 before the first.</summary>
    public int Attempt { get; internal set; }

    /// <summary>Failed attempts in this leg that led to another one.</summary>
    public int Retries { get; internal set; }

    /// <summary>Attempts in this leg that were lost to crashes.</summary>
    public int Lost { get; internal set; }

    public DateTimeOffset? Started { get; internal set; }
    public DateTimeOffset? Ended { get; internal set; }

    /// <summary>When a wait or a rest ends, or a timeout strikes.</summary>
    public DateTimeOffset? Due { get; internal set; }

    /// <summary>The leg in which it settled, or began.</summary>
    public int Leg { get; internal set; }

    public CancelReason Cancel { get; internal set; }
    public bool SkipInLeg { get; internal set; }

    /// <summary>Outputs given by hand, with which it settles in this leg instead of working.</summary>
    public Value? SettleInLeg { get; internal set; }

    /// <summary>What its guard saw and does; null before its first look.</summary>
    public HoldState? Hold { get; internal set; }

    /// <summary>What was last decided about it while it paused the run; null when nothing was.</summary>
    public (PauseAnswer Answer, string By, DateTimeOffset At)? Answered { get; internal set; }

    /// <summary>The child run of a call; null while there is none.</summary>
    public ChildState? Child { get; internal set; }

    /// <summary>The latest attempt.</summary>
    public AttemptRecord? Record { get; internal set; }

    /// <summary>The scope of an open group.</summary>
    public ScopeState? Inner { get; internal set; }

    /// <summary>The iterations of an open each.</summary>
    public EachState? Each { get; internal set; }

    /// <summary>The rounds of an open repeat.</summary>
    public RepeatState? Repeat { get; internal set; }

    /// <summary>For a container or call that an earlier leg had begun: whether it goes on with what is settled in it when its turn comes.</summary>
    internal bool GoesOn { get; set; }

    internal int OpenGates, ShutGates;

    public bool IsSettled => Phase == StepPhase.Settled;
    public bool IsAbsorbed => IsSettled && Outcome == Outcome.Failed && Step.IfFails == FailureRule.Absorb;
    public bool IsCountedFailure => IsSettled && Outcome == Outcome.Failed && Step.IfFails != FailureRule.Absorb;

    /// <summary>Whether work outside of the machine is going on for it.</summary>
    public bool IsInFlight => Phase == StepPhase.Running && !Step.Kind.IsControl;

    /// <summary>The scopes inside, those of iterations in order.</summary>
    public IEnumerable<ScopeState> InnerScopes =>
        Inner is not null ? [Inner] : Each is not null ? Each.Iterations.OfType<ScopeState>() : Repeat?.Rounds ?? [];

    /// <summary>Whether it is held by its guard and the guard is taking a look.</summary>
    public bool IsLooking => Phase == StepPhase.Held && Hold!.Looks != (Hold.Latest?.Look ?? 0);

    /// <summary>The word of the vocabulary for its state.</summary>
    public string Word => Phase switch
    {
        StepPhase.Settled => Outcome.ToString().ToLowerInvariant(),
        _ => Phase.ToString().ToLowerInvariant(),
    };

    /// <summary>Takes over how another release's step of the same path fared; what is inside is carried over apart.</summary>
    internal void Take(StepState other)
    {
        (Phase, Outcome, Outputs, Inputs, Error, Note, Warnings, Looks) = (other.Phase, other.Outcome, other.Outputs, other.Inputs, other.Error, other.Note, other.Warnings, other.Looks);
        (Attempt, Retries, Lost, Started, Ended, Leg, Record) = (other.Attempt, other.Retries, other.Lost, other.Started, other.Ended, other.Leg, other.Record);
        (Hold, Answered, Child, GoesOn) = (other.Hold, other.Answered, other.Child, other.GoesOn);
    }

    internal void Save(SnapshotWriter to)
    {
        // Most steps of a long run have either not begun or are through without anything to tell.
        var plain = Phase is StepPhase.Pending or StepPhase.Settled && Error is null && Note is null && Warnings.Count == 0 && Looks.Count == 0 && Hold is null && Answered is null && Child is null
            && Due is null && !SkipInLeg && SettleInLeg is null && Inner is null && Each is null && Repeat is null && !GoesOn && Retries == 0 && Lost == 0 && Cancel == CancelReason.None;
        to.Int((int)Phase * 2 + (plain ? 1 : 0));
        to.Int((int)Outcome);
        to.Value(Outputs);
        to.Value(Inputs);
        to.Int(Attempt);
        to.Int(Leg);
        to.Time(Started);
        to.Time(Ended);
        to.Int(Record?.Number ?? 0);
        to.Int(OpenGates);
        to.Int(ShutGates);
        if (plain) { return; }
        to.Error(Error);
        to.Text(Note, true);
        to.Int(Warnings.Count);
        foreach (var warning in Warnings) { to.Text(warning); }
        to.Int(Looks.Count);
        foreach (var look in Looks)
        {
            to.Text(look.Branch);
            to.Bool(look.Taken);
            to.Parts(look.Parts);
        }
        to.Time(Due);
        to.Int(Retries);
        to.Int(Lost);
        to.Int((int)Cancel);
        to.Bool(SkipInLeg);
        to.Bool(GoesOn);
        to.Value(SettleInLeg);
        to.Bool(Hold is not null);
        Hold?.Save(to);
        to.Int(Answered is { } answered ? (int)answered.Answer : -1);
        if (Answered is { } decided)
        {
            to.Text(decided.By);
            to.Time(decided.At);
        }
        to.Bool(Child is not null);
        if (Child is { } child)
        {
            to.Long(child.Run);
            to.Int(child.Leg);
            to.Bool(child.ToResume);
        }
        to.Int(Inner is not null ? 1 : Each is not null ? 2 : Repeat is not null ? 3 : 0);
        Inner?.Save(to);
        Each?.Save(to);
        Repeat?.Save(to);
    }

    internal void Restore(SnapshotReader from, IReadOnlyList<AttemptRecord> records)
    {
        var phase = from.Int();
        (Phase, Outcome, Outputs, Inputs) = ((StepPhase)(phase / 2), (Outcome)from.Int(), from.Value()!.Value, from.Value()!.Value);
        (Attempt, Leg, Started, Ended) = (from.Int(), from.Int(), from.Time(), from.Time());
        Record = from.Int() is > 0 and var number ? records[number - 1] : null;
        (OpenGates, ShutGates) = (from.Int(), from.Int());
        if (phase % 2 == 1) { return; }
        (Error, Note) = (from.Error(), from.TextOrNull());
        var warnings = new List<string>();
        for (var left = from.Int(); left > 0; left--) { warnings.Add(from.Text()); }
        var looks = new List<BranchLook>();
        for (var left = from.Int(); left > 0; left--) { looks.Add(new(from.Text(), from.Bool(), from.Parts())); }
        (Warnings, Looks) = (warnings, looks);
        (Due, Retries, Lost, Cancel) = (from.Time(), from.Int(), from.Int(), (CancelReason)from.Int());
        (SkipInLeg, GoesOn, SettleInLeg) = (from.Bool(), from.Bool(), from.Value());
        if (from.Bool()) { Hold = HoldState.Restore(from, Path); }
        if (from.Int() is >= 0 and var answer) { Answered = ((PauseAnswer)answer, from.Text(), from.Time()!.Value); }
        if (from.Bool()) { Child = new(from.Long(), from.Int(), from.Bool()); }
        switch (from.Int())
        {
            case 1:
                Inner = new(Step.Inner!, this, -1, Value.Null);
                Inner.Restore(from, records);
                break;
            case 2: Each = EachState.Restore(from, this, records); break;
            case 3: Repeat = RepeatState.Restore(from, this, records); break;
            default: break;
        }
    }

    internal void Reset()
    {
        Phase = StepPhase.Pending;
        Outputs = Inputs = Value.EmptyMap;
        (Error, Note, Warnings, Looks) = (null, null, [], []);
        (Attempt, Retries, Lost, Started, Ended, Due) = (0, 0, 0, null, null, null);
        (Cancel, SkipInLeg, SettleInLeg, Inner, Each, Repeat, Record) = (CancelReason.None, false, null, null, null, null, null);
        (Hold, Answered, Child, GoesOn) = (null, null, null, false);
    }

    public override string ToString() => $"{Path} {Word}";
}

/// <summary>What a step's guard saw and does. Changed only by the fold.</summary>
public sealed class HoldState
{
    /// <summary>When it first looked.</summary>
    public required DateTimeOffset Since { get; init; }

    /// <summary>How often it has looked, the look that goes on included.</summary>
    public int Looks { get; internal set; }

    /// <summary>Whether the look that goes on was woken and does not count towards a limit.</summary>
    internal bool Woken { get; set; }

    /// <summary>The settings of the probes of the latest look.</summary>
    public Value Asked { get; internal set; } = Value.EmptyMap;

    /// <summary>What the probes saw last.</summary>
    public Value Probes { get; internal set; } = Value.EmptyMap;

    /// <summary>The latest verdict; null before the first.</summary>
    public GuardLooked? Latest { get; internal set; }

    /// <summary>By rule: when it first held the step, and how many looks that count have done so.</summary>
    internal Dictionary<int, (DateTimeOffset Since, int Times)> ByRule { get; } = [];

    internal void Save(SnapshotWriter to)
    {
        to.Time(Since);
        to.Int(Looks);
        to.Bool(Woken);
        to.Value(Asked);
        to.Value(Probes);
        to.Events(default, Latest is null ? [] : [Latest]);
        to.Int(ByRule.Count);
        foreach (var (rule, (since, times)) in ByRule)
        {
            to.Int(rule);
            to.Time(since);
            to.Int(times);
        }
    }

    internal static HoldState Restore(SnapshotReader from, string path)
    {
        var hold = new HoldState { Since = from.Time() ?? throw new FormatException($"the hold of {path} can't be read"), Looks = from.Int(), Woken = from.Bool(), Asked = from.Value()!.Value, Probes = from.Value()!.Value };
        hold.Latest = from.Events() is [GuardLooked looked] ? looked : null;
        for (var left = from.Int(); left > 0; left--) { hold.ByRule[from.Int()] = (from.Time()!.Value, from.Int()); }
        return hold;
    }
}

/// <summary>The child run of a call.</summary>
/// <param name="Run">Its number.</param>
/// <param name="Leg">Its leg that the call waits for.</param>
/// <param name="ToResume">Whether the call goes on, and nobody has seen to the child yet.</param>
public sealed record ChildState(long Run, int Leg, bool ToResume);

/// <summary>One try of a step, for the timeline and for why.</summary>
public sealed class AttemptRecord(int number, string step, int leg, int attempt, DateTimeOffset started)
{
    /// <summary>Its place among all attempts of the run, from 1; names its log.</summary>
    public int Number { get; } = number;

    public string Step { get; } = step;
    public int Leg { get; } = leg;
    public int Attempt { get; } = attempt;
    public DateTimeOffset Started { get; } = started;
    public DateTimeOffset? Ended { get; internal set; }

    /// <summary><c>running</c>, an outcome's word, or <c>lost</c>.</summary>
    public string Result { get; internal set; } = "running";

    public StepError? Error { get; internal set; }

    /// <summary>When the next attempt was due, if one followed.</summary>
    public DateTimeOffset? RetryAt { get; internal set; }

    internal void Save(SnapshotWriter to)
    {
        to.Text(Step);
        to.Int(Leg);
        to.Int(Attempt);
        to.Time(Started);
        to.Time(Ended);
        to.Text(Result);
        to.Error(Error);
        to.Time(RetryAt);
    }

    internal static AttemptRecord Restore(int number, SnapshotReader from) =>
        new(number, from.Text(), from.Int(), from.Int(), from.Time()!.Value) { Ended = from.Time(), Result = from.Text(), Error = from.Error(), RetryAt = from.Time() };
}
