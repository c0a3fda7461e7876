namespace GateChain.Core.Scheduling;

/// <summary>How often a recurrence comes.</summary>
public enum Frequency
{
    Secondly,
    Minutely,
    Hourly,
    Daily,
    Weekly,
    Monthly,
    Yearly,
}

/// <summary>A day of the week, with its place in the month or year.</summary>
/// <param name="Place">From 1, or from -1 backwards; 0 for all.</param>
/// <param name="Day">The day.</param>
public readonly record struct WeekDayPlace(int Place, DayOfWeek Day);

/// <summary>A recurrence rule. Immutable.</summary>
/// <remarks>Source: RFC 5545, section 3.3.10; the names are the ones of its parts.</remarks>
public sealed record Recurrence(Frequency Frequency)
{
    /// <summary>From 1.</summary>
    public int Interval { get; init; } = 1;

    /// <summary>How many there are; null for no end.</summary>
    public int? Count { get; init; }

    /// <summary>The last local time that counts; null for no end.</summary>
    public DateTime? Until { get; init; }

    /// <summary>Whether <see cref="Until"/> is a moment of UTC, not a local time.</summary>
    public bool UntilIsUtc { get; init; }

    public IReadOnlyList<int> BySecond { get; init; } = [];
    public IReadOnlyList<int> ByMinute { get; init; } = [];
    public IReadOnlyList<int> ByHour { get; init; } = [];
    public IReadOnlyList<WeekDayPlace> ByDay { get; init; } = [];
    public IReadOnlyList<int> ByMonthDay { get; init; } = [];
    public IReadOnlyList<int> ByYearDay { get; init; } = [];
    public IReadOnlyList<int> ByWeekNo { get; init; } = [];
    public IReadOnlyList<int> ByMonth { get; init; } = [];
    public IReadOnlyList<int> BySetPos { get; init; } = [];
    public DayOfWeek WeekStart { get; init; } = DayOfWeek.Monday;
}
