using System.Diagnostics.CodeAnalysis;
using GateChain.Core.Chains;
using GateChain.Core.Chains.Kinds;
using GateChain.Core.Identity;
using GateChain.Core.Running.Events;
using GateChain.Core.Values;

namespace GateChain.Core.Running.State;

/// <summary>Where a step instance is in its life.</summary>
public enum StepPhase
{
    Pending,
    Held,
    Queued,
    Running,
    Resting,
    Paused,
    Settled,
}

/// <summary>One instance of a step: in an <c>each</c> there is one per iteration. Changed only by the fold.</summary>
public sealed partial class StepState(Step step, ScopeState scope)
{
    /// <summary>What most steps never have: a run may hold very many steps.</summary>
    sealed class RareFields
    {
        public string? Note;
        public string? Leftover;
        public Moment QueuedAt;
        public IReadOnlyList<string>? Warnings;
        public IReadOnlyList<BranchLook>? Looks;
        public Value? SettleInLeg;
        public HoldState? Hold;
        public (PauseAnswer Answer, Actor By, DateTimeOffset At)? Answered;
        public StepCancelled? Cancelled;
        public ChildState? Child;
        public ScopeState? Inner;
        public EachState? Each;
        public RepeatState? Repeat;
    }

    string? _path;
    RareFields? _rare;
    Moment _started,
        _ended,
        _due;

    // To set nothing where there is nothing costs nothing.
    [MemberNotNullWhen(true, nameof(_rare))]
    bool Needs(bool isNothing)
    {
        if (_rare is null && isNothing)
            return false;
        _rare ??= new();
        return true;
    }

    public Step Step { get; } = step;
    public ScopeState Scope { get; } = scope;

    /// <summary>For example <c>depots[2]/load</c>.</summary>
    public string Path => _path ??= Scope.Path.Length == 0 ? Step.Id : $"{Scope.Path}/{Step.Id}";

    public StepPhase Phase { get; internal set; }
    public Outcome Outcome { get; internal set; }
    public Value Outputs { get; internal set; } = Value.EmptyMap;
    public Value Inputs { get; internal set; } = Value.EmptyMap;
    public StepError? Error { get; internal set; }
    public string? Note
    {
        get => _rare?.Note;
        internal set
        {
            if (Needs(value is null))
                _rare.Note = value;
        }
    }

    /// <summary>
    /// What a lost attempt has left behind that can't be ended, and that it waits for; null for nothing.
    /// </summary>
    public string? Leftover
    {
        get => _rare?.Leftover;
        internal set
        {
            if (Needs(value is null))
                _rare.Leftover = value;
        }
    }

    /// <summary>Since when it last waited for its turn in its lane; null when it has not.</summary>
    public DateTimeOffset? QueuedAt
    {
        get => _rare?.QueuedAt;
        internal set
        {
            if (Needs(value is null))
                _rare.QueuedAt = value;
        }
    }

    public IReadOnlyList<string> Warnings
    {
        get => _rare?.Warnings ?? [];
        internal set
        {
            if (Needs(value is []))
                _rare.Warnings = value;
        }
    }

    public IReadOnlyList<BranchLook> Looks
    {
        get => _rare?.Looks ?? [];
        internal set
        {
            if (Needs(value is []))
                _rare.Looks = value;
        }
    }

    /// <summary>The number of the latest attempt in this leg; 0 before the first.</summary>
    public int Attempt { get; internal set; }

    /// <summary>Failed attempts in this leg that led to another one.</summary>
    public int Retries { get; internal set; }

    /// <summary>Attempts in this leg that were lost to crashes.</summary>
    public int Lost { get; internal set; }

    public DateTimeOffset? Started
    {
        get => _started;
        internal set => _started = value;
    }
    public DateTimeOffset? Ended
    {
        get => _ended;
        internal set => _ended = value;
    }

    /// <summary>When a wait or a rest ends, or a timeout strikes.</summary>
    public DateTimeOffset? Due
    {
        get => _due;
        internal set => _due = value;
    }

    /// <summary>The leg in which it settled, or began.</summary>
    public int Leg { get; internal set; }

    /// <summary>Whether the service was about to end, in good order, while it was in flight.</summary>
    public bool IsSuspended { get; internal set; }

    public CancelReason Cancel { get; internal set; }

    /// <summary>Whether it was asked to end, and nothing begins in it any more.</summary>
    public bool IsEnding => Cancel is CancelReason.Stop or CancelReason.Timeout or CancelReason.Person;

    public bool SkipInLeg { get; internal set; }

    /// <summary>Outputs given by hand, with which it settles in this leg instead of working.</summary>
    public Value? SettleInLeg
    {
        get => _rare?.SettleInLeg;
        internal set
        {
            if (Needs(value is null))
                _rare.SettleInLeg = value;
        }
    }

    /// <summary>What its guard saw and does; null before its first look.</summary>
    public HoldState? Hold
    {
        get => _rare?.Hold;
        internal set
        {
            if (Needs(value is null))
                _rare.Hold = value;
        }
    }

    /// <summary>What was last decided about it while it paused the run; null when nothing was.</summary>
    public (PauseAnswer Answer, Actor By, DateTimeOffset At)? Answered
    {
        get => _rare?.Answered;
        internal set
        {
            if (Needs(value is null))
                _rare.Answered = value;
        }
    }

    /// <summary>How a person has said that it ends; null when nobody has.</summary>
    public StepCancelled? Cancelled
    {
        get => _rare?.Cancelled;
        internal set
        {
            if (Needs(value is null))
                _rare.Cancelled = value;
        }
    }

    /// <summary>The child run of a call; null while there is none.</summary>
    public ChildState? Child
    {
        get => _rare?.Child;
        internal set
        {
            if (Needs(value is null))
                _rare.Child = value;
        }
    }

    /// <summary>The latest attempt.</summary>
    public AttemptRecord? Record { get; internal set; }

    /// <summary>The scope of an open group.</summary>
    public ScopeState? Inner
    {
        get => _rare?.Inner;
        internal set
        {
            if (Needs(value is null))
                _rare.Inner = value;
        }
    }

    /// <summary>The iterations of an open each.</summary>
    public EachState? Each
    {
        get => _rare?.Each;
        internal set
        {
            if (Needs(value is null))
                _rare.Each = value;
        }
    }

    /// <summary>The rounds of an open repeat.</summary>
    public RepeatState? Repeat
    {
        get => _rare?.Repeat;
        internal set
        {
            if (Needs(value is null))
                _rare.Repeat = value;
        }
    }

    /// <summary>
    /// For a container or call that an earlier leg had begun: whether it continues with what is settled in it when its
    /// turn comes.
    /// </summary>
    internal bool GoesOn { get; set; }

    internal int OpenGates,
        ShutGates;

    public bool IsSettled => Phase == StepPhase.Settled;
    public bool IsAbsorbed => IsSettled && Outcome == Outcome.Failed && Step.IfFails == FailureRule.Absorb;
    public bool IsCountedFailure =>
        IsSettled
        && Outcome == Outcome.Failed
        && Step.IfFails != FailureRule.Absorb
        && Error is not { Code: StepError.Taken };

    /// <summary>Whether work outside of the machine is continuing for it.</summary>
    public bool IsInFlight => Phase == StepPhase.Running && !Step.Kind.IsControl;

    /// <summary>Whether it is a <c>wait</c> for other runs, not for a moment.</summary>
    public bool WaitsForRuns => Step.Kind.Name == ControlKinds.Wait && Inputs.AsMap.Find("runs") is not null;

    /// <summary>The scopes inside, those of iterations in order.</summary>
    public IEnumerable<ScopeState> InnerScopes =>
        Inner is not null ? [Inner]
        : Each is not null ? Each.Iterations.OfType<ScopeState>()
        : Repeat?.Rounds ?? [];

    /// <summary>Whether it is held by its guard and the guard is taking a look.</summary>
    public bool IsLooking => Phase == StepPhase.Held && Hold!.Looks != (Hold.Latest?.Look ?? 0);

    /// <summary>The word of the vocabulary for its state.</summary>
    public string Word =>
        Phase switch
        {
            StepPhase.Settled => Outcome.Word(),
            _ => Phase.Word(),
        };

    /// <summary>
    /// Takes over how another release's step of the same path fared; what is inside is carried over apart.
    /// </summary>
    internal void Take(StepState other)
    {
        (Phase, Outcome, Outputs, Inputs, Error, Note, Warnings, Looks) = (
            other.Phase,
            other.Outcome,
            other.Outputs,
            other.Inputs,
            other.Error,
            other.Note,
            other.Warnings,
            other.Looks
        );
        (Attempt, Retries, Lost, Started, Ended, Leg, Record) = (
            other.Attempt,
            other.Retries,
            other.Lost,
            other.Started,
            other.Ended,
            other.Leg,
            other.Record
        );
        (Hold, Answered, Cancelled, Child, GoesOn, QueuedAt) = (
            other.Hold,
            other.Answered,
            other.Cancelled,
            other.Child,
            other.GoesOn,
            other.QueuedAt
        );
    }

    internal void Reset()
    {
        Phase = StepPhase.Pending;
        Outputs = Inputs = Value.EmptyMap;
        (Error, Note, Warnings, Looks) = (null, null, [], []);
        (Attempt, Retries, Lost, Started, Ended, Due) = (0, 0, 0, null, null, null);
        (Cancel, SkipInLeg, SettleInLeg, Inner, Each, Repeat, Record) = (
            CancelReason.None,
            false,
            null,
            null,
            null,
            null,
            null
        );
        (Hold, Answered, Cancelled, Child, GoesOn, Leftover, QueuedAt) = (null, null, null, null, false, null, null);
    }

    public override string ToString() => $"{Path} {Word}";
}

/// <summary>The child run of a call.</summary>
/// <param name="Run">Its number.</param>
/// <param name="Leg">Its leg that the call waits for.</param>
/// <param name="ToResume">Whether the call continues, and nobody has seen to the child yet.</param>
public sealed record ChildState(long Run, int Leg, bool ToResume);
