namespace GateChain.Core.Scheduling.Calendars;

/// <summary>A named set of days. Immutable. Thread-safe.</summary>
/// <param name="name">What files call it.</param>
/// <param name="has">Whether a day is one of them.</param>
public sealed class Calendar(string name, Func<DateOnly, bool> has) : IDayOff
{
    /// <inheritdoc/>
    public string Name => name;

    /// <inheritdoc/>
    public bool Has(DateOnly day) => has(day);

    // A day of every four years, and one that a century leaves out.
    const int Years = 9;

    /// <summary>Whether it has no day within nine years from one on.</summary>
    public bool IsEmptyFrom(DateOnly day)
    {
        var end = day.AddYears(Years);
        for (var at = day; at < end; at = at.AddDays(1))
        {
            if (Has(at))
                return false;
        }
        return true;
    }
}

/// <summary>A day of every year.</summary>
/// <param name="Month">1 to 12.</param>
/// <param name="Day">From 1; the 29th of February comes in leap years only.</param>
public readonly record struct YearlyDay(int Month, int Day)
{
    /// <summary>Reads <c>12-25</c>: month and day; null for none.</summary>
    public static YearlyDay? Parse(string text) =>
        text.Length == 5
        && text[2] == '-'
        && int.TryParse(text.AsSpan(0, 2), out var month)
        && int.TryParse(text.AsSpan(3), out var day)
        && month is >= 1 and <= 12
        && day >= 1
        && day <= DateTime.DaysInMonth(2000, month)
            ? new(month, day)
            : null;

    /// <summary>The one that a day is.</summary>
    public static YearlyDay Of(DateOnly day) => new(day.Month, day.Day);
}
