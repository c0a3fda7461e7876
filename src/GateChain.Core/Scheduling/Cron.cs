using System.Globalization;
using GateChain.Core.Expressions;

namespace GateChain.Core.Scheduling;

/// <summary>
/// Reads a cron text: five fields (minute, hour, day of month, month, day of week), or six with seconds before them.
/// </summary>
/// <remarks>Source: crontab(5); <c>L</c>, <c>#</c> and <c>?</c> as schedulers have them in common.</remarks>
public static class Cron
{
    static readonly string[] Months =
    [
        "jan",
        "feb",
        "mar",
        "apr",
        "may",
        "jun",
        "jul",
        "aug",
        "sep",
        "oct",
        "nov",
        "dec",
    ];
    static readonly string[] WeekDayNames = ["sun", "mon", "tue", "wed", "thu", "fri", "sat"];

    /// <summary>The schedule of a cron text, or what is wrong with it. Never throws.</summary>
    public static (Schedule? Schedule, Sentence? Problem) Parse(string text, TimeZoneInfo zone)
    {
        var fields = text.Split((char[])[' ', '\t'], StringSplitOptions.RemoveEmptyEntries);
        if (fields.Length is not (5 or 6))
            return (null, $"a cron text has 5 fields, or 6 with seconds first; this one has {fields.Length}");
        if (fields.Length == 5)
            fields = ["0", .. fields];
        var problem = (Sentence?)null;
        ulong Read(int index, string what, int least, int most, string[]? names = null)
        {
            var (bits, wrong) = Field(fields[index], what, least, most, names);
            problem ??= wrong;
            return bits;
        }
        var (seconds, minutes, hours) = (Read(0, "second", 0, 59), Read(1, "minute", 0, 59), Read(2, "hour", 0, 23));
        var months = Read(4, "month", 1, 12, Months);
        var (dates, wrongDates) = Dates(fields[3]);
        var (week, wrongWeek) = Week(fields[5]);
        problem ??= wrongDates ?? wrongWeek;
        if (problem is not null)
            return (null, problem);
        Days days = (dates, week) switch
        {
            (null, null) => new EveryDay(),
            ({ } only, null) => only,
            (null, { } only) => only,
            // As crontab(5) has it: the day of the month, or the day of the week.
            ({ } one, { } other) => new EitherDays(one, other),
        };
        if (months != AllMonths)
            days = new DaysOfMonths(days, months);
        var schedule = new DaySchedule(days, new FieldTimes(hours, minutes, seconds), zone, fields.Take(3).Any(GoesOn));
        return schedule.Next(new(2000, 1, 1, 0, 0, 0, TimeSpan.Zero)) is null
            ? (null, $"there is no such day: “{text}” never comes")
            : (schedule, null);
    }

    const ulong AllMonths = 0b1_1111_1111_1110;

    // Numbers are times of a day; ranges and steps are a pulse that continues when clocks are turned.
    static bool GoesOn(string field) => field.AsSpan().IndexOfAny('*', '-', '/') >= 0;

    static bool IsAny(string field) => field is "*" or "?";

    static (Days?, Sentence?) Dates(string field)
    {
        if (IsAny(field))
            return (null, null);
        if (field.Equals("L", StringComparison.OrdinalIgnoreCase))
            return (new MonthDay(null), null);
        var (bits, wrong) = Field(field, "day of the month", 1, 31, null);
        return (wrong is null ? new MonthDays(bits) : null, wrong);
    }

    static (Days?, Sentence?) Week(string field)
    {
        if (IsAny(field))
            return (null, null);
        if (field.IndexOf('#', StringComparison.Ordinal) is > 0 and var hash)
        {
            return
                WeekDay(field[..hash]) is { } day
                && int.TryParse(field.AsSpan(hash + 1), NumberStyles.None, CultureInfo.InvariantCulture, out var place)
                && place is >= 1 and <= 5
                ? (Nth(day, place), null)
                : (null, $"“{field}” is no day of the week with its place: for example TUE#2");
        }
        if (field.Length > 1 && field[^1] is 'L' or 'l' && WeekDay(field[..^1]) is { } last)
            return (Nth(last, -1), null);
        var (bits, wrong) = Field(field, "day of the week", 0, 7, WeekDayNames);
        return (
            wrong is null
                ? new WeekDays(
                    Enumerable.Range(0, 8).Where(n => (bits >> n & 1) == 1).Select(n => (DayOfWeek)(n % 7)).ToHashSet()
                )
                : null,
            wrong
        );
    }

    static NthDay Nth(DayOfWeek day, int place) =>
        new(place, new WeekDays(new HashSet<DayOfWeek> { day }), day.ToString(), WeekDays.NameOf(day));

    static DayOfWeek? WeekDay(string text) =>
        Number(text, 0, WeekDayNames) is >= 0 and <= 7 and var n ? (DayOfWeek)(n % 7) : null;

    static int? Number(string text, int first, string[]? names) =>
        int.TryParse(text, NumberStyles.None, CultureInfo.InvariantCulture, out var number) ? number
        : names is not null && Array.IndexOf(names, text.ToLowerInvariant()) is >= 0 and var i ? i + first
        : null;

    // Lists of numbers, ranges and steps, as bits.
    static (ulong Bits, Sentence? Problem) Field(string field, string what, int least, int most, string[]? names)
    {
        var bits = 0UL;
        foreach (var part in field.Split(','))
        {
            var slash = part.Split('/');
            var range = slash[0].Split('-');
            var step = slash.Length == 2 ? Number(slash[1], 0, null) : 1;
            int? from,
                to;
            if (range[0] == "*" && range.Length == 1)
            {
                (from, to) = (least, most is 7 ? 6 : most);
            }
            else
            {
                from = Number(range[0], least == 1 ? 1 : 0, names);
                // A single number with a step continues to the end.
                to =
                    range.Length == 2 ? Number(range[1], least == 1 ? 1 : 0, names)
                    : slash.Length == 2 ? (most is 7 ? 6 : most)
                    : from;
            }
            if (
                slash.Length > 2
                || range.Length > 2
                || from is not { } first
                || to is not { } last
                || step is not (> 0 and { } by)
                || first < least
                || last > most
                || first > most
                || last < least
            )
            {
                return (
                    0,
                    $"“{part}” is no {what}: numbers from {least} to {most}, ranges such as 1-5, and steps such as */15"
                );
            }
            // A range may go over the end: FRI-MON, 22-2.
            var size = most is 7 ? 7 : most - least + 1;
            var length = last >= first ? last - first : last + size - first;
            for (var i = 0; i <= length; i += by)
                bits |= 1UL << (first + i > most ? first + i - size : first + i);
        }
        return (bits, null);
    }
}

/// <summary>Some days of every month, as bits: bit n stands for the nth.</summary>
sealed class MonthDays(ulong bits) : Days
{
    public override bool Has(DateOnly day) => (bits >> day.Day & 1) == 1;

    int[] Numbers => [.. Enumerable.Range(1, 31).Where(n => (bits >> n & 1) == 1)];

    public override string Sentence =>
        Numbers is { Length: 31 } ? "day" : $"{And([.. Numbers.Select(Ordinal)])} of the month";

    public override (string, string?)? Words =>
        Numbers is [var only] ? ("month", only.ToString(CultureInfo.InvariantCulture))
        : Numbers is { Length: 31 } ? ("day", null)
        : null;
}

/// <summary>Days of some months only, as bits: bit n stands for the nth.</summary>
sealed class DaysOfMonths(Days days, ulong months) : Days
{
    public override bool Has(DateOnly day) => (months >> day.Month & 1) == 1 && days.Has(day);

    public override string Sentence =>
        $"{days.Sentence} in "
        + And([
            .. Enumerable
                .Range(1, 12)
                .Where(n => (months >> n & 1) == 1)
                .Select(CultureInfo.InvariantCulture.DateTimeFormat.GetMonthName),
        ]);
}

/// <summary>Days that are in one of two sets.</summary>
sealed class EitherDays(Days one, Days other) : Days
{
    public override bool Has(DateOnly day) => one.Has(day) || other.Has(day);

    public override string Sentence => $"{one.Sentence}, and every {other.Sentence},";
}
