using GateChain.Core.Chains;
using GateChain.Core.Identity;
using GateChain.Core.Running.Events;
using GateChain.Core.Values;

namespace GateChain.Core.Running;

/// <summary>Something from outside that a run has to react to. The moment travels with it.</summary>
public abstract record RunInput(DateTimeOffset At);

/// <summary>Begins the run; its first input.</summary>
public sealed record StartInput(
    DateTimeOffset At,
    string Uid,
    string Release,
    IReadOnlyDictionary<string, Value> Params,
    Value Profile,
    Actor By
) : RunInput(At)
{
    /// <summary>Whether it has to wait for other runs of its chain.</summary>
    public bool Queued { get; init; }

    /// <summary>The number of the release; 0 for a draft.</summary>
    public int Number { get; init; }

    /// <summary>The folder that the chain lies in.</summary>
    public Area Area { get; init; }

    /// <summary>The profile that the values are of; null when none was named.</summary>
    public string? ProfileName { get; init; }

    public ParentLink? Parent { get; init; }
    public long? RestartOf { get; init; }

    /// <summary>For a run that tries a draft: what of it is done; null for all.</summary>
    public TryPlan? Try { get; init; }

    /// <summary>The address of the service's console; null when nobody knows.</summary>
    public string? Home { get; init; }

    /// <summary>The occasion that it is started for; null when no trigger fired.</summary>
    public FireLink? Fire { get; init; }

    /// <summary>What it takes over of what its chain keeps; null for a chain that keeps nothing.</summary>
    public KeptStart? Kept { get; init; }

    /// <summary>What it is busy for; null for the whole chain.</summary>
    public string? BusyKey { get; init; }

    /// <summary>The runs that it takes the place of: they are stopped.</summary>
    public IReadOnlyList<long> Replaces { get; init; } = [];
}

/// <summary>The runs that a queued one waited for have ended.</summary>
public sealed record ReleaseInput(DateTimeOffset At) : RunInput(At);

/// <summary>The probes of a guard's look were taken.</summary>
/// <param name="Probes">What they saw: a map by name.</param>
public sealed record ProbesTakenInput(DateTimeOffset At, string Step, int Look, Value Probes) : RunInput(At);

/// <summary>Something that a held step's probes look at has changed.</summary>
public sealed record WakeInput(DateTimeOffset At, string Step) : RunInput(At);

/// <summary>It is a queued step's turn in its lane.</summary>
public sealed record LaneInput(DateTimeOffset At, string Step) : RunInput(At);

/// <summary>A call's child run has begun, or continues.</summary>
public sealed record ChildStartedInput(DateTimeOffset At, string Step, int Attempt, long Run, int Leg) : RunInput(At);

/// <summary>A call's child run has ended, or could not be started.</summary>
/// <param name="Run">Its number; null when it could not be started.</param>
/// <param name="Absent">Of its outputs that it did not give: why, a sentence each that begins with <c>output
/// “name”</c>.</param>
public sealed record ChildEndedInput(
    DateTimeOffset At,
    string Step,
    long? Run,
    Outcome Outcome,
    Value Outputs,
    StepError? Error,
    IReadOnlyList<string>? Absent = null
) : RunInput(At);

/// <summary>The runs that a wait step waits for have ended, or can't be waited for.</summary>
public sealed record RunsEndedInput(DateTimeOffset At, string Step, int Attempt, AttemptResult Result) : RunInput(At);

/// <summary>Pauses the run.</summary>
public sealed record PauseInput(DateTimeOffset At, Actor By, string? Message) : RunInput(At);

/// <summary>Decides about a step that paused the run.</summary>
/// <param name="Outputs">For <see cref="PauseAnswer.Settle"/>: a map.</param>
/// <param name="Message">Why; shown with the step, or with the run when it is stopped.</param>
public sealed record AnswerInput(
    DateTimeOffset At,
    string Step,
    PauseAnswer Answer,
    Actor By,
    Value Outputs,
    string? Message = null
) : RunInput(At);

/// <summary>What a person can ask of a step that its guard holds.</summary>
public enum HoldAnswer
{
    /// <summary>It goes on as if its guard had said proceed.</summary>
    LetThrough,

    /// <summary>Its guard looks at once, whatever was planned; such a look does not count towards the limit.</summary>
    Look,
}

/// <summary>A person lets a held step through, or asks its guard to look now.</summary>
/// <param name="Message">Why; shown with the step.</param>
public sealed record HoldInput(DateTimeOffset At, string Step, HoldAnswer Answer, Actor By, string? Message = null)
    : RunInput(At);

/// <summary>A person ends one step, or one iteration of a loop; the rest of the run goes on.</summary>
/// <param name="Step">The path of a step that is held, queued, resting or running, or of an iteration.</param>
/// <param name="As">What it settles as: failed (without another attempt), skipped, or succeeded.</param>
/// <param name="Outputs">For succeeded: a map; of an iteration, what it gives as <c>collected</c>.</param>
/// <param name="Message">Why; shown with the step.</param>
public sealed record CancelInput(
    DateTimeOffset At,
    string Step,
    Outcome As,
    Actor By,
    Value Outputs,
    string? Message = null
) : RunInput(At);

/// <summary>The work of an attempt ended.</summary>
public sealed record AttemptEndedInput(DateTimeOffset At, string Step, int Attempt, AttemptResult Result)
    : RunInput(At);

/// <summary>As runs before it went, the run will not be through when it is due.</summary>
/// <param name="Expected">When it will be.</param>
/// <param name="Runs">From how many runs that is seen.</param>
public sealed record EndangeredInput(DateTimeOffset At, DateTimeOffset Expected, int Runs) : RunInput(At);

/// <summary>A moment that the state waits for has come.</summary>
public sealed record TimeInput(DateTimeOffset At) : RunInput(At);

/// <summary>The service is about to end: what is in flight will be cut off.</summary>
public sealed record SuspendInput(DateTimeOffset At) : RunInput(At);

/// <summary>
/// The state was folded from the journal after the service had ended; whatever was in flight is lost.
/// </summary>
public sealed record RecoveredInput(DateTimeOffset At) : RunInput(At);

/// <summary>
/// What a lost attempt had started outside has been ended, or found to have ended: now the step's <c>onCrash</c> says
/// what follows.
/// </summary>
public sealed record LostInput(DateTimeOffset At, string Step, int Attempt) : RunInput(At);

/// <summary>
/// A person says that what a lost attempt had started outside, and the service could not end, is gone.
/// </summary>
public sealed record ConfirmGoneInput(DateTimeOffset At, string Step, Actor By) : RunInput(At);

/// <summary>What a lost attempt had started outside can't be ended; its step waits.</summary>
/// <param name="Why">What is left, and why it can't be ended: one sentence.</param>
public sealed record LeftoverInput(DateTimeOffset At, string Step, int Attempt, string Why) : RunInput(At);

/// <summary>
/// The decision that an input would lead to can't be stored. An attempt's end fails its step instead, everything else
/// ends the run.
/// </summary>
/// <param name="Input">The input.</param>
/// <param name="Why">One sentence.</param>
public sealed record UnstorableInput(RunInput Input, string Why) : RunInput(Input.At);

public sealed record StopInput(DateTimeOffset At, Actor By, string? Message) : RunInput(At);

/// <summary>Continues from the checkpoint. Only for a run that ended failed or stopped, or is paused.</summary>
/// <param name="Params">Parameters to override, already of the declared types.</param>
/// <param name="Vars">Variables of the chain to override.</param>
/// <param name="From">Paths of steps to do again with all their descendants, even if they succeeded.</param>
/// <param name="Skip">Paths of steps to pass over.</param>
public sealed record ResumeInput(
    DateTimeOffset At,
    Actor By,
    IReadOnlyDictionary<string, Value> Params,
    IReadOnlyDictionary<string, Value> Vars,
    IReadOnlyList<string> From,
    IReadOnlyList<string> Skip
) : RunInput(At)
{
    /// <summary>Steps to settle as succeeded, with outputs given by hand: maps by path.</summary>
    public IReadOnlyDictionary<string, Value> Settle { get; init; } = new Dictionary<string, Value>();

    /// <summary>What it asks for.</summary>
    /// <param name="to">The chain of <see cref="Release"/>.</param>
    public ResumeSelection Selection(Chain? to) => new(From, [.. Skip, .. Settle.Keys], to);

    /// <summary>The content hash of the release to move to; null to stay.</summary>
    public string? Release { get; init; }

    /// <summary>The number of <see cref="Release"/>; 0 for a draft.</summary>
    public int Number { get; init; }

    public bool Automatic { get; init; }

    /// <summary>Whether it has to wait for other runs of its chain.</summary>
    public bool Queued { get; init; }
}

/// <summary>What an attempt gave.</summary>
/// <param name="Outputs">A map; may be partly filled for a failure.</param>
/// <param name="Error">Null for a success.</param>
public sealed record AttemptResult(Value Outputs, StepError? Error = null, IReadOnlyList<string>? Warnings = null)
{
    /// <summary>How far the step has got in what it reads, by the name it is kept under; null for nothing.</summary>
    public IReadOnlyDictionary<string, Value>? Positions { get; init; }

    public bool Succeeded => Error is null;

    public static AttemptResult Done(params ReadOnlySpan<(string Name, Value Value)> outputs) =>
        new(Value.Map(outputs));

    public static AttemptResult Fail(string code, string message, string? detail = null) =>
        new(Value.EmptyMap, new(code, message, detail));
}
