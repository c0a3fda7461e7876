using System.Text.Json;

namespace GateChain.Client;

/// <summary>A trigger: what starts a chain by itself.</summary>
/// <param name="Name">Its name.</param>
/// <param name="Chain">The chain that it starts.</param>
/// <param name="Kind"><c>schedule arrival hook watch outcome</c>.</param>
/// <param name="Sentence">When it fires, in a sentence without a full stop.</param>
/// <param name="File">The file that declares it.</param>
/// <param name="On">Whether it is on.</param>
/// <param name="FileSays">Whether its file says that it is on; a person may have switched it since.</param>
/// <param name="SwitchedBy">Who switched it last; null when only its file did.</param>
/// <param name="Switched">When.</param>
/// <param name="Held">Why it does not fire though it is on; null when it does.</param>
/// <param name="Next">When a schedule fires next; null for others, or when it does not.</param>
/// <param name="Troubles">What keeps it from starting its chain, a sentence each.</param>
/// <param name="When">What must hold; null for nothing.</param>
/// <param name="Params">What it gives, an expression each.</param>
/// <param name="Profile">The profile of its runs; null for none.</param>
/// <param name="Zone">The time zone of a schedule; null for others.</param>
/// <param name="Hook">The address of a hook, below the service's; null for others.</param>
/// <param name="Fires">Its latest fires, newest first.</param>
public sealed record TriggerInfo(
    string Name,
    string Chain,
    string Kind,
    string Sentence,
    string File,
    bool On,
    bool FileSays,
    string? SwitchedBy,
    DateTimeOffset? Switched,
    string? Held,
    DueInfo? Next,
    IReadOnlyList<string> Troubles,
    string? When,
    IReadOnlyDictionary<string, string> Params,
    string? Profile,
    string? Zone,
    string? Hook,
    IReadOnlyList<FireInfo> Fires
);

/// <summary>A due time.</summary>
/// <param name="Due">The due time.</param>
/// <param name="At">When it fires: later, when fires are spread.</param>
public sealed record DueInfo(DateTimeOffset Due, DateTimeOffset At);

/// <summary>An occasion of a trigger, and what became of it.</summary>
/// <param name="Number">Grows with every fire, from 1.</param>
/// <param name="Trigger">The trigger.</param>
/// <param name="At">The moment.</param>
/// <param name="Key">Names it among the fires of its trigger.</param>
/// <param name="Fate"><c>started</c>, <c>passed-over</c>, <c>refused</c> or <c>late</c>.</param>
/// <param name="Why">Why no run was started; null when one was.</param>
/// <param name="Run">The run that was started.</param>
/// <param name="Outcome">The state of that run; null when it is not there any more.</param>
/// <param name="Event">What happened.</param>
/// <param name="Backfill">The backfill that it is one of.</param>
public sealed record FireInfo(
    long Number,
    string Trigger,
    DateTimeOffset At,
    string Key,
    string Fate,
    string? Why,
    long? Run,
    string? Outcome,
    JsonElement Event,
    long? Backfill
);

/// <summary>What is asked of a trigger.</summary>
/// <param name="Missed">When it is switched on: whether due times that passed while it was off are made up for.</param>
public sealed record SwitchRequest(bool Missed = false);

/// <summary>A fire by hand.</summary>
/// <param name="Event">What is taken to have happened; null for what a schedule has now.</param>
/// <param name="Again">The number of a fire whose event is taken; null for none.</param>
public sealed record FireRequest(JsonElement? Event = null, long? Again = null);

/// <summary>What became of a fire by hand.</summary>
/// <param name="Fate"><c>started</c>, <c>passed-over</c>, <c>refused</c> or <c>late</c>.</param>
/// <param name="Run">The run that was started.</param>
/// <param name="Why">Why none was.</param>
public sealed record FireAnswer(string Fate, long? Run, string? Why);

/// <summary>Where nothing starts by itself.</summary>
/// <param name="Folder">The folder; empty for everything.</param>
/// <param name="By">Who said so.</param>
/// <param name="Since">Since when.</param>
/// <param name="Why">Why; null when nobody said.</param>
public sealed record StartHoldInfo(string Folder, string By, DateTimeOffset Since, string? Why);

/// <summary>Says that nothing starts by itself, or that it does again.</summary>
/// <param name="On">Whether everything is held from here on.</param>
/// <param name="Folder">The folder; empty for everything.</param>
/// <param name="Why">Why; null for nothing.</param>
public sealed record StartHoldRequest(bool On, string Folder = "", string? Why = null);

/// <summary>What is to be filled.</summary>
/// <param name="From">The first due time that may be in it.</param>
/// <param name="To">Due times from here on are not in it.</param>
/// <param name="Parallel">How many runs go at once, 1 to 100.</param>
/// <param name="NewestFirst">Whether it begins with the newest.</param>
/// <param name="Again"><c>none</c>, <c>failed</c> or <c>all</c>: which due times that have a run are done once
/// more.</param>
/// <param name="Keep">Whether its runs write what their chain keeps.</param>
/// <param name="Preview">Whether nothing is begun: the answer has the due times.</param>
public sealed record BackfillRequest(
    DateTimeOffset From,
    DateTimeOffset To,
    int Parallel = 1,
    bool NewestFirst = false,
    string Again = "none",
    bool Keep = false,
    bool Preview = false
);

/// <summary>A backfill and how far it has got.</summary>
/// <param name="Number">Its number; 0 in a preview.</param>
/// <param name="State"><c>running paused stopped ended</c>; <c>preview</c>.</param>
/// <param name="Times">How many due times it has.</param>
/// <param name="Going">How many of their runs are going.</param>
/// <param name="Succeeded">How many ended well.</param>
/// <param name="PassedOver">How many were passed over.</param>
/// <param name="Failed">How many failed, or could not be started.</param>
/// <param name="Failures">The first 100 of those.</param>
/// <param name="Due">In a preview the due times, the first 1,000.</param>
public sealed record BackfillInfo(
    long Number,
    string Trigger,
    DateTimeOffset From,
    DateTimeOffset To,
    int Parallel,
    string State,
    string By,
    DateTimeOffset At,
    int Times,
    int Going,
    int Succeeded,
    int PassedOver,
    int Failed,
    IReadOnlyList<BackfillFailure> Failures,
    IReadOnlyList<DateTimeOffset>? Due = null
);

/// <summary>A due time that came to nothing.</summary>
/// <param name="Run">The run; null when there is none.</param>
public sealed record BackfillFailure(DateTimeOffset Due, long? Run, string Why);

/// <summary>What a chain keeps from run to run, under one profile.</summary>
/// <param name="Profile">The profile; empty for runs without a name.</param>
/// <param name="Version">Grows with every change.</param>
/// <param name="Values">The values by variable.</param>
/// <param name="Run">The run whose end they are of; null when a person set them.</param>
/// <param name="By">Who set them; null for a run.</param>
/// <param name="At">When.</param>
public sealed record KeptInfo(
    string Profile,
    long Version,
    JsonElement Values,
    long? Run,
    string? By,
    DateTimeOffset At
);

/// <summary>How far a step has got in what it reads.</summary>
/// <param name="Profile">The profile of the runs; empty for those without a name.</param>
/// <param name="Name">The name that it is kept under.</param>
/// <param name="Value">A number, a time or a text; null to begin at the start.</param>
/// <param name="Run">The run that got there; null when a person set it.</param>
/// <param name="Step">The step's path in that run.</param>
/// <param name="By">Who set it; null for a run.</param>
/// <param name="At">When.</param>
public sealed record PositionInfo(
    string Profile,
    string Name,
    JsonElement Value,
    long? Run,
    string? Step,
    string? By,
    DateTimeOffset At
);

/// <summary>Sets how far a step has got.</summary>
/// <param name="Name">The name that it is kept under.</param>
/// <param name="Value">A number, a time or a text; null to begin at the start.</param>
/// <param name="Profile">The profile; null for runs without a name.</param>
public sealed record PositionRequest(string Name, JsonElement? Value = null, string? Profile = null);

/// <summary>Changes what a chain keeps.</summary>
/// <param name="Profile">The profile; null for runs without a name.</param>
/// <param name="Set">Values by variable.</param>
/// <param name="Reset">Variables that begin with their initial value again.</param>
public sealed record KeptRequest(
    string? Profile = null,
    IReadOnlyDictionary<string, JsonElement>? Set = null,
    IReadOnlyList<string>? Reset = null
);

/// <summary>A file of triggers.</summary>
/// <param name="Path">Its path in the workspace.</param>
/// <param name="Version">Grows with every save; 0 for one that is not there yet.</param>
/// <param name="Content">Its text.</param>
public sealed record TriggerFile(string Path, long Version, string Content);

/// <summary>A file of triggers as it is being edited.</summary>
/// <param name="Path">Its path in the workspace.</param>
/// <param name="Content">Its text.</param>
/// <param name="Seen">The version that was edited; null to check only.</param>
public sealed record TriggerFileRequest(string Path, string Content, long? Seen = null);

/// <summary>What a file of triggers says.</summary>
/// <param name="Problems">What is wrong with it.</param>
/// <param name="Triggers">What can be read of it.</param>
/// <param name="Version">The version that was saved; null when nothing was.</param>
public sealed record TriggerFileAnswer(
    IReadOnlyList<ProblemInfo> Problems,
    IReadOnlyList<TriggerSketch> Triggers,
    long? Version
);

/// <summary>A trigger as a file that is being edited says it.</summary>
/// <param name="Sentence">When it would fire.</param>
/// <param name="Next">The next due times of a schedule, five.</param>
/// <param name="Words">The schedule in words, when it can be said so; null otherwise.</param>
public sealed record TriggerSketch(
    string Name,
    string Kind,
    string Sentence,
    IReadOnlyList<DateTimeOffset> Next,
    ScheduleWordsInfo? Words
);

/// <summary>A schedule in words.</summary>
/// <param name="Every">For example <c>day</c>.</param>
/// <param name="At">Times of the day.</param>
/// <param name="On">A day of the month.</param>
public sealed record ScheduleWordsInfo(string Every, IReadOnlyList<string>? At, string? On);

/// <summary>What the caller of a hook is answered.</summary>
/// <param name="Run">The run that the call has started.</param>
/// <param name="Url">Its address.</param>
/// <param name="Outcome">How it ended; null while it has not.</param>
/// <param name="Outputs">What it gave.</param>
/// <param name="Why">What there is to say; null for nothing.</param>
public sealed record HookReply(long? Run, string? Url, string? Outcome, JsonElement? Outputs, string? Why);

/// <summary>A day of a week of starts.</summary>
/// <param name="Date">The day, in UTC.</param>
/// <param name="Off">The calendars that have it among the days that triggers leave out.</param>
/// <param name="Planned">Due times that are to come, the first 100.</param>
/// <param name="Fires">What has fired, the first 100.</param>
/// <param name="More">How many more there are of both.</param>
public sealed record WeekDayInfo(
    DateOnly Date,
    IReadOnlyList<string> Off,
    IReadOnlyList<PlannedInfo> Planned,
    IReadOnlyList<FireInfo> Fires,
    int More
);

/// <summary>A start that is planned.</summary>
public sealed record PlannedInfo(string Trigger, string Chain, DateTimeOffset At);
