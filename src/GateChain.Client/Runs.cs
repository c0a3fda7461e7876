using System.Text.Json;

namespace GateChain.Client;

/// <summary>A run in lists.</summary>
public sealed record RunSummary(long Id, string Chain, string State, int Leg, string By, DateTimeOffset Started, DateTimeOffset? Ended, JsonElement Params, string? Error);

/// <summary>A run in full.</summary>
/// <param name="Seq">The number of the last decision it shows; changes carry on from there.</param>
/// <param name="Graph">The steps and gates of the release it follows.</param>
public sealed record RunDetail(long Id, string Chain, string? Title, string Release, string State, int Leg, string By, DateTimeOffset Started, DateTimeOffset? Ended,
    string? Error, long Seq, JsonElement Params, JsonElement Vars, JsonElement Profile, JsonElement Outputs, ScopeGraph Graph,
    IReadOnlyList<StepStatus> Steps, IReadOnlyList<IterationStatus> Iterations, IReadOnlyList<GateStatus> Gates, IReadOnlyList<AttemptInfo> Attempts,
    IReadOnlyList<ResumeInfo> Resumes, IReadOnlyList<string> Warnings, IReadOnlyList<string> Failures, int Absorbed, IReadOnlyList<ParameterInfo> Parameters);

/// <summary>What has changed in a run since the decision before.</summary>
public sealed record RunPatch(long Id, long Seq, string State, int Leg, DateTimeOffset? Ended, string? Error, JsonElement? Vars, JsonElement? Outputs,
    IReadOnlyList<StepStatus> Steps, IReadOnlyList<IterationStatus> Iterations, IReadOnlyList<GateStatus> Gates, IReadOnlyList<AttemptInfo> Attempts,
    IReadOnlyList<string> Warnings, IReadOnlyList<string> Failures, int Absorbed);

/// <param name="Path">The step instance, for example <c>depots[2]/load</c>.</param>
/// <param name="Due">When a wait, a rest or a timeout ends.</param>
/// <param name="Message">Its error or note, in a sentence.</param>
/// <param name="Absorbed">Whether its failure does not count.</param>
/// <param name="Progress">For an each: how far it is, for example <c>2 of 3</c>.</param>
public sealed record StepStatus(string Path, string Address, string State, int Attempt, int Leg, DateTimeOffset? Started, DateTimeOffset? Ended, DateTimeOffset? Due,
    string? Message, bool Absorbed, bool Warned, string? Progress);

/// <param name="Path">For example <c>depots[2]</c>.</param>
/// <param name="Item">Its item as text.</param>
public sealed record IterationStatus(string Path, string Step, int Index, string Item, string State, DateTimeOffset? Started, DateTimeOffset? Ended, string? Message);

/// <param name="Scope">The scope instance; empty for the chain's own.</param>
/// <param name="State"><c>undecided</c>, <c>open</c> or <c>shut</c>.</param>
public sealed record GateStatus(string Scope, int Index, string State, bool InError);

/// <param name="Number">Its place among all attempts of the run.</param>
/// <param name="Result"><c>running</c>, an outcome, or <c>lost</c>.</param>
public sealed record AttemptInfo(int Number, string Step, int Leg, int Attempt, DateTimeOffset Started, DateTimeOffset? Ended, string Result, ErrorInfo? Error, DateTimeOffset? RetryAt);

public sealed record ErrorInfo(string Code, string Message, string? Detail);

public sealed record ResumeInfo(int Leg, string By, JsonElement Params, JsonElement Vars, IReadOnlyList<string> Redone);

/// <summary>One step of a run, in full.</summary>
public sealed record StepDetail(StepStatus Status, string Kind, string Title, WhyInfo Why, JsonElement Inputs, JsonElement Outputs, ErrorInfo? Error, IReadOnlyList<AttemptInfo> Attempts);

/// <summary>The explanation of a step's fate.</summary>
public sealed record WhyInfo(string Step, string State, string Sentence, string Join, IReadOnlyList<WhyGateInfo> Gates, IReadOnlyList<BranchInfo> Branches, IReadOnlyList<string> Warnings);

public sealed record WhyGateInfo(string From, string Label, string State, string Saw, string Sentence, IReadOnlyList<PartInfo> Parts, string? Error);

public sealed record BranchInfo(string Name, bool Taken, IReadOnlyList<PartInfo> Parts);

/// <param name="Value">Null when the part was not looked at.</param>
public sealed record PartInfo(string Text, int Start, string? Value);

/// <param name="Text">Lines of time, source (<c>out err note</c>) and text.</param>
/// <param name="Next">Where to go on reading, in bytes.</param>
/// <param name="Ended">Whether nothing more will come.</param>
public sealed record LogPage(string Text, long Next, bool Ended);

/// <param name="Params">Values, or text that is read as the parameter's type asks.</param>
public sealed record StartRequest(string Chain, IReadOnlyDictionary<string, JsonElement>? Params = null, string? Profile = null);

/// <param name="Set">Overrides of parameters and variables.</param>
/// <param name="From">Steps to do again even if they succeeded, with all behind them.</param>
/// <param name="Skip">Steps to pass over.</param>
public sealed record ResumeRequest(IReadOnlyDictionary<string, JsonElement>? Set = null, IReadOnlyList<string>? From = null, IReadOnlyList<string>? Skip = null);

public sealed record StopRequest(string? Message = null);

/// <summary>How the service fares.</summary>
/// <param name="Status"><c>ok</c>, or <c>held</c> while nothing can be written.</param>
/// <param name="Trouble">What keeps it from writing.</param>
public sealed record HealthInfo(string Status, string Version, int RunsInFlight, string? Trouble, DateTimeOffset? Since);
