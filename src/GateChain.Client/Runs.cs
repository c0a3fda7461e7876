using System.Text.Json;

namespace GateChain.Client;

/// <summary>Who did something.</summary>
/// <param name="Kind"><c>person token trigger run step service</c>.</param>
/// <param name="Id">Names them among those of their kind, for good.</param>
/// <param name="Name">What people call them.</param>
public sealed record ActorInfo(string Kind, string Id, string Name);

/// <summary>A run in lists.</summary>
/// <param name="By">The name of who started it.</param>
/// <param name="Actor">Who started it.</param>
/// <param name="Origin">Why there is the run: <c>person call restart try fire</c>; null for runs of the first
/// versions.</param>
/// <param name="Trigger">The trigger whose fire started it; null for none.</param>
/// <param name="State"><c>queued running paused</c>, or its outcome <c>succeeded failed stopped</c>.</param>
/// <param name="Late">Whether it took or takes longer than its chain's <c>dueIn</c>.</param>
/// <param name="ResumeAt">When it is resumed by itself; null for not.</param>
public sealed record RunSummary(
    long Id,
    string Chain,
    string State,
    int Leg,
    string By,
    DateTimeOffset Started,
    DateTimeOffset? Ended,
    JsonElement Params,
    string? Error,
    bool Late,
    DateTimeOffset? ResumeAt,
    ParentInfo? Parent,
    ActorInfo Actor,
    string? Origin,
    string? Trigger
);

/// <summary>Which runs are listed; null for any.</summary>
/// <param name="Chain">Only runs of this chain.</param>
/// <param name="State">Only runs in this state.</param>
public sealed record RunFilter(string? Chain = null, string? State = null)
{
    /// <summary>Only runs that this trigger started.</summary>
    public string? Trigger { get; init; }

    /// <summary>Only runs that began then or later.</summary>
    public DateTimeOffset? From { get; init; }

    /// <summary>Only runs that began before.</summary>
    public DateTimeOffset? To { get; init; }

    /// <summary>Only runs in whose parameters this stands, whatever the case of letters.</summary>
    public string? Text { get; init; }

    /// <summary>Only runs with a smaller number: the next page.</summary>
    public long? Before { get; init; }

    /// <summary>At most so many, 1 to 500. Default 50.</summary>
    public int Limit { get; init; } = 50;
}

/// <summary>The occasion that a run was started for.</summary>
/// <param name="Trigger">The trigger.</param>
/// <param name="Key">The key of the fire among those of its trigger.</param>
/// <param name="Due">When it was due; null for what is not planned.</param>
/// <param name="Event">What happened.</param>
public sealed record RunFireInfo(string Trigger, string Key, DateTimeOffset? Due, JsonElement Event);

/// <summary>The call that a run is a child of.</summary>
public sealed record ParentInfo(long Run, string Step);

/// <summary>One of the calls that lead to a run.</summary>
/// <param name="Run">The run that calls.</param>
/// <param name="Chain">Its chain; null when that run is not there any more.</param>
/// <param name="Step">The path of its call step.</param>
public sealed record TrailInfo(long Run, string? Chain, string Step);

/// <summary>A run in full.</summary>
/// <param name="Release">Hash of the content it follows.</param>
/// <param name="Number">The number of that release; null for a draft that was never released, and in a
/// rehearsal.</param>
/// <param name="Seq">The number of the last decision it shows; changes carry on from there.</param>
/// <param name="Graph">The steps and gates of the release it follows.</param>
/// <param name="Status">What stands beside its state and changes as it goes.</param>
/// <param name="RestartOf">The run it repeats.</param>
/// <param name="Try">What of a draft it tries; null for a run of a release.</param>
/// <param name="Handlers">The handlers that ran or run.</param>
/// <param name="By">The name of who started it.</param>
/// <param name="Actor">Who started it.</param>
/// <param name="Origin">Why there is the run: <c>person call restart try fire</c>.</param>
/// <param name="Fire">The occasion that it was started for; null when no trigger fired.</param>
/// <param name="BusyKey">What it is busy for; null for the whole chain.</param>
/// <param name="Area">The folder that its chain lay in when it began; empty for the workspace itself.</param>
public sealed record RunDetail(
    long Id,
    string Chain,
    string? Title,
    string Release,
    int? Number,
    string State,
    int Leg,
    string By,
    DateTimeOffset Started,
    DateTimeOffset? Ended,
    string? Error,
    long Seq,
    RunStatus Status,
    ParentInfo? Parent,
    long? RestartOf,
    TryInfo? Try,
    IReadOnlyList<HandlerInfo> Handlers,
    JsonElement Params,
    JsonElement Vars,
    JsonElement Profile,
    JsonElement Outputs,
    ChainGraph Graph,
    IReadOnlyList<StepStatus> Steps,
    IReadOnlyList<IterationStatus> Iterations,
    IReadOnlyList<GateStatus> Gates,
    IReadOnlyList<AttemptInfo> Attempts,
    IReadOnlyList<ResumeInfo> Resumes,
    IReadOnlyList<string> Warnings,
    IReadOnlyList<string> Failures,
    int Absorbed,
    IReadOnlyList<ParameterInfo> Parameters,
    ActorInfo Actor,
    string Origin,
    RunFireInfo? Fire,
    string? BusyKey,
    string Area
);

/// <param name="PausedBy">Who paused the run; null when nobody did.</param>
/// <param name="PauseMessage">Why.</param>
/// <param name="PausedSteps">Steps that wait for a person to decide.</param>
/// <param name="LateAt">When it is late; null when it never is, or is already.</param>
/// <param name="Endangered">Why it will be late, as it was seen before it was; null when it was not.</param>
/// <param name="ResumeAt">When the ended run is resumed by itself.</param>
/// <param name="FailedAt">The deepest step that the failed run's failure began with; null when no step failed.</param>
public sealed record RunStatus(
    string? PausedBy,
    string? PauseMessage,
    IReadOnlyList<string> PausedSteps,
    bool Late,
    DateTimeOffset? LateAt,
    string? Endangered,
    DateTimeOffset? ResumeAt,
    FailurePlace? FailedAt
);

/// <summary>Where a failure began.</summary>
/// <param name="Run">The run of the step: this one, or a child's.</param>
/// <param name="Step">Its path there.</param>
/// <param name="Way">The calls that lead to that run, outermost first, with <c> › </c> between them; null when it is
/// this one.</param>
public sealed record FailurePlace(long Run, string Chain, string Step, string? Way);

/// <summary>One time that a handler ran.</summary>
/// <param name="Path">Its scope, for example <c>@failure[1]</c>.</param>
/// <param name="Occasion"><c>success failure end pause late endangered</c>.</param>
/// <param name="Graph">Its steps and gates.</param>
public sealed record HandlerInfo(string Path, string Occasion, int Leg, string? Message, ScopeGraph Graph);

/// <summary>What has changed in a run since the decision before.</summary>
public sealed record RunPatch(
    long Id,
    long Seq,
    string State,
    int Leg,
    DateTimeOffset? Ended,
    string? Error,
    RunStatus Status,
    JsonElement? Vars,
    JsonElement? Outputs,
    IReadOnlyList<StepStatus> Steps,
    IReadOnlyList<IterationStatus> Iterations,
    IReadOnlyList<GateStatus> Gates,
    IReadOnlyList<AttemptInfo> Attempts,
    IReadOnlyList<string> Warnings,
    IReadOnlyList<string> Failures,
    int Absorbed
);

/// <param name="Path">The step instance, for example <c>depots[2]/load</c>.</param>
/// <param name="Due">When a wait, a rest or a timeout ends.</param>
/// <param name="Message">Its error or note, in a sentence.</param>
/// <param name="Absorbed">Whether its failure does not count.</param>
/// <param name="Progress">For an each or a repeat: how far it is, for example <c>2 of 3</c>
/// or <c>200 of 200, 1 failed</c>.</param>
/// <param name="Hold">What its guard saw and waits for; null without one, or before its first look.</param>
/// <param name="Lane">The lane it queues for or is in; null for none.</param>
/// <param name="Child">The child run of a call.</param>
/// <param name="Answered">What was decided about it while it paused the run.</param>
/// <param name="Hidden">How many of its iterations are left out here; the address <c>iterations</c> has them
/// all.</param>
/// <param name="LeftOver">Whether it waits for what a lost attempt has left behind and the service can't end; a person
/// may say that it is gone.</param>
public sealed record StepStatus(
    string Path,
    string Address,
    string State,
    int Attempt,
    int Leg,
    DateTimeOffset? Started,
    DateTimeOffset? Ended,
    DateTimeOffset? Due,
    string? Message,
    bool Absorbed,
    bool Warned,
    string? Progress,
    HoldInfo? Hold,
    string? Lane,
    long? Child,
    string? Answered,
    int Hidden,
    bool LeftOver
);

/// <param name="Since">When the guard first looked.</param>
/// <param name="Looks">How often it has looked.</param>
/// <param name="Next">When it looks again; null while it looks, and when it has decided.</param>
/// <param name="Verdict">Its latest verdict; null before the first.</param>
/// <param name="Message">Why, as its rule says.</param>
/// <param name="Saw">What its probes saw last.</param>
/// <param name="Waits">What it looks at and what it saw there, in a few words.</param>
/// <param name="Left">How many further looks its guard allows; null where a time bounds the hold.</param>
public sealed record HoldInfo(
    DateTimeOffset Since,
    int Looks,
    DateTimeOffset? Next,
    string? Verdict,
    string? Message,
    JsonElement Saw,
    string Waits,
    int? Left
);

/// <param name="Path">For example <c>depots[2]</c>.</param>
/// <param name="Item">Its item as text.</param>
public sealed record IterationStatus(
    string Path,
    string Step,
    int Index,
    string Item,
    string State,
    DateTimeOffset? Started,
    DateTimeOffset? Ended,
    string? Message
);

/// <param name="Scope">The scope instance; empty for the chain's own.</param>
/// <param name="State"><c>undecided</c>, <c>open</c> or <c>shut</c>.</param>
public sealed record GateStatus(string Scope, int Index, string State, bool InError);

/// <param name="Number">Its place among all attempts of the run.</param>
/// <param name="Result"><c>running</c>, an outcome, or <c>lost</c>.</param>
public sealed record AttemptInfo(
    int Number,
    string Step,
    int Leg,
    int Attempt,
    DateTimeOffset Started,
    DateTimeOffset? Ended,
    string Result,
    ErrorInfo? Error,
    DateTimeOffset? RetryAt
);

/// <summary>Why something failed.</summary>
/// <param name="Code">A short stable word.</param>
/// <param name="Message">One sentence.</param>
/// <param name="Detail">More, over several lines; null when there is no more to tell.</param>
public sealed record ErrorInfo(string Code, string Message, string? Detail);

/// <param name="Redone">Steps that were done again from nothing.</param>
/// <param name="GoesOn">Containers and calls that continued with what was settled in them.</param>
/// <param name="Automatic">Whether the chain's <c>recover</c> asked for it.</param>
/// <param name="Release">Hash of the content it moved to; null when it stayed.</param>
/// <param name="Number">The number of that release; null for a draft, or when it stayed.</param>
public sealed record ResumeInfo(
    int Leg,
    string By,
    JsonElement Params,
    JsonElement Vars,
    IReadOnlyList<string> Redone,
    IReadOnlyList<string> GoesOn,
    bool Automatic,
    string? Release,
    int? Number,
    ActorInfo Actor
);

/// <summary>Some of the iterations of an each, or rounds of a repeat.</summary>
/// <param name="Total">How many there are.</param>
/// <param name="Found">How many of them are what was asked for; those of the page are some of these.</param>
/// <param name="Counts">How many there are, by state.</param>
/// <param name="Iterations">Those of the page.</param>
/// <param name="Steps">The steps directly in them.</param>
/// <param name="Gates">The gates between those.</param>
public sealed record IterationPage(
    int Total,
    int Found,
    IReadOnlyDictionary<string, int> Counts,
    IReadOnlyList<IterationStatus> Iterations,
    IReadOnlyList<StepStatus> Steps,
    IReadOnlyList<GateStatus> Gates
);

/// <summary>How far a step that is running has got.</summary>
/// <param name="Rows">Rows or items dealt with.</param>
/// <param name="Bytes">Bytes read; null when that is not known.</param>
/// <param name="Share">Part of the whole, 0 to 1; null when that is not known.</param>
/// <param name="PerSecond">Rows per second since it began.</param>
public sealed record ProgressInfo(long Rows, long? Bytes, double? Share, double PerSecond);
