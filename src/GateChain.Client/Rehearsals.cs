using System.Text.Json;

namespace GateChain.Client;

/// <summary>What to rehearse. Everything that is not named succeeds, with sample outputs.</summary>
/// <param name="Params">Parameters.</param>
/// <param name="Set">What variables of the chain begin with.</param>
/// <param name="Profile">The profile's name.</param>
/// <param name="Fail">Steps that fail: <c>depots/load</c> in all iterations, <c>depots[2]/load</c> in one,
/// <c>load:2</c> in its first two attempts.</param>
/// <param name="Give">Outputs by <c>STEP.output</c>, and what probes see by <c>STEP.probes.NAME.field</c>.</param>
/// <param name="Source">A chain file to play in the place of the latest release; null for that.</param>
/// <param name="Known">A run of the chain whose steps give what they gave there, and fail where they failed; what is
/// named in <paramref name="Give"/> and <paramref name="Fail"/> comes on top. Its parameters hold where none are
/// given.</param>
/// <param name="Ways">How many distinct ways through the chain are wanted besides; 0 for none, at most 200.</param>
public sealed record RehearsalRequest(
    IReadOnlyDictionary<string, JsonElement>? Params = null,
    IReadOnlyDictionary<string, JsonElement>? Set = null,
    string? Profile = null,
    IReadOnlyList<string>? Fail = null,
    IReadOnlyDictionary<string, JsonElement>? Give = null,
    int Ways = 0,
    string? Source = null,
    long? Known = null
);

/// <summary>How a chain would go. Nothing of it was done.</summary>
/// <param name="Run">The end, as a run is shown.</param>
/// <param name="Trace">What happened, in order.</param>
/// <param name="Children">Child runs, by the path of the call.</param>
/// <param name="Cut">Whether it was ended before its end.</param>
/// <param name="Ways">Ways through the chain, those with the fewest failures first.</param>
/// <param name="MoreWays">Whether there may be more ways.</param>
public sealed record RehearsalResult(
    RunDetail Run,
    IReadOnlyList<TraceInfo> Trace,
    IReadOnlyList<ChildRehearsal> Children,
    bool Cut,
    IReadOnlyList<WayInfo> Ways,
    bool MoreWays
);

/// <param name="What"><c>step</c>, <c>gate</c>, <c>guard</c>, <c>loop</c>, <c>set</c>, <c>note</c> or
/// <c>run</c>.</param>
/// <param name="Outcome">How a step, an iteration, a run or a gate was decided; null while it is not.</param>
public sealed record TraceInfo(string What, string Path, string Text, string? Outcome);

/// <summary>The rehearsal of a child that a call has started.</summary>
/// <param name="Call">The path of the call.</param>
/// <param name="Attempt">The number of the call's attempt.</param>
/// <param name="Run">The child as a run.</param>
/// <param name="Children">Its own children.</param>
public sealed record ChildRehearsal(string Call, int Attempt, RunDetail Run, IReadOnlyList<ChildRehearsal> Children);

/// <param name="Failing">The steps whose failure leads there.</param>
/// <param name="State">How the run ends.</param>
/// <param name="Message">Why, when it fails.</param>
/// <param name="Steps">How each step fares.</param>
public sealed record WayInfo(
    IReadOnlyList<string> Failing,
    string State,
    string? Message,
    IReadOnlyList<WayStep> Steps
);

/// <param name="State">A state, or several joined with + where instances differ.</param>
public sealed record WayStep(string Step, string State);
