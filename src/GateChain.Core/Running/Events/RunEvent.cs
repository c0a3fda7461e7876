using System.Text.Json.Serialization;
using GateChain.Core.Chains;
using GateChain.Core.Expressions;
using GateChain.Core.Identity;
using GateChain.Core.Values;

namespace GateChain.Core.Running.Events;

/// <summary>
/// Something that happened in a run. Events are only ever added to the journal, never changed; a run's state is
/// their fold. <c>Step</c> is always a step's path, for example <c>depots[2]/load</c>; <c>Scope</c> is a scope's path
/// (empty for the chain's own, <c>depots[2]</c> for an iteration).
/// </summary>
[JsonPolymorphic(TypeDiscriminatorPropertyName = "t")]
[JsonDerivedType(typeof(RunStarted), "run-started")]
[JsonDerivedType(typeof(AttemptStarted), "started")]
[JsonDerivedType(typeof(AttemptFailed), "attempt-failed")]
[JsonDerivedType(typeof(AttemptLost), "attempt-lost")]
[JsonDerivedType(typeof(DecisionCut), "cut")]
[JsonDerivedType(typeof(DecisionContinued), "continued")]
[JsonDerivedType(typeof(LeftoverFound), "leftover")]
[JsonDerivedType(typeof(AttemptSuspended), "suspended")]
[JsonDerivedType(typeof(CancelAsked), "cancel-asked")]
[JsonDerivedType(typeof(StepCancelled), "cancelled")]
[JsonDerivedType(typeof(EachOpened), "each-opened")]
[JsonDerivedType(typeof(IterationOpened), "iteration-opened")]
[JsonDerivedType(typeof(IterationSettled), "iteration-settled")]
[JsonDerivedType(typeof(StepSettled), "settled")]
[JsonDerivedType(typeof(GateDecided), "gate")]
[JsonDerivedType(typeof(VariableSet), "set")]
[JsonDerivedType(typeof(RunWarned), "warned")]
[JsonDerivedType(typeof(StopAsked), "stop-asked")]
[JsonDerivedType(typeof(LegStarted), "leg-started")]
[JsonDerivedType(typeof(RunSettled), "run-settled")]
[JsonDerivedType(typeof(RecoveryCalledOff), "recovery-called-off")]
[JsonDerivedType(typeof(RunReleased), "run-released")]
[JsonDerivedType(typeof(RunLate), "late")]
[JsonDerivedType(typeof(RunEndangered), "endangered")]
[JsonDerivedType(typeof(PauseAsked), "pause-asked")]
[JsonDerivedType(typeof(GuardAsked), "guard-asked")]
[JsonDerivedType(typeof(GuardLooked), "guard-looked")]
[JsonDerivedType(typeof(StepQueued), "queued")]
[JsonDerivedType(typeof(StepPaused), "paused")]
[JsonDerivedType(typeof(PauseAnswered), "answered")]
[JsonDerivedType(typeof(RoundOpened), "round-opened")]
[JsonDerivedType(typeof(RoundSettled), "round-settled")]
[JsonDerivedType(typeof(RoundsRest), "rounds-rest")]
[JsonDerivedType(typeof(ChildStarted), "child-started")]
[JsonDerivedType(typeof(ContainerReopened), "reopened")]
[JsonDerivedType(typeof(HandlerOpened), "handler-opened")]
[JsonDerivedType(typeof(RootSettled), "root-settled")]
public abstract record RunEvent;

/// <summary>An event of one step, or of an iteration or round of it.</summary>
public interface IStepEvent
{
    /// <summary>The path of the step.</summary>
    string Step { get; }
}

/// <param name="Release">The content hash of the chain the run follows.</param>
/// <param name="By">Who started it.</param>
/// <param name="Uid">Names the run beyond this service: marks in other databases bear it.</param>
/// <param name="Queued">Whether it waits for other runs of its chain.</param>
/// <param name="Parent">The call it is a child of.</param>
/// <param name="RestartOf">The run it repeats.</param>
/// <param name="Try">What of the chain it tries; null for a run of all of it.</param>
/// <param name="Home">The address of the service's console when it began; null when nobody knew.</param>
/// <param name="Number">The number of the release; 0 for a draft, null in journals of the first versions.</param>
/// <param name="Area">The folder that its chain lay in.</param>
/// <param name="ProfileName">The profile that its values are of; null when none was named.</param>
/// <param name="Fire">The occasion that it was started for; null when no trigger fired.</param>
/// <param name="BusyKey">What it is busy for, as its chain's <c>busyKey</c> says; null for the whole chain.</param>
/// <param name="Replaces">The runs that it takes the place of; null for none.</param>
/// <param name="Kept">What it took over of what its chain keeps; null for a chain that keeps nothing.</param>
public sealed record RunStarted(
    string Uid,
    string Chain,
    string Release,
    Value Params,
    Value Profile,
    Actor By,
    bool Queued = false,
    ParentLink? Parent = null,
    long? RestartOf = null,
    TryPlan? Try = null,
    string? Home = null,
    int? Number = null,
    [property: JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingDefault)] Area Area = default,
    string? ProfileName = null,
    FireLink? Fire = null,
    string? BusyKey = null,
    IReadOnlyList<long>? Replaces = null,
    KeptStart? Kept = null
) : RunEvent;

/// <summary>The run, or its new leg, had been queued and begins now.</summary>
public sealed record RunReleased : RunEvent;

/// <summary>
/// The decision had become too long, or too big; what it would have continued with follows in the next one.
/// </summary>
public sealed record DecisionCut : RunEvent;

/// <summary>A decision that had been cut continues.</summary>
public sealed record DecisionContinued : RunEvent;

/// <summary>The run takes longer than its chain's <c>dueIn</c>.</summary>
public sealed record RunLate : RunEvent;

/// <summary>The run will probably take longer than it should; it does not yet.</summary>
/// <param name="Due">When it is late.</param>
/// <param name="Expected">When it will be through, as runs before it went.</param>
/// <param name="Runs">From how many runs that is seen.</param>
public sealed record RunEndangered(DateTimeOffset Due, DateTimeOffset Expected, int Runs) : RunEvent
{
    /// <summary>Why it is so, for people.</summary>
    [JsonIgnore]
    public string Sentence =>
        $"as its last {Runs} runs went, it ends about {Expected:yyyy-MM-dd HH:mm} UTC, and is due by {Due:HH:mm}";
}

/// <summary>The ended run will not be resumed by itself.</summary>
public sealed record RecoveryCalledOff(Actor By) : RunEvent;

/// <summary>A person paused the run: what runs, runs to its end, nothing new starts.</summary>
/// <param name="Before">For a run that tries a draft: the path of the step that it was to pause before.</param>
public sealed record PauseAsked(Actor By, string? Message, string? Before = null) : RunEvent;

/// <summary>An attempt began: a kind's work, a wait, or a container that was opened.</summary>
/// <param name="Attempt">From 1 in each leg.</param>
/// <param name="Inputs">The settings with their expressions computed.</param>
/// <param name="Due">When a wait ends or a timeout strikes; null for neither.</param>
public sealed record AttemptStarted(string Step, int Attempt, Value Inputs, DateTimeOffset? Due) : RunEvent, IStepEvent;

/// <summary>An attempt failed and another one follows.</summary>
public sealed record AttemptFailed(string Step, int Attempt, StepError Error, DateTimeOffset RetryAt)
    : RunEvent,
        IStepEvent;

/// <summary>The service is ending in good order, and with it this attempt.</summary>
public sealed record AttemptSuspended(string Step, int Attempt) : RunEvent, IStepEvent;

/// <summary>An attempt was cut off when the service ended.</summary>
/// <param name="Planned">Whether it ended in good order; such an attempt does not count towards
/// <c>crashLimit</c>.</param>
/// <param name="ConfirmedBy">The person who said that what it had started is gone; null when the service saw
/// it.</param>
public sealed record AttemptLost(string Step, int Attempt, bool Planned = false, string? ConfirmedBy = null)
    : RunEvent,
        IStepEvent;

/// <summary>What a lost attempt had started can't be ended: the step waits.</summary>
public sealed record LeftoverFound(string Step, int Attempt, string Why) : RunEvent, IStepEvent;

/// <summary>A step's guard takes a look.</summary>
/// <param name="Look">From 1.</param>
/// <param name="Probes">The settings of its probes, computed, by name.</param>
/// <param name="Woken">Whether something was reported before the time of the next look; such a look does not count
/// towards the limit.</param>
/// <param name="By">The person who asked for it; null when its time had come or something had changed.</param>
public sealed record GuardAsked(string Step, int Look, Value Probes, bool Woken, Actor? By = null)
    : RunEvent,
        IStepEvent;

/// <summary>A guard gave its verdict.</summary>
/// <param name="Probes">What they saw, by name.</param>
/// <param name="Rule">The index of the rule that held.</param>
/// <param name="Parts">What the rules' conditions gave, up to the one that held.</param>
/// <param name="Next">For a hold: when it looks again.</param>
/// <param name="By">The person who asked for the look, or let the step through; null for none.</param>
/// <param name="IsOverruled">Whether the person gave the verdict, and not a rule.</param>
public sealed record GuardLooked(
    string Step,
    int Look,
    Value Probes,
    Verdict Verdict,
    int Rule,
    IReadOnlyList<PartValue> Parts,
    string? Message,
    DateTimeOffset? Next,
    Actor? By = null,
    bool IsOverruled = false
) : RunEvent, IStepEvent;

/// <summary>A step waits for its turn in a lane.</summary>
public sealed record StepQueued(string Step, string Lane) : RunEvent, IStepEvent;

/// <summary>A step failed, and the run pauses for a person to decide.</summary>
public sealed record StepPaused(string Step, StepError Error, Value Outputs) : RunEvent, IStepEvent;

/// <summary>What a person can decide about a step that paused the run.</summary>
/// <remarks>
/// <see cref="Retry"/> of a container or a call continues inside, from what is settled there; <see cref="Anew"/> does
/// all of it again, for a call in a new child.
/// </remarks>
public enum PauseAnswer
{
    Retry,
    Skip,
    Settle,
    Fail,
    Stop,
    Anew,
}

/// <summary>A person has decided about a step that paused the run.</summary>
/// <param name="Inside">For a container or call that is retried: what is done again in it; null for others.</param>
public sealed record PauseAnswered(string Step, PauseAnswer Answer, Actor By, InsidePlan? Inside = null)
    : RunEvent,
        IStepEvent;

/// <summary>How a container or call continues inside.</summary>
/// <param name="Reset">Steps that are done again from nothing.</param>
/// <param name="Reopened">Containers and calls that continue with what is settled in them, the outermost first.</param>
/// <param name="Undecided">Gates in error whose source keeps its outcome; they are decided again.</param>
public sealed record InsidePlan(
    IReadOnlyList<string> Reset,
    IReadOnlyList<string> Reopened,
    IReadOnlyList<GateName> Undecided
);

public sealed record EachOpened(string Step, Value Items) : RunEvent, IStepEvent;

public sealed record IterationOpened(string Step, int Index) : RunEvent, IStepEvent;

/// <param name="Collected">What <c>collect</c> gave; only for succeeded iterations.</param>
/// <param name="Error">Why it failed, when no step inside did.</param>
public sealed record IterationSettled(string Step, int Index, Outcome Outcome, Value? Collected, string? Error)
    : RunEvent,
        IStepEvent;

/// <param name="Round">From 1.</param>
public sealed record RoundOpened(string Step, int Round) : RunEvent, IStepEvent;

/// <param name="Parts">What the condition looked at gave; empty when none was.</param>
public sealed record RoundSettled(string Step, int Round, Outcome Outcome, IReadOnlyList<PartValue> Parts)
    : RunEvent,
        IStepEvent;

/// <summary>The next round begins later.</summary>
public sealed record RoundsRest(string Step, DateTimeOffset Until) : RunEvent, IStepEvent;

/// <summary>A call's child run is going.</summary>
/// <param name="Leg">The child's leg that the call waits for.</param>
public sealed record ChildStarted(string Step, int Attempt, long Run, int Leg) : RunEvent, IStepEvent;

/// <summary>A container or call that an earlier leg had begun continues with what is settled in it.</summary>
/// <param name="Inputs">For a call: its inputs as they are now.</param>
public sealed record ContainerReopened(string Step, Value? Inputs, DateTimeOffset? Due) : RunEvent, IStepEvent;

/// <summary>A handler's steps begin.</summary>
/// <param name="Number">From 1 over all handlers of the run; names the instance: <c>@failure[1]</c>.</param>
/// <param name="Error">What its expressions see as <c>error</c>.</param>
public sealed record HandlerOpened(Occasion Occasion, int Number, StepError? Error) : RunEvent;

/// <summary>All of the chain's own steps are through; handlers follow before the run settles.</summary>
public sealed record RootSettled(Outcome Outcome, Value Outputs, StepError? Error) : RunEvent;

/// <param name="Note">Why it settled without an attempt of its own, for example “disabled”.</param>
/// <param name="Looks">For a decide step: the branches it looked at.</param>
public sealed record StepSettled(
    string Step,
    Outcome Outcome,
    Value Outputs,
    StepError? Error = null,
    string? Note = null,
    IReadOnlyList<string>? Warnings = null,
    IReadOnlyList<BranchLook>? Looks = null
) : RunEvent, IStepEvent;

/// <param name="Gate">Its index in the scope.</param>
/// <param name="Reason">What its expression gave; null when the outcome alone decided.</param>
public sealed record GateDecided(string Scope, int Gate, bool Open, GateReason? Reason) : RunEvent;

/// <param name="By">The path of the step that assigned it.</param>
public sealed record VariableSet(string Scope, string Name, Value Value, string By) : RunEvent;

public sealed record RunWarned(string Step, string Message) : RunEvent, IStepEvent;

/// <param name="Outcome">What the run ends as; a <c>stop</c> step may say succeeded or failed.</param>
public sealed record StopAsked(Actor By, string? Message, Outcome Outcome = Outcome.Stopped) : RunEvent;

/// <param name="Leg">Its number; the first resume begins leg 2.</param>
/// <param name="Params">Parameters that were overridden.</param>
/// <param name="Vars">Variables of the chain that were overridden.</param>
/// <param name="Reset">Steps that are done again from nothing.</param>
/// <param name="Reopened">Containers that continue with what is settled in them.</param>
/// <param name="Skip">Steps that are passed over instead of being done again.</param>
/// <param name="Settle">Steps that are settled as succeeded instead, with the outputs given.</param>
/// <param name="Undecided">Gates in error from steps that keep their outcome; they are decided again.</param>
/// <param name="Redo">Those of <paramref name="Reset"/> that are done again for others only: they had succeeded, and
/// <c>onResume</c> is <c>redo</c>.</param>
/// <param name="From">The steps that were named, as far as they lie in child runs.</param>
/// <param name="Release">The content hash of the chain the run follows from here on; null when it stays.</param>
/// <param name="Automatic">Whether the chain's <c>recover</c> asked for it.</param>
/// <param name="Queued">Whether it waits for other runs of its chain.</param>
/// <param name="Number">The number of <paramref name="Release"/>; 0 for a draft.</param>
public sealed record LegStarted(
    int Leg,
    Actor By,
    Value Params,
    Value Vars,
    IReadOnlyList<string> Reset,
    IReadOnlyList<string> Reopened,
    IReadOnlyList<string> Skip,
    IReadOnlyDictionary<string, Value> Settle,
    IReadOnlyList<GateName> Undecided,
    IReadOnlyList<string> Redo,
    IReadOnlyList<string> From,
    string? Release = null,
    bool Automatic = false,
    bool Queued = false,
    int? Number = null
) : RunEvent
{
    // Journals of the first version do not have these three.
    public IReadOnlyDictionary<string, Value> Settle { get; init; } = Settle ?? new Dictionary<string, Value>();
    public IReadOnlyList<string> Redo { get; init; } = Redo ?? [];
    public IReadOnlyList<string> From { get; init; } = From ?? [];
}

/// <param name="ResumeAt">When the run is resumed by itself; null for not.</param>
public sealed record RunSettled(Outcome Outcome, Value Outputs, StepError? Error, DateTimeOffset? ResumeAt = null)
    : RunEvent;

/// <param name="Code">A short stable word such as <c>timeout</c>, <c>exit-code</c>, <c>expression</c>.</param>
/// <param name="Message">One sentence for people.</param>
/// <param name="Detail">More, over several lines, when there is more to tell.</param>
/// <param name="Origin">The deepest step that failed, when this failure comes from inside of a container or a child
/// run.</param>
public sealed record StepError(string Code, string Message, string? Detail = null, FailureOrigin? Origin = null)
{
    /// <summary>The code of a failure that a try took over from an earlier run: it does not count.</summary>
    internal const string Taken = "taken";
}

/// <param name="Parts">The expression's parts and their values.</param>
/// <param name="Error">Why the expression gave no bool.</param>
public sealed record GateReason(IReadOnlyList<PartValue> Parts, string? Error = null);

/// <summary>The step that a failure began with.</summary>
/// <param name="Run">The number of its run: this one, or a child's.</param>
/// <param name="Step">Its path there.</param>
/// <param name="Message">Why it failed.</param>
/// <param name="Item">What the innermost loop was at, as people call it; null outside of loops.</param>
/// <param name="Way">The calls that lead to its run, outermost first, with <c> › </c> between them; null when it is a
/// step of the run itself.</param>
public sealed record FailureOrigin(
    long Run,
    string Chain,
    string Step,
    string Message,
    string? Item = null,
    string? Way = null
)
{
    /// <summary>The same failure, seen from the run whose call leads to it.</summary>
    public FailureOrigin Through(string call) => this with { Way = Way is null ? call : $"{call} › {Way}" };

    /// <summary>The step with its place, and why it failed; for a step of a child run the way there too.</summary>
    [JsonIgnore]
    public string Sentence
    {
        get
        {
            var step = Item is null ? Step : $"{Step} (“{Item}”)";
            return Way is null
                ? $"{step}: {Message}"
                : $"step {step} of run {Run} ({Chain}): {Message.TrimEnd('.')} (by way of {Way})";
        }
    }
}

public sealed record BranchLook(string Branch, bool Taken, IReadOnlyList<PartValue> Parts);

/// <summary>The call that a run is a child of.</summary>
/// <param name="Attempt">The number of the call's attempt among all attempts of its run.</param>
/// <param name="Depth">How many runs are above it, from 1.</param>
/// <param name="Tried">Whether the topmost of them is the try of a draft.</param>
/// <param name="Trace">What the call's attempt shows of the trace that it belongs to.</param>
public sealed record ParentLink(
    long Run,
    string Step,
    int Attempt,
    int Depth,
    bool Tried = false,
    string? Trace = null
);

public sealed record GateName(string Scope, int Gate);
