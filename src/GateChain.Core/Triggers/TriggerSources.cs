using GateChain.Core.Chains;
using GateChain.Core.Scheduling;
using GateChain.Core.Values;

namespace GateChain.Core.Triggers;

/// <summary>What becomes of due times that passed while nobody was there.</summary>
public enum MissedRule
{
    /// <summary>One fire for the newest of them.</summary>
    Last,

    /// <summary>They are passed over.</summary>
    None,

    /// <summary>A fire for each, in order.</summary>
    All,
}

/// <summary>At due times.</summary>
/// <param name="Times">Which.</param>
/// <param name="Zone">The zone that they are said in.</param>
/// <param name="Missed">What becomes of those that passed while nobody was there.</param>
/// <param name="Spread">How far fires are delayed at most, each by a share of its own; null for not at all.</param>
/// <param name="Off">The names of the calendars whose days are left out.</param>
/// <param name="Form">How it is written: words, cron or rrule.</param>
/// <param name="DueBy">The time of the day, the next after a due time, by which its run has to be through; null for
/// none.</param>
public sealed record ScheduleSource(
    DueTimes Times,
    TimeZoneInfo Zone,
    MissedRule Missed,
    TimeSpan? Spread,
    IReadOnlyList<string> Off,
    string Form,
    TimeOnly? DueBy = null
) : TriggerSource
{
    /// <inheritdoc/>
    public override string Kind => "schedule";

    /// <inheritdoc/>
    public override string Sentence =>
        $"{Times.Schedule.Sentence}{(Times.Schedule is IntervalSchedule ? "" : $" {ZoneWord} time")}"
        + (Off.Count > 0 ? $", except {Days.And([.. Off])}" : "")
        + (DueBy is { } by ? $", to be through by {TimesOfDay.Text(by)}" : "");

    string ZoneWord => Zone.Id[(Zone.Id.LastIndexOf('/') + 1)..].Replace('_', ' ');

    /// <summary>By when the run of a due time has to be through; null when nobody said.</summary>
    public DateTimeOffset? DeadlineOf(DateTimeOffset due) => DueBy is { } by ? TurnAfter(due, by, 0) : null;

    /// <summary>
    /// The newest due time whose deadline has passed at a moment, and the next deadline; nulls when there are none.
    /// </summary>
    public (DueTime? Passed, DateTimeOffset? Next) DeadlinesAt(DateTimeOffset now)
    {
        if (DueBy is not { } by)
            return (null, null);
        var next = TurnAfter(now, by, 0);
        var last = TurnAfter(now, by, -1);
        return (Times.Previous(last) is { } due ? new DueTime(due, Times.Previous(due) ?? due) : null, next);
    }

    // The first time of the day after a moment, and so many days from there; every day has it once.
    DateTimeOffset TurnAfter(DateTimeOffset moment, TimeOnly by, int days)
    {
        var day = TimeZoneInfo.ConvertTime(moment, Zone).Date.AddDays(-1);
        DateTimeOffset At(DateTime on) => LocalTimes.First(Zone, on + by.ToTimeSpan());
        while (At(day) <= moment)
            day = day.AddDays(1);
        return At(day.AddDays(days));
    }

    /// <summary>
    /// How much later than its due time a fire comes: always the same for the same due time of the same trigger.
    /// </summary>
    public TimeSpan DelayOf(string trigger, DateTimeOffset due)
    {
        if (Spread is not { Ticks: > 0 } spread)
            return TimeSpan.Zero;
        // FNV-1a: the same on every machine and in every version, which the language's own hashes are not.
        var hash = 14695981039346656037UL;
        foreach (var c in $"{trigger}@{due.UtcTicks}")
            hash = unchecked((hash ^ c) * 1099511628211UL);
        hash ^= hash >> 32;
        return TimeSpan.FromTicks((long)(spread.Ticks * ((hash % 1_000_000) / 1_000_000.0)));
    }
}

/// <summary>When a file has come.</summary>
/// <param name="Path">A path or pattern, below the folder that relative paths begin in.</param>
/// <param name="Connection">Where to look; null for the local disk.</param>
/// <param name="Every">How often a connection is looked at.</param>
/// <param name="Quiet">How long size and time have to stay as they are.</param>
/// <param name="Ready">The name of the file that says that another one is complete, with <c>{name}</c> in it; null when
/// being quiet says so.</param>
/// <param name="Together">How long files are gathered into one fire, from the first; null for a fire each.</param>
/// <param name="TakeExisting">Whether files that are there already when the trigger is first armed count.</param>
public sealed record ArrivalSource(
    string Path,
    string? Connection,
    TimeSpan Every,
    TimeSpan Quiet,
    string? Ready,
    TimeSpan? Together,
    bool TakeExisting
) : TriggerSource
{
    /// <summary>The most files that one fire gathers.</summary>
    public const int MostTogether = 10_000;

    /// <inheritdoc/>
    public override string Kind => "arrival";

    /// <inheritdoc/>
    public override string Sentence =>
        $"when a file {Path} has come{(Connection is null ? "" : $" at {Connection}")}"
        + (Together is { } together ? $", gathered for {TimeText.Setting(together)}" : "");
}

/// <summary>When another system calls.</summary>
/// <param name="Path">What stands behind <c>/hooks/</c>.</param>
/// <param name="Token">The names of the secrets that a caller shows one of; empty for no token.</param>
/// <param name="Sign">The names of the secrets that a call is signed with one of; empty for no signature.</param>
/// <param name="IsOpen">Whether anybody may call.</param>
/// <param name="Accepts">The file with the JSON Schema of bodies; null for any.</param>
/// <param name="Wait">How long a caller waits for the outputs; null for not.</param>
public sealed record HookSource(
    string Path,
    IReadOnlyList<string> Token,
    IReadOnlyList<string> Sign,
    bool IsOpen,
    string? Accepts,
    TimeSpan? Wait
) : TriggerSource
{
    /// <inheritdoc/>
    public override string Kind => "hook";

    /// <inheritdoc/>
    public override string Sentence => $"when POST /hooks/{Path} is called";
}

/// <summary>When a watch fires again that has fired.</summary>
public enum WatchAgain
{
    /// <summary>When the condition has become true, or what was seen changes while it is.</summary>
    Change,

    /// <summary>When the condition has become true.</summary>
    Once,

    /// <summary>At every look at which it is true.</summary>
    Always,
}

/// <summary>When probes say so.</summary>
/// <param name="Probes">What is looked at.</param>
/// <param name="Condition">What must hold, over <c>probes</c>.</param>
/// <param name="Every">How often.</param>
/// <param name="Again">When it fires again.</param>
public sealed record WatchSource(
    IReadOnlyList<Probe> Probes,
    SourceExpression Condition,
    TimeSpan Every,
    WatchAgain Again
) : TriggerSource
{
    /// <inheritdoc/>
    public override string Kind => "watch";

    /// <inheritdoc/>
    public override string Sentence => $"when {Condition.Expression.Text}, looked at every {TimeText.Setting(Every)}";
}

/// <summary>When a run of another chain has come to something.</summary>
/// <param name="Chains">Patterns of names; those behind <c>!</c> are left out.</param>
/// <param name="Is">What it has come to: words of <see cref="Words"/>.</param>
/// <param name="Children">Whether runs that other runs call count.</param>
/// <param name="Tries">Whether tries of drafts count.</param>
public sealed record OutcomeSource(IReadOnlyList<string> Chains, IReadOnlyList<string> Is, bool Children, bool Tries)
    : TriggerSource
{
    /// <summary>What a run can come to.</summary>
    public static IReadOnlyList<string> Words { get; } =
    ["succeeded", "failed", "stopped", "late", "endangered", "paused", "warned", "refused"];

    /// <inheritdoc/>
    public override string Kind => "outcome";

    /// <inheritdoc/>
    public override string Sentence => $"when a run of {string.Join(", ", Chains)} is {Days.Or(Is)}";

    /// <summary>Whether a chain is one of those that it is about.</summary>
    public bool IsAbout(string chain)
    {
        var named = Chains.Where(c => !c.StartsWith('!')).ToList();
        return (named.Count == 0 || named.Exists(p => Fits(p, chain)))
            && !Chains.Any(p => p.StartsWith('!') && Fits(p[1..], chain));
    }

    static bool Fits(string pattern, string name) =>
        System.IO.Enumeration.FileSystemName.MatchesSimpleExpression(pattern, name, ignoreCase: false);
}
