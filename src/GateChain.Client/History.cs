using System.Text.Json;

namespace GateChain.Client;

/// <summary>What needs a person, what runs, what comes next, and how it went lately.</summary>
/// <param name="Needs">The most urgent first.</param>
/// <param name="Running">Runs that have not ended and are no children, the oldest first.</param>
/// <param name="Next">What triggers will start in the next 24 hours.</param>
/// <param name="Hours">How runs ended in the last seven days, by hour; hours without any are left out.</param>
public sealed record HomeInfo(
    IReadOnlyList<NeedInfo> Needs,
    IReadOnlyList<RunningInfo> Running,
    IReadOnlyList<PlannedInfo> Next,
    IReadOnlyList<HourInfo> Hours
);

/// <summary>Something that a person should look at.</summary>
/// <param name="What"><c>paused</c>, <c>failed</c>, <c>broken</c>, <c>late</c>, <c>endangered</c>, <c>held</c> or
/// <c>refused</c>.</param>
/// <param name="Chain">The chain.</param>
/// <param name="Run">The run; null for a refused fire, and for a chain that is broken.</param>
/// <param name="Step">The step that waits or failed; null where it is the run as a whole.</param>
/// <param name="Trigger">The trigger of a refused fire.</param>
/// <param name="Since">Since when.</param>
/// <param name="Text">Why, in a sentence.</param>
/// <param name="More">How many like it there are before.</param>
public sealed record NeedInfo(
    string What,
    string Chain,
    long? Run,
    string? Step,
    string? Trigger,
    DateTimeOffset Since,
    string Text,
    int More
);

/// <summary>A run that has not ended.</summary>
/// <param name="Done">How many of the chain's own steps have settled.</param>
/// <param name="Of">How many there are.</param>
/// <param name="Doing">The steps that are running or waiting, some of them.</param>
/// <param name="Expected">When it will end, as earlier runs did; null when too few tell it.</param>
/// <param name="LateAt">When it is late; null when it never is, or is already.</param>
public sealed record RunningInfo(
    long Run,
    string Chain,
    string State,
    DateTimeOffset Started,
    int Done,
    int Of,
    IReadOnlyList<string> Doing,
    bool Late,
    DateTimeOffset? LateAt,
    ExpectedInfo? Expected
);

/// <summary>When a run will end.</summary>
/// <param name="Likely">Half of the earlier runs would have ended by then.</param>
/// <param name="Early">One in ten would have.</param>
/// <param name="Late">Nine in ten would have.</param>
/// <param name="Runs">So many runs this is seen from.</param>
public sealed record ExpectedInfo(DateTimeOffset Likely, DateTimeOffset Early, DateTimeOffset Late, int Runs);

/// <param name="Hour">Its begin, UTC.</param>
public sealed record HourInfo(DateTimeOffset Hour, int Succeeded, int Failed, int Stopped);

/// <summary>The latest legs of a chain's runs, the newest first.</summary>
/// <param name="Addresses">The steps that any of them had come to, in the order of the newest one.</param>
/// <param name="Legs">The legs.</param>
public sealed record HistoryInfo(IReadOnlyList<string> Addresses, IReadOnlyList<LegInfo> Legs);

/// <summary>A leg that has ended.</summary>
/// <param name="Number">The number of its release; null for a draft.</param>
/// <param name="Source"><c>run</c>, <c>child</c> or <c>try</c>.</param>
/// <param name="Steps">By address; those it had not come to are left out.</param>
public sealed record LegInfo(
    long Run,
    int Leg,
    int? Number,
    string State,
    DateTimeOffset Started,
    DateTimeOffset Ended,
    bool Late,
    string Source,
    IReadOnlyDictionary<string, StepHistoryInfo> Steps
);

/// <summary>A step in one leg; in containers all of its instances together. Times in milliseconds.</summary>
/// <param name="State">The worst of how its instances ended.</param>
/// <param name="Count">How many instances ran; 0 for a step that was skipped, or kept from an earlier leg.</param>
/// <param name="Failed">How many of them failed.</param>
/// <param name="Attempts">How many attempts they took together.</param>
/// <param name="Begin">When the first began, after the begin of the leg.</param>
/// <param name="Span">From then to the end of the last.</param>
/// <param name="Work">In attempts.</param>
/// <param name="Held">Held by their guard.</param>
/// <param name="Queued">Waiting for a lane.</param>
/// <param name="Rested">Between attempts.</param>
/// <param name="Read">Rows read, where it said so; written and rejected likewise.</param>
public sealed record StepHistoryInfo(
    string State,
    int Count,
    int Failed,
    int Attempts,
    long Begin,
    long Span,
    long Work,
    long Held,
    long Queued,
    long Rested,
    long? Read,
    long? Written,
    long? Rejected
);

/// <summary>What two runs had differently.</summary>
/// <param name="A">The run that is compared with.</param>
/// <param name="B">The run that is asked about.</param>
/// <param name="SameContent">Whether both followed the same content.</param>
/// <param name="PartsAt">The first step that ended otherwise; where all ended alike, that had other rows; null for
/// none.</param>
public sealed record DifferenceInfo(
    RunSummary A,
    RunSummary B,
    int? NumberA,
    int? NumberB,
    bool SameContent,
    IReadOnlyList<ValueDifferenceInfo> Params,
    IReadOnlyList<ValueDifferenceInfo> Profile,
    IReadOnlyList<ValueDifferenceInfo> Outputs,
    IReadOnlyList<StepDifferenceInfo> Steps,
    string? PartsAt
);

/// <summary>A value; null where a run had none.</summary>
public sealed record ValueDifferenceInfo(string Name, JsonElement? A, JsonElement? B);

/// <summary>A step of both runs; null where one had not come to it.</summary>
/// <param name="Differs">Whether it ended otherwise, or had other rows.</param>
/// <param name="Items">Of a step in loops, the items for which it did; some of them.</param>
public sealed record StepDifferenceInfo(
    string Address,
    StepHistoryInfo? A,
    StepHistoryInfo? B,
    bool Differs,
    IReadOnlyList<ItemDifferenceInfo> Items
);

/// <summary>An item of a loop; null where one run had no such item.</summary>
public sealed record ItemDifferenceInfo(string Items, StepHistoryInfo? A, StepHistoryInfo? B);
