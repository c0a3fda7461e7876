using System.Text.Json;

namespace GateChain.Client;

/// <param name="Params">Values, or text that is read as the parameter's type asks.</param>
public sealed record StartRequest(
    string Chain,
    IReadOnlyDictionary<string, JsonElement>? Params = null,
    string? Profile = null
);

/// <param name="Set">Overrides of parameters and variables.</param>
/// <param name="From">Steps to do again even if they succeeded, with all behind them.</param>
/// <param name="Skip">Steps to pass over.</param>
/// <param name="Settle">Steps to settle as succeeded, with their outputs.</param>
/// <param name="Release">What to move to: <c>latest</c>, <c>draft</c>, the number of a release, a content hash or its
/// beginning; null to stay.</param>
public sealed record ResumeRequest(
    IReadOnlyDictionary<string, JsonElement>? Set = null,
    IReadOnlyList<string>? From = null,
    IReadOnlyList<string>? Skip = null,
    IReadOnlyDictionary<string, JsonElement>? Settle = null,
    string? Release = null
);

/// <summary>What a resume would do; nothing of it has begun.</summary>
/// <param name="Leg">The number that its leg would have.</param>
/// <param name="Redone">Steps that would run again from nothing.</param>
/// <param name="GoesOn">Containers and calls that would continue inside, with what is settled in them.</param>
/// <param name="Redo">Those of <paramref name="Redone"/> that had succeeded and would run again only because others
/// depend on them.</param>
/// <param name="Kept">How many steps would keep their outcome.</param>
public sealed record PlanInfo(
    int Leg,
    IReadOnlyList<string> Redone,
    IReadOnlyList<string> GoesOn,
    IReadOnlyList<string> Redo,
    int Kept
);

/// <param name="Step">The step whose lost attempt has left nothing behind any more.</param>
public sealed record GoneRequest(string Step);

/// <summary>What a person asks of a step that its guard holds.</summary>
/// <param name="Step">Its path.</param>
/// <param name="Answer"><c>let-through</c> or <c>look</c>.</param>
/// <param name="Message">Why; shown with a step that is let through.</param>
public sealed record HoldRequest(string Step, string Answer, string? Message = null);

/// <summary>Ends one step, or one iteration of a loop; the rest of the run goes on.</summary>
/// <param name="Step">The path of a step that is held, queued, resting or running, or of an iteration.</param>
/// <param name="As">What it settles as: <c>failed skipped succeeded</c>; <c>failed</c> when absent.</param>
/// <param name="Outputs">For <c>succeeded</c>: the outputs it settles with; for an iteration <c>collected</c>.</param>
/// <param name="Message">Why; shown with the step.</param>
public sealed record CancelRequest(
    string Step,
    string As = "failed",
    IReadOnlyDictionary<string, JsonElement>? Outputs = null,
    string? Message = null
);

/// <summary>Pauses a run.</summary>
/// <param name="Message">Why; shown with the run.</param>
public sealed record PauseRequest(string? Message = null);

/// <summary>What is to be done with a step that paused its run.</summary>
/// <param name="Answer"><c>retry anew skip settle fail stop</c>.</param>
/// <param name="Outputs">For <c>settle</c>: the outputs it settles with.</param>
public sealed record AnswerRequest(
    string Step,
    string Answer,
    IReadOnlyDictionary<string, JsonElement>? Outputs = null,
    string? Message = null
);

/// <param name="Latest">Whether the new run follows the chain's latest release instead of the same one.</param>
public sealed record RestartRequest(bool Latest = false);

/// <summary>Stops a run.</summary>
/// <param name="Message">Why; shown with the run.</param>
public sealed record StopRequest(string? Message = null);
