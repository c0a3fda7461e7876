using System.Globalization;
using System.Text.RegularExpressions;
using GateChain.Core.Expressions;
using GateChain.Core.Values;

namespace GateChain.Core.Scheduling;

/// <summary>Reads a schedule in words: <c>every</c>, <c>at</c>, <c>on</c>.</summary>
public static partial class ScheduleText
{
    /// <summary>The schedule of some words, or what is wrong with them. Never throws.</summary>
    /// <param name="every">A step under a day, <c>minute</c>, <c>hour</c>, <c>day</c>, <c>weekday</c>, <c>month</c>, or
    /// days of the week.</param>
    /// <param name="at">Times of the day.</param>
    /// <param name="on">A day of the month; null for none.</param>
    /// <param name="zone">The zone of the times.</param>
    /// <param name="from">Steps under a day count from there; null for local midnight of 1970-01-01.</param>
    /// <param name="off">Gives the days off of a calendar by its name; null for one that is not there.</param>
    public static (Schedule? Schedule, Sentence? Problem) Parse(
        IReadOnlyList<string> every,
        IReadOnlyList<string> at,
        string? on,
        TimeZoneInfo zone,
        DateTimeOffset? from,
        Func<string, IDayOff?> off
    )
    {
        if (every is [var step] && StepOf(step) is { } span)
        {
            if (at.Count > 0 || on is not null)
                return (null, $"“every: {step}” is a step of its own: “at” and “on” are for days");
            if (span < TimeSpan.FromSeconds(1) || span >= TimeSpan.FromDays(1))
                return (null, $"a step is from 1s to under a day; for more, say every: day, or write an rrule");
            return (new IntervalSchedule(span, from ?? LocalTimes.First(zone, new(1970, 1, 1))), null);
        }
        var (days, problem) = DaysOf(every, on, off);
        if (days is null)
            return (null, problem);
        if (at.Count == 0)
            return (null, $"a schedule of days says at what time: at: \"02:30\"");
        var times = new List<TimeOnly>();
        foreach (var text in at)
        {
            if (TimesOfDay.Parse(text) is not { } time)
            {
                return (null, $"“{text}” is no time of the day: 02:30 or 02:30:15");
            }
            times.Add(time);
        }
        var schedule = new DaySchedule(days, new ListedTimes(times), zone);
        return schedule.Next(new(2000, 1, 1, 0, 0, 0, TimeSpan.Zero)) is null
            ? (null, $"there is no such day: this never comes")
            : (schedule, null);
    }

    static TimeSpan? StepOf(string every) =>
        every switch
        {
            "minute" => TimeSpan.FromMinutes(1),
            "hour" => TimeSpan.FromHours(1),
            _ when every.Length > 0 && char.IsAsciiDigit(every[0]) => TimeText.ParseSetting(every),
            _ => null,
        };

    static (Days? Days, Sentence? Problem) DaysOf(IReadOnlyList<string> every, string? on, Func<string, IDayOff?> off)
    {
        if (every is ["month"])
        {
            return on is null
                ? (null, $"“every: month” says on which day: on: 1, last, “2nd tue”, “last weekday”")
                : OnDay(on, off);
        }
        if (on is not null)
            return (null, $"“on” is for every: month");
        if (every is ["day"])
            return (new EveryDay(), null);
        if (every is ["weekday"])
            return (WeekDays.Working, null);
        var named = every.Select(e => (Text: e, Day: WeekDays.Named(e))).ToList();
        return named.Find(n => n.Day is null) is { Text: { } unknown }
            ? (
                null,
                $"“every: {unknown}” is none of 15m, minute, hour, day, weekday, month, "
                    + $"and no day of the week (mon to sun)"
            )
            : (new WeekDays(named.Select(n => n.Day!.Value).ToHashSet()), null);
    }

    static (Days? Days, Sentence? Problem) OnDay(string on, Func<string, IDayOff?> off)
    {
        if (on == "last")
            return (new MonthDay(null), null);
        if (int.TryParse(on, NumberStyles.None, CultureInfo.InvariantCulture, out var number))
            return number is >= 1 and <= 31 ? (new MonthDay(number), null) : (null, $"a month has no day {on}");
        if (Place().Match(on) is not { Success: true } match)
            return (null, $"“on: {on}” is none of 1 to 31, last, “2nd tue”, “last weekday”, “2nd workday of CALENDAR”");
        var place = match.Groups["last"].Success ? -(match.Groups["n"].Success ? Number(match) : 1) : Number(match);
        var word = match.Groups["what"].Value;
        if (word is "weekday" or "workday" && !match.Groups["of"].Success)
            return (new NthDay(place, WeekDays.Working, word, word), null);
        if (word == "workday")
        {
            var name = match.Groups["of"].Value;
            return off(name) is { } calendar
                ? (
                    new NthDay(
                        place,
                        new DaysWithout(WeekDays.Working, calendar),
                        $"workday of {name}",
                        $"workday of {name}"
                    ),
                    null
                )
                : (null, $"there is no calendar “{name}”");
        }
        return WeekDays.Named(word) is { } day && !match.Groups["of"].Success
            ? (new NthDay(place, new WeekDays(new HashSet<DayOfWeek> { day }), day.ToString(), word), null)
            : (null, $"“{word}” is no day of the week (mon to sun), and neither weekday nor workday");
    }

    static int Number(Match match) => int.Parse(match.Groups["n"].Value, CultureInfo.InvariantCulture);

    [GeneratedRegex(
        @"^(((?<n>[1-9])(st|nd|rd|th))( (?<last>last))?|(?<last>last)) (?<what>[a-z]+)"
            + @"( of (?<of>[A-Za-z][A-Za-z0-9_-]*))?$"
    )]
    private static partial Regex Place();
}
