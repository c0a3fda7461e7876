using System.Globalization;

namespace GateChain.Core.Scheduling;

/// <summary>A set of days. Immutable. Thread-safe.</summary>
public abstract class Days
{
    /// <summary>Whether a day is one of them.</summary>
    public abstract bool Has(DateOnly day);

    /// <summary>How they are said behind “every”, or alone: <c>day</c>, <c>2nd Tuesday of the month</c>.</summary>
    public abstract string Sentence { get; }

    /// <summary>
    /// The word that <c>every</c> has for them, and the one that <c>on</c> has; null when there is none.
    /// </summary>
    public virtual (string Every, string? On)? Words => null;

    // How far a day is looked for: a 29th of February that is a Sunday comes every 28 years, or 40 across 2100.
    const int Furthest = 366 * 41;

    /// <summary>The first of them that is not before a day; null when there is none within forty years.</summary>
    public DateOnly? From(DateOnly day)
    {
        for (var i = 0; i < Furthest && day.DayNumber + i <= DateOnly.MaxValue.DayNumber; i++)
        {
            if (Has(day.AddDays(i)))
                return day.AddDays(i);
        }
        return null;
    }

    /// <summary>The last of them that is not behind a day; null when there was none within forty years.</summary>
    public DateOnly? Until(DateOnly day)
    {
        for (var i = 0; i < Furthest && day.DayNumber - i >= 0; i++)
        {
            if (Has(day.AddDays(-i)))
                return day.AddDays(-i);
        }
        return null;
    }

    /// <summary>“1st”, “2nd”, “3rd”, “4th” …</summary>
    internal static string Ordinal(int n) =>
        n.ToString(CultureInfo.InvariantCulture)
        + (
            (n % 100) is 11 or 12 or 13
                ? "th"
                : (n % 10) switch
                {
                    1 => "st",
                    2 => "nd",
                    3 => "rd",
                    _ => "th",
                }
        );

    /// <summary>Names with “and” before the last.</summary>
    internal static string And(IReadOnlyList<string> names) => Joined(names, "and");

    /// <summary>Names with “or” before the last.</summary>
    internal static string Or(IReadOnlyList<string> names) => Joined(names, "or");

    static string Joined(IReadOnlyList<string> names, string word) =>
        names.Count < 2 ? string.Concat(names) : $"{string.Join(", ", names.SkipLast(1))} {word} {names[^1]}";
}

/// <summary>Every day.</summary>
public sealed class EveryDay : Days
{
    public override bool Has(DateOnly day) => true;

    public override string Sentence => "day";

    public override (string, string?)? Words => ("day", null);
}

/// <summary>Some days of the week.</summary>
/// <param name="days">Which; at least one.</param>
public sealed class WeekDays(IReadOnlySet<DayOfWeek> days) : Days
{
    static readonly DayOfWeek[] Order =
    [
        DayOfWeek.Monday,
        DayOfWeek.Tuesday,
        DayOfWeek.Wednesday,
        DayOfWeek.Thursday,
        DayOfWeek.Friday,
        DayOfWeek.Saturday,
        DayOfWeek.Sunday,
    ];

    /// <summary>Monday to Friday.</summary>
    public static WeekDays Working { get; } = new(Order.Take(5).ToHashSet());

    /// <summary>The names that files have for the days, Monday first.</summary>
    public static IReadOnlyList<string> Names { get; } = ["mon", "tue", "wed", "thu", "fri", "sat", "sun"];

    /// <summary>The day of a name; null for none.</summary>
    public static DayOfWeek? Named(string name) =>
        Names.ToList().IndexOf(name.ToLowerInvariant()) is >= 0 and var i ? Order[i] : null;

    /// <summary>The name that files have for a day.</summary>
    public static string NameOf(DayOfWeek day) => Names[Array.IndexOf(Order, day)];

    bool IsWorking => days.Count == 5 && Order.Take(5).All(days.Contains);

    public override bool Has(DateOnly day) => days.Contains(day.DayOfWeek);

    public override string Sentence =>
        days.Count == 7 ? "day"
        : IsWorking ? "weekday"
        : And([.. Order.Where(days.Contains).Select(d => d.ToString())]);

    public override (string, string?)? Words =>
        days.Count == 7 ? ("day", null)
        : IsWorking ? ("weekday", null)
        : ($"[{string.Join(", ", Order.Where(days.Contains).Select(NameOf))}]", null);
}

/// <summary>One day of every month.</summary>
/// <param name="number">From 1; months that are too short have none. Null for the last one.</param>
public sealed class MonthDay(int? number) : Days
{
    public override bool Has(DateOnly day) => day.Day == (number ?? DateTime.DaysInMonth(day.Year, day.Month));

    public override string Sentence => number is { } n ? $"{Ordinal(n)} of the month" : "last day of the month";

    public override (string, string?)? Words => ("month", number?.ToString(CultureInfo.InvariantCulture) ?? "last");
}

/// <summary>The first, second … or last of some days in every month.</summary>
/// <param name="place">From 1; -1 for the last, -2 for the one before it.</param>
/// <param name="of">The days that are counted.</param>
/// <param name="name">How one of them is called: <c>Tuesday</c>, <c>workday of dairy</c>.</param>
/// <param name="word">The same as files have it: <c>tue</c>.</param>
public sealed class NthDay(int place, Days of, string name, string word) : Days
{
    public override bool Has(DateOnly day)
    {
        if (!of.Has(day))
            return false;
        var first = new DateOnly(day.Year, day.Month, 1);
        var (from, to) = place > 0 ? (first, day.AddDays(-1)) : (day.AddDays(1), first.AddMonths(1).AddDays(-1));
        var others = 0;
        for (var at = from; at <= to; at = at.AddDays(1))
        {
            if (of.Has(at))
                others++;
        }
        return others == Math.Abs(place) - 1;
    }

    string Which(string last) =>
        place == -1 ? last
        : place < 0 ? $"{Ordinal(-place)} {last}"
        : Ordinal(place);

    public override string Sentence => $"{Which("last")} {name} of the month";

    public override (string, string?)? Words => ("month", $"{Which("last")} {word}");
}

/// <summary>Days that are in one set and not in another.</summary>
public sealed class DaysWithout(Days days, IDayOff off) : Days
{
    public override bool Has(DateOnly day) => days.Has(day) && !off.Has(day);

    public override string Sentence => $"{days.Sentence} but {off.Name}";
}

/// <summary>Days on which something does not happen.</summary>
public interface IDayOff
{
    /// <summary>What they are called.</summary>
    string Name { get; }

    /// <summary>Whether a day is one of them.</summary>
    bool Has(DateOnly day);
}
