using System.Text.Json.Serialization;
using GateChain.Core.Chains;
using GateChain.Core.Expressions;
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
[JsonDerivedType(typeof(CancelAsked), "cancel-asked")]
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
public abstract record RunEvent;

/// <param name="Release">The content hash of the chain the run follows.</param>
/// <param name="By">Who started it.</param>
/// <param name="Uid">Names the run beyond this service: marks in other databases bear it.</param>
public sealed record RunStarted(string Uid, string Chain, string Release, Value Params, Value Profile, string By) : RunEvent;

/// <summary>An attempt began: a kind's work, a wait, or a container that was opened.</summary>
/// <param name="Attempt">From 1 in each leg.</param>
/// <param name="Inputs">The settings with their expressions computed.</param>
/// <param name="Due">When a wait ends or a timeout strikes; null for neither.</param>
public sealed record AttemptStarted(string Step, int Attempt, Value Inputs, DateTimeOffset? Due) : RunEvent;

/// <summary>An attempt failed and another one follows.</summary>
public sealed record AttemptFailed(string Step, int Attempt, StepError Error, DateTimeOffset RetryAt) : RunEvent;

/// <summary>An attempt was cut off when the service ended.</summary>
public sealed record AttemptLost(string Step, int Attempt) : RunEvent;

/// <summary>An attempt was asked to end early.</summary>
public sealed record CancelAsked(string Step, CancelReason Reason) : RunEvent;

public enum CancelReason { None, Stop, Timeout }

public sealed record EachOpened(string Step, Value Items) : RunEvent;

public sealed record IterationOpened(string Step, int Index) : RunEvent;

/// <param name="Collected">What <c>collect</c> gave; only for succeeded iterations.</param>
/// <param name="Error">Why it failed, when no step inside did.</param>
public sealed record IterationSettled(string Step, int Index, Outcome Outcome, Value? Collected, string? Error) : RunEvent;

/// <param name="Note">Why it settled without an attempt of its own, for example “disabled”.</param>
/// <param name="Looks">For a decide step: the branches it looked at.</param>
public sealed record StepSettled(string Step, Outcome Outcome, Value Outputs, StepError? Error = null, string? Note = null,
    IReadOnlyList<string>? Warnings = null, IReadOnlyList<BranchLook>? Looks = null) : RunEvent;

/// <param name="Gate">Its index in the scope.</param>
/// <param name="Reason">What its expression gave; null when the outcome alone decided.</param>
public sealed record GateDecided(string Scope, int Gate, bool Open, GateReason? Reason) : RunEvent;

/// <param name="By">The path of the step that assigned it.</param>
public sealed record VariableSet(string Scope, string Name, Value Value, string By) : RunEvent;

public sealed record RunWarned(string Step, string Message) : RunEvent;

public sealed record StopAsked(string By, string? Message) : RunEvent;

/// <param name="Leg">Its number; the first resume begins leg 2.</param>
/// <param name="Params">Parameters that were overridden.</param>
/// <param name="Vars">Variables of the chain that were overridden.</param>
/// <param name="Reset">Steps that are done again from nothing.</param>
/// <param name="Reopened">Containers that go on with what is settled in them.</param>
/// <param name="Skip">Steps that are passed over instead of being done again.</param>
/// <param name="Undecided">Gates in error from steps that keep their outcome; they are decided anew.</param>
public sealed record LegStarted(int Leg, string By, Value Params, Value Vars, IReadOnlyList<string> Reset, IReadOnlyList<string> Reopened,
    IReadOnlyList<string> Skip, IReadOnlyList<GateName> Undecided) : RunEvent;

public sealed record RunSettled(Outcome Outcome, Value Outputs, StepError? Error) : RunEvent;

/// <param name="Code">A short stable word such as <c>timeout</c>, <c>exit-code</c>, <c>expression</c>.</param>
/// <param name="Message">One sentence for people.</param>
/// <param name="Detail">More, over several lines, when there is more to tell.</param>
public sealed record StepError(string Code, string Message, string? Detail = null);

/// <param name="Parts">The expression's parts and their values.</param>
/// <param name="Error">Why the expression gave no bool.</param>
public sealed record GateReason(IReadOnlyList<PartValue> Parts, string? Error = null);

public sealed record BranchLook(string Branch, bool Taken, IReadOnlyList<PartValue> Parts);

public sealed record GateName(string Scope, int Gate);
