using System.Globalization;
using GateChain.Core.Chains.Reading;
using GateChain.Core.Expressions;
using GateChain.Core.Problems;
using GateChain.Core.Scheduling;
using GateChain.Core.Scheduling.Calendars;

namespace GateChain.Core.Triggers.Reading;

/// <summary>Reads the <c>schedule</c> of a trigger.</summary>
static class ScheduleReader
{
    static readonly string[] Forms = ["every", "cron", "rrule"];

    /// <summary>The longest that fires are spread over.</summary>
    static readonly TimeSpan MostSpread = TimeSpan.FromDays(1);

    public static ScheduleSource? Read(MapReader map, CalendarsFile calendars)
    {
        var problems = map.Problems;
        var zone = map.Zone("zone");
        var from = Moment(map, "from", zone);
        var until = Moment(map, "until", zone);
        var off = map.OneOrMore("except");
        foreach (var name in off.Where(n => calendars.Find(n.Text) is null))
            Unknown(name.Text, name.Span, calendars, problems);
        var onDayOff = map.Choice(
            "onDayOff",
            OnDayOff.Skip,
            ("skip", OnDayOff.Skip),
            ("before", OnDayOff.Before),
            ("after", OnDayOff.After)
        );
        var missed = map.Choice(
            "missed",
            MissedRule.Last,
            ("last", MissedRule.Last),
            ("none", MissedRule.None),
            ("all", MissedRule.All)
        );
        var spread = map.Duration("spread");
        var dueBy = Time(map, "dueBy");
        if (spread > MostSpread)
            problems.Add(ProblemKinds.WrongValue, map.KeySpan("spread"), $"“spread” is a day at most");
        if (onDayOff != OnDayOff.Skip && off.Count == 0)
        {
            problems.Add(
                ProblemKinds.MissingKey,
                map.KeySpan("onDayOff"),
                $"“onDayOff” says what becomes of days that “except” names, and there is none"
            );
        }
        if (until is { } end && from is { } start && end <= start)
            problems.Add(ProblemKinds.WrongValue, map.KeySpan("until"), $"“until” lies before “from”");
        var schedule = Schedule(map, zone, from, calendars);
        map.End();
        return schedule is null
            ? null
            : new(
                new(
                    schedule,
                    zone,
                    [.. off.Select(n => calendars.Find(n.Text)).OfType<IDayOff>()],
                    onDayOff,
                    from,
                    until
                ),
                zone,
                missed,
                spread,
                [.. off.Select(n => n.Text)],
                Forms.First(f => map.Take(f) is not null),
                dueBy
            );
    }

    static Schedule? Schedule(MapReader map, TimeZoneInfo zone, DateTimeOffset? from, CalendarsFile calendars)
    {
        var said = Forms.Where(f => map.Take(f) is not null).ToList();
        var every = map.OneOrMore("every");
        var at = map.OneOrMore("at");
        var on = map.Scalar("on");
        if (said is not [var form])
        {
            map.Problems.Add(
                ProblemKinds.BadSchedule,
                new(map.Map.Span.Start, map.Map.Span.Start),
                $"a schedule has one of every, cron and rrule",
                "for example { every: day, at: \"02:30\", zone: Europe/Dublin }"
            );
            return null;
        }
        Schedule? schedule = null;
        Sentence? problem = null;
        var place = map.KeySpan(form);
        switch (form)
        {
            case "every":
                if (every.Count == 0)
                    return null;
                (schedule, problem) = ScheduleText.Parse(
                    [.. every.Select(e => e.Text)],
                    [.. at.Select(a => a.Text)],
                    on?.Text,
                    zone,
                    from,
                    calendars.Find
                );
                place = every[0].Span;
                break;
            case "cron" when map.Scalar("cron") is { } text:
                (schedule, problem) = Cron.Parse(text.Text, zone);
                place = text.Span;
                break;
            case "rrule" when map.Scalar("rrule") is { } text:
                var (rule, wrong) = RecurrenceText.Parse(text.Text);
                problem = wrong;
                // It is counted from somewhere; a Monday, so that weeks of two are the same for everybody.
                if (rule is not null)
                    schedule = new RecurrenceSchedule(rule, Start(map, from, zone), zone);
                place = text.Span;
                break;
        }
        if (form != "every" && (at.Count > 0 || on is not null) && !(form == "rrule" && on is null && at.Count == 1))
        {
            map.Problems.Add(
                ProblemKinds.BadSchedule,
                map.KeySpan(on is null ? "at" : "on"),
                $"“at” and “on” belong to “every”; “{form}” says its times itself"
            );
        }
        if (problem is not null)
            map.Problems.Add(ProblemKinds.BadSchedule, place, problem);
        return schedule;
    }

    // What a rule does not say is taken from its start: the time of the day, the day of the week, the day of the month.
    static DateTime Start(MapReader map, DateTimeOffset? from, TimeZoneInfo zone)
    {
        var start = from is { } at ? TimeZoneInfo.ConvertTime(at, zone).DateTime : new(2024, 1, 1);
        return Time(map, "at") is { } time ? start.Date + time.ToTimeSpan() : start;
    }

    static TimeOnly? Time(MapReader map, string key)
    {
        if (map.OneOrMore(key) is not [var scalar, ..])
            return null;
        if (TimesOfDay.Parse(scalar.Text) is { } time)
        {
            return time;
        }
        map.Problems.Add(
            ProblemKinds.WrongValue,
            scalar.Span,
            $"“{scalar.Text}” is no time of the day: 02:30 or 02:30:15"
        );
        return null;
    }

    // A day begins at its midnight in the zone.
    static DateTimeOffset? Moment(MapReader map, string key, TimeZoneInfo zone)
    {
        if (map.Scalar(key) is not { } scalar)
            return null;
        if (
            DateTime.TryParseExact(
                scalar.Text,
                ["yyyy-MM-dd", "yyyy-MM-ddTHH:mm", "yyyy-MM-ddTHH:mm:ss", "yyyy-MM-dd HH:mm"],
                CultureInfo.InvariantCulture,
                DateTimeStyles.None,
                out var local
            )
        )
        {
            return LocalTimes.First(zone, local);
        }
        map.Problems.Add(
            ProblemKinds.WrongValue,
            scalar.Span,
            $"“{key}” is a date such as 2026-01-31, or a date and a time such as 2026-01-31T06:00; "
                + $"“{scalar.Text}” is neither"
        );
        return null;
    }

    static void Unknown(string name, Span span, CalendarsFile calendars, ProblemList problems) =>
        problems.Add(
            ProblemKinds.UnknownCalendar,
            span,
            $"there is no calendar “{name}”",
            Nearest.Fix(name, calendars.Names) ?? "declare it in calendars.yaml"
        );
}
