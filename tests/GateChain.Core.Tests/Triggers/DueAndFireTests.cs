using System.Globalization;
using GateChain.Core.Identity;
using GateChain.Core.Problems;
using GateChain.Core.Scheduling.Calendars;
using GateChain.Core.Triggers;
using GateChain.Core.Triggers.Reading;
using GateChain.Core.Values;

namespace GateChain.Core.Tests.Triggers;

/// <summary>What of a schedule fires at a moment, and what a fire does.</summary>
public class DueAndFireTests
{
    static DateTimeOffset At(string text) =>
        DateTimeOffset.Parse(text, CultureInfo.InvariantCulture, DateTimeStyles.AssumeUniversal);

    static TriggerDefinition Read(string text)
    {
        var problems = new ProblemList("triggers.yaml", text);
        var calendars = CalendarsFile.Read(
            "off: { dates: [2026-11-24], weekly: sun }\nwork: { allBut: off, without: christmas }\n"
                + "christmas: { yearly: [12-25] }",
            new("c", "")
        );
        var trigger = Assert.Single(TriggersFile.Read(text, Area.Root, problems, Play.Kinds, calendars, _ => null));
        Assert.Empty(problems.Ordered);
        return trigger;
    }

    [Theory]
    [InlineData("every: day, at: \"02:30\", dueBy: \"06:00\"", "24T05:59:59", "23.02:30", "24.06:00")]
    [InlineData("every: day, at: \"02:30\", dueBy: \"06:00\"", "24T06:00", "24.02:30", "25.06:00")]
    [InlineData("every: day, at: \"06:00\", dueBy: \"06:00\"", "24T06:00", "23.06:00", "25.06:00")]
    [InlineData("every: 1h, dueBy: \"06:00\"", "24T07:10", "24.05:00", "25.06:00")]
    [InlineData("every: day, at: \"23:00\", dueBy: \"01:00\"", "24T01:00", "23.23:00", "25.01:00")]
    [InlineData("every: day, at: \"02:30\"", "24T07:00", "", "")]
    public void ByWhenARunHasToBeThrough(string schedule, string now, string passed, string next)
    {
        var source = (ScheduleSource)Read($"t: {{ chain: x, schedule: {{ {schedule} }} }}").Source;
        var (due, then) = source.DeadlinesAt(At($"2026-11-{now}Z"));
        Assert.Equal((passed, next), ($"{due?.At:dd.HH:mm}", $"{then:dd.HH:mm}"));
        Assert.Equal(
            due is null ? null : At($"2026-11-{next[..2]}T{next[3..]}Z").AddDays(-1),
            due is { At: var at } ? source.DeadlineOf(at) : null
        );
    }

    // On the day on which clocks are put forward at 01:00, 01:30 comes at 02:00.
    [Fact]
    public void ByATimeThatDoesNotExist()
    {
        var source = (ScheduleSource)
            Read(
                "t: { chain: x, schedule: { every: day, at: \"00:10\", zone: Europe/Dublin, dueBy: \"01:30\" } }"
            ).Source;
        Assert.Equal("every day at 00:10 Dublin time, to be through by 01:30", source.Sentence);
        Assert.Equal(At("2026-03-29T01:00:00Z"), source.DeadlineOf(At("2026-03-29T00:10:00Z")));
        Assert.Equal(At("2026-03-30T00:30:00Z"), source.DeadlineOf(At("2026-03-29T23:10:00Z")));
    }

    static string Plan(string schedule, string? mark, string since, string present, string now)
    {
        var trigger = Read($"t: {{ chain: x, schedule: {{ {schedule} }} }}");
        var plan = DuePlan.At(
            "t",
            (ScheduleSource)trigger.Source,
            new(mark is null ? null : At(mark), At(since), At(present)),
            At(now)
        );
        return string.Join(
                " ",
                plan.Now.Select(f =>
                    $"{f.Due:dd.HH:mm}<{f.From:dd.HH:mm}"
                    + $"{(f.Missed > 0 ? $"+{f.Missed}" : "")}{(f.PassedOver is null ? "" : "-")}"
                )
            ) + $" next {plan.Next:dd.HH:mm}";
    }

    [Theory]
    // Somebody was there.
    [InlineData(
        "every: 1h",
        null,
        "23T00:30",
        "23T00:00",
        "23T02:10",
        "23.01:00<23.00:00 23.02:00<23.01:00 next 23.03:00"
    )]
    [InlineData("every: 1h", "23T01:00", "23T00:30", "23T00:00", "23T02:00", "23.02:00<23.01:00 next 23.03:00")]
    [InlineData("every: 1h", "23T02:00", "23T00:30", "23T00:00", "23T02:59", " next 23.03:00")]
    // Nobody was.
    [InlineData("every: 1h", "23T01:00", "23T00:30", "23T05:30", "23T05:30", "23.05:00<23.01:00+3 next 23.06:00")]
    [InlineData(
        "every: 1h, missed: none",
        "23T01:00",
        "23T00:30",
        "23T05:30",
        "23T05:30",
        "23.05:00<23.04:00+3- next 23.06:00"
    )]
    [InlineData(
        "every: 1h, missed: all",
        "23T03:00",
        "23T00:30",
        "23T05:30",
        "23T06:00",
        "23.04:00<23.03:00 23.05:00<23.04:00 23.06:00<23.05:00 next 23.07:00"
    )]
    // Part of it: what was missed is one fire, what came since has its own.
    [InlineData(
        "every: 1h",
        "23T01:00",
        "23T00:30",
        "23T04:30",
        "23T06:00",
        "23.04:00<23.01:00+2 23.05:00<23.04:00 23.06:00<23.05:00 next 23.07:00"
    )]
    // One missed time is as if it had not been missed.
    [InlineData("every: 1h", "23T03:00", "23T00:30", "23T04:30", "23T04:30", "23.04:00<23.03:00 next 23.05:00")]
    // Times before it was armed, edited or switched on do not count.
    [InlineData("every: 1h", "23T01:00", "23T04:30", "23T05:30", "23T05:30", "23.05:00<23.04:00 next 23.06:00")]
    // Days off, and the period that goes back over them.
    [InlineData(
        "every: day, at: \"06:00\", except: off",
        null,
        "23T00:00",
        "23T00:00",
        "25T07:00",
        "23.06:00<21.06:00 25.06:00<23.06:00 next 26.06:00"
    )]
    [InlineData(
        "every: day, at: \"06:00\", except: work",
        null,
        "23T00:00",
        "23T00:00",
        "25T07:00",
        "24.06:00<22.06:00 next 29.06:00"
    )]
    [InlineData(
        "every: day, at: \"06:00\", until: 2026-11-24",
        null,
        "23T00:00",
        "23T00:00",
        "25T07:00",
        "23.06:00<22.06:00 next "
    )]
    public void WhatFiresAtAMoment(
        string schedule,
        string? mark,
        string since,
        string present,
        string now,
        string plan
    ) => Assert.Equal(plan, Plan(schedule, mark is null ? null : Full(mark), Full(since), Full(present), Full(now)));

    static string Full(string text) => $"2026-11-{text}:00Z";

    [Fact]
    public void ASpreadIsTheSameForTheSameDueTimeAndWithinItsBounds()
    {
        var source = (ScheduleSource)Read("t: { chain: x, schedule: { every: 1h, spread: 10m } }").Source;
        var delays = Enumerable
            .Range(0, 500)
            .Select(i => source.DelayOf("t", At("2026-11-23T00:00:00Z").AddHours(i)))
            .ToList();
        Assert.All(delays, d => Assert.InRange(d, TimeSpan.Zero, TimeSpan.FromMinutes(10)));
        Assert.Equal(delays[7], source.DelayOf("t", At("2026-11-23T07:00:00Z")));
        Assert.NotEqual(delays[7], source.DelayOf("other", At("2026-11-23T07:00:00Z")));
        // Evenly: a tenth of the time holds about a tenth of them.
        Assert.InRange(delays.Count(d => d < TimeSpan.FromMinutes(1)), 20, 90);
        // It fires at the end of its delay, and not before.
        var due = At("2026-11-23T07:00:00Z");
        var memory = new DueProgress(due.AddHours(-1), due.AddHours(-1), due.AddHours(-1));
        Assert.Empty(DuePlan.At("t", source, memory, due + delays[7] - TimeSpan.FromSeconds(1)).Now);
        Assert.Equal(due, Assert.Single(DuePlan.At("t", source, memory, due + delays[7]).Now).Due);
    }

    [Fact]
    public void AWeekOfMissedSecondsIsOneFireSoon()
    {
        var source = (ScheduleSource)Read("t: { chain: x, schedule: { every: 1s } }").Source;
        var now = At("2026-11-23T00:00:00Z");
        var plan = DuePlan.At("t", source, new(now.AddDays(-7), now.AddDays(-7), now), now);
        var fire = Assert.Single(plan.Now, f => f.Due < now);
        Assert.Equal((now.AddSeconds(-1), 99_999 + 1), (fire.Due, fire.Missed));
    }

    static string Decide(string trigger, Value happened) =>
        FireRules.Decide(
            Read(trigger),
            happened,
            Value.Map(("limit", Value.Int(3))),
            Value.Map(("mark", Value.Int(7)))
        ) switch
        {
            FireDecision.Start start => string.Join(" ", start.Params.Select(p => $"{p.Key}={p.Value}")),
            FireDecision.PassOver over => $"over: {over.Why}",
            FireDecision.Refuse refuse => $"refused: {refuse.Why}",
            var other => other.ToString(),
        };

    [Theory]
    [InlineData("params: { a: event.n + profile.limit, b: kept.mark }", "a=5 b=7")]
    [InlineData("when: event.n > 1, params: { a: 1 }", "a=1")]
    [InlineData("when: event.n > 2", "over: its when is false: event.n > 2")]
    [InlineData("when: event.m > 2", "refused: its when can't be computed: no such key: m")]
    [InlineData("when: event.n", "refused: its when is no bool: event.n")]
    [InlineData("params: { a: event.m, b: 1 / 0 }", "refused: “a” can't be computed")]
    public void WhatAFireDoes(string says, string does) =>
        Assert.StartsWith(
            does,
            Decide($"t: {{ chain: x, schedule: {{ every: 1h }}, {says} }}", Value.Map(("n", Value.Int(2)))),
            StringComparison.Ordinal
        );

    [Theory]
    [InlineData("DTSTART;VALUE=DATE:20261224\nDTEND;VALUE=DATE:20261227", "2026-12-24 2026-12-25 2026-12-26")]
    [InlineData("DTSTART;VALUE=DATE:20261224", "2026-12-24")]
    [InlineData("DTSTART:20261224T220000Z\nDTEND:20261225T020000Z", "2026-12-24 2026-12-25")]
    [InlineData("DTSTART:20261224T220000Z\nDTEND:20261225T000000Z", "2026-12-24")]
    [InlineData("DTSTART;VALUE=DATE:20261201\nRRULE:FREQ=WEEKLY;COUNT=3", "2026-12-01 2026-12-08 2026-12-15")]
    public void DaysOfACalendarFile(string happening, string days)
    {
        var (found, problem) = CalendarFile.Read(
            $"BEGIN:VCALENDAR\nVERSION:2.0\nBEGIN:VEVENT\nUID:1\nSUMMARY:x\n{happening}\nEND:VEVENT\nEND:VCALENDAR\n"
        );
        Assert.Null(problem);
        Assert.Equal(
            days,
            string.Join(" ", found!.Order().Select(d => d.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture)))
        );
    }

    [Theory]
    [InlineData("RRULE:FREQ=HOURLY")]
    [InlineData("RRULE:FREQ=MINUTELY;COUNT=5")]
    [InlineData("RRULE:FREQ=NEVER")]
    public void RulesWithinADayAndNonsenseAreRefused(string rule)
    {
        var (_, problem) = CalendarFile.Read(
            $"BEGIN:VCALENDAR\nVERSION:2.0\nBEGIN:VEVENT\nUID:1\nDTSTART:20261224T220000Z\n{rule}\n"
                + "END:VEVENT\nEND:VCALENDAR\n"
        );
        Assert.NotNull(problem);
        // One that has no end is followed to the end of the century.
        var (days, none) = CalendarFile.Read(
            "BEGIN:VCALENDAR\nVERSION:2.0\nBEGIN:VEVENT\nUID:1\nDTSTART;VALUE=DATE:20261224\n"
                + "RRULE:FREQ=YEARLY\nEND:VEVENT\nEND:VCALENDAR\n"
        );
        Assert.Null(none);
        Assert.Equal(74, days!.Count);
    }
}
