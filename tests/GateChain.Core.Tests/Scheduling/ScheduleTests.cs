using System.Globalization;
using GateChain.Core.Scheduling;

namespace GateChain.Core.Tests.Scheduling;

/// <summary>Schedules as people write them: the sentence, and the next times.</summary>
public class ScheduleTests
{
    sealed class Dates(string name, params string[] days) : IDayOff
    {
        readonly HashSet<DateOnly> _days = [.. days.Select(d => DateOnly.Parse(d, CultureInfo.InvariantCulture))];

        public string Name => name;

        public bool Has(DateOnly day) => _days.Contains(day);
    }

    static readonly Dates Dairy = new("dairy", "2026-12-24", "2026-12-25", "2026-12-28");

    static TimeZoneInfo Zone(string name) => TimeZoneInfo.FindSystemTimeZoneById(name);

    static readonly TimeZoneInfo Dublin = Zone("Europe/Dublin");

    static DateTimeOffset At(string text) => DateTimeOffset.Parse(text, CultureInfo.InvariantCulture);

    // The next times as local ones, so that they can be read.
    static string Next(Schedule schedule, TimeZoneInfo zone, string after, int count)
    {
        var found = new List<string>();
        for (var at = schedule.Next(At(after)); at is { } due && found.Count < count; at = schedule.Next(due))
        {
            found.Add(
                TimeZoneInfo.ConvertTime(due, zone).ToString("yyyy-MM-dd HH:mm zzz", CultureInfo.InvariantCulture)
            );
        }
        return string.Join(" | ", found);
    }

    static Schedule Words(string every, string at = "", string? on = null, TimeZoneInfo? zone = null)
    {
        string[] Split(string text) => text.Split(',', StringSplitOptions.RemoveEmptyEntries);
        var (schedule, problem) = ScheduleText.Parse(Split(every), Split(at), on, zone ?? Dublin, null, n =>
            n == "dairy" ? Dairy : null
        );
        return schedule ?? throw new ArgumentException(problem?.ToString());
    }

    [Theory]
    [InlineData("15m", "", null, "every 15 minutes", "2026-11-23 06:15 +00:00 | 2026-11-23 06:30 +00:00")]
    [InlineData("hour", "", null, "every hour", "2026-11-23 07:00 +00:00 | 2026-11-23 08:00 +00:00")]
    [InlineData("day", "02:30", null, "every day at 02:30", "2026-11-24 02:30 +00:00 | 2026-11-25 02:30 +00:00")]
    [InlineData(
        "day",
        "14:00,02:30",
        null,
        "every day at 02:30 and 14:00",
        "2026-11-23 14:00 +00:00 | 2026-11-24 02:30 +00:00"
    )]
    [InlineData(
        "weekday",
        "02:30",
        null,
        "every weekday at 02:30",
        "2026-11-24 02:30 +00:00 | 2026-11-25 02:30 +00:00"
    )]
    [InlineData(
        "mon,thu",
        "02:30",
        null,
        "every Monday and Thursday at 02:30",
        "2026-11-26 02:30 +00:00 | 2026-11-30 02:30 +00:00"
    )]
    [InlineData(
        "month",
        "06:00",
        "1",
        "every 1st of the month at 06:00",
        "2026-12-01 06:00 +00:00 | 2027-01-01 06:00 +00:00"
    )]
    [InlineData(
        "month",
        "06:00",
        "31",
        "every 31st of the month at 06:00",
        "2026-12-31 06:00 +00:00 | 2027-01-31 06:00 +00:00 | 2027-03-31 06:00 +01:00"
    )]
    [InlineData(
        "month",
        "06:00",
        "last",
        "every last day of the month at 06:00",
        "2026-11-30 06:00 +00:00 | 2026-12-31 06:00 +00:00"
    )]
    [InlineData(
        "month",
        "06:00",
        "2nd tue",
        "every 2nd Tuesday of the month at 06:00",
        "2026-12-08 06:00 +00:00 | 2027-01-12 06:00 +00:00"
    )]
    [InlineData(
        "month",
        "06:00",
        "last weekday",
        "every last weekday of the month at 06:00",
        "2026-11-30 06:00 +00:00 | 2026-12-31 06:00 +00:00"
    )]
    [InlineData(
        "month",
        "06:00",
        "2nd last fri",
        "every 2nd last Friday of the month at 06:00",
        "2026-12-18 06:00 +00:00"
    )]
    [InlineData(
        "month",
        "06:00",
        "2nd last workday of dairy",
        "every 2nd last workday of dairy of the month at 06:00",
        "2026-11-27 06:00 +00:00 | 2026-12-30 06:00 +00:00"
    )]
    public void WordsAreToldBackWithTheNextTimes(string every, string at, string? on, string sentence, string next)
    {
        var schedule = Words(every, at, on);
        Assert.Equal(sentence, schedule.Sentence);
        Assert.Equal(next, Next(schedule, Dublin, "2026-11-23T06:00:00Z", next.Split('|').Length));
        // And back into words that mean the same.
        var words = schedule.Words!;
        var again = Words(
            words.Every.Trim('[', ']').Replace(" ", "", StringComparison.Ordinal),
            string.Join(',', words.At ?? []),
            words.On
        );
        Assert.Equal((schedule.Sentence, words.Every), (again.Sentence, again.Words!.Every));
    }

    [Theory]
    [InlineData(
        "fortnight",
        "02:30",
        null,
        "“every: fortnight” is none of 15m, minute, hour, day, weekday, month, and no day of the week (mon to sun)"
    )]
    [InlineData("day", "", null, "a schedule of days says at what time: at: \"02:30\"")]
    [InlineData("day", "2:30", null, "“2:30” is no time of the day: 02:30 or 02:30:15")]
    [InlineData("day", "25:00", null, "“25:00” is no time of the day: 02:30 or 02:30:15")]
    [InlineData("15m", "02:30", null, "“every: 15m” is a step of its own: “at” and “on” are for days")]
    [InlineData("2d", "", null, "a step is from 1s to under a day; for more, say every: day, or write an rrule")]
    [InlineData("month", "02:30", null, "“every: month” says on which day: on: 1, last, “2nd tue”, “last weekday”")]
    [InlineData("month", "02:30", "32", "a month has no day 32")]
    [InlineData(
        "month",
        "02:30",
        "2nd moonday",
        "“moonday” is no day of the week (mon to sun), and neither weekday nor workday"
    )]
    [InlineData("month", "02:30", "2nd workday of moon", "there is no calendar “moon”")]
    [InlineData(
        "month",
        "02:30",
        "2st tuesday of",
        "“on: 2st tuesday of” is none of 1 to 31, last, “2nd tue”, “last weekday”, “2nd workday of CALENDAR”"
    )]
    [InlineData("day", "02:30", "1", "“on” is for every: month")]
    public void WhatIsWrongWithWordsIsTold(string every, string at, string? on, string problem) =>
        Assert.Equal(problem, Assert.Throws<ArgumentException>(() => Words(every, at, on)).Message);

    [Theory]
    // A time that does not exist comes at the first moment behind the gap; one that comes twice comes once.
    [InlineData("Europe/Dublin", "01:30", "2026-03-28T12:00:00Z", "2026-03-29 02:00 +01:00 | 2026-03-30 01:30 +01:00")]
    [InlineData("Europe/Dublin", "01:30", "2026-10-24T12:00:00Z", "2026-10-25 01:30 +01:00 | 2026-10-26 01:30 +00:00")]
    [InlineData(
        "America/New_York",
        "02:15,02:45",
        "2026-03-07T12:00:00Z",
        "2026-03-08 03:00 -04:00 | 2026-03-09 02:15 -04:00"
    )]
    [InlineData(
        "Australia/Lord_Howe",
        "02:15",
        "2026-10-03T12:00:00Z",
        "2026-10-04 02:30 +11:00 | 2026-10-05 02:15 +11:00"
    )]
    [InlineData("Pacific/Apia", "10:00", "2011-12-29T21:00:00Z", "2011-12-31 00:00 +14:00 | 2011-12-31 10:00 +14:00")]
    public void ADayOnWhichClocksAreTurned(string zone, string at, string after, string next) =>
        Assert.Equal(next, Next(Words("day", at, zone: Zone(zone)), Zone(zone), after, 2));

    [Theory]
    [InlineData("0 * * * *", "2026-10-25T00:00:00Z", "2026-10-25 01:00 +00:00 | 2026-10-25 02:00 +00:00")]
    [InlineData(
        "*/30 * * * *",
        "2026-10-25T00:00:00Z",
        "2026-10-25 01:30 +01:00 | 2026-10-25 01:00 +00:00 | 2026-10-25 01:30 +00:00 | 2026-10-25 02:00 +00:00"
    )]
    [InlineData(
        "*/30 * * * *",
        "2026-03-29T00:00:00Z",
        "2026-03-29 00:30 +00:00 | 2026-03-29 02:00 +01:00 | 2026-03-29 02:30 +01:00"
    )]
    [InlineData("30 1 * * *", "2026-10-25T00:00:00Z", "2026-10-25 01:30 +01:00 | 2026-10-26 01:30 +00:00")]
    public void WhatGoesOnAllDayGoesOnWhenClocksAreTurned(string cron, string after, string next) =>
        Assert.Equal(next, Next(Cron.Parse(cron, Dublin).Schedule!, Dublin, after, next.Split('|').Length));

    [Theory]
    [InlineData("30 2 * * *", "every day at 02:30", "day 02:30 ")]
    [InlineData("30 2 * * 1-5", "every weekday at 02:30", "weekday 02:30 ")]
    [InlineData("0 6,18 * * MON,THU", "every Monday and Thursday at 06:00 and 18:00", "[mon, thu] 06:00,18:00 ")]
    [InlineData("0 6 1 * *", "every 1st of the month at 06:00", "month 06:00 1")]
    [InlineData("0 6 L * *", "every last day of the month at 06:00", "month 06:00 last")]
    [InlineData("0 6 * * TUE#2", "every 2nd Tuesday of the month at 06:00", "month 06:00 2nd tue")]
    [InlineData("0 6 * * 5L", "every last Friday of the month at 06:00", "month 06:00 last fri")]
    [InlineData("15 30 2 * * *", "every day at 02:30:15", "day 02:30:15 ")]
    [InlineData("*/15 * * * *", "every day at every 15th minute and of every hour", null)]
    [InlineData("0 6 1,15 1-3 *", "every 1st and 15th of the month in January, February and March at 06:00", null)]
    [InlineData("0 6 13 * FRI", "every 13th of the month, and every Friday, at 06:00", null)]
    public void CronIsToldBackAndInWordsWhereTheyAreEqual(string cron, string sentence, string? words)
    {
        var (schedule, problem) = Cron.Parse(cron, Dublin);
        Assert.Null(problem);
        Assert.Equal(sentence, schedule!.Sentence);
        Assert.Equal(words, schedule.Words is { } w ? $"{w.Every} {string.Join(',', w.At!)} {w.On}" : null);
    }

    [Theory]
    [InlineData("* * * *", "a cron text has 5 fields, or 6 with seconds first; this one has 4")]
    [InlineData("60 * * * *", "“60” is no minute: numbers from 0 to 59, ranges such as 1-5, and steps such as */15")]
    [InlineData(
        "* * * * moon",
        "“moon” is no day of the week: numbers from 0 to 7, ranges such as 1-5, and steps such as */15"
    )]
    [InlineData("*/0 * * * *", "“*/0” is no minute: numbers from 0 to 59, ranges such as 1-5, and steps such as */15")]
    [InlineData("0 0 30 2 *", "there is no such day: “0 0 30 2 *” never comes")]
    [InlineData("0 0 * * TUE#6", "“TUE#6” is no day of the week with its place: for example TUE#2")]
    public void WhatIsWrongWithACronTextIsTold(string cron, string problem) =>
        Assert.Equal(problem, Cron.Parse(cron, Dublin).Problem?.ToString());

    [Theory]
    [InlineData(
        "FREQ=MONTHLY;BYDAY=-1FR",
        "every month, on the last Friday, at 02:30",
        "2026-11-27 02:30 +00:00 | 2026-12-25 02:30 +00:00"
    )]
    [InlineData(
        "FREQ=WEEKLY;INTERVAL=2;BYDAY=MO,WE;COUNT=3",
        "every 2nd week, on Monday and Wednesday, at 02:30, 3 times",
        "2026-11-25 02:30 +00:00 | 2026-12-07 02:30 +00:00"
    )]
    [InlineData(
        "FREQ=MONTHLY;BYDAY=MO,TU,WE,TH,FR;BYSETPOS=-2",
        "every month, on Monday, Tuesday, Wednesday, Thursday and Friday, of these the 2nd last, at 02:30",
        "2026-11-27 02:30 +00:00 | 2026-12-30 02:30 +00:00"
    )]
    [InlineData(
        "FREQ=YEARLY;BYMONTH=3;BYMONTHDAY=29;BYHOUR=1",
        "every year, in March, on the 29th of the month, at 01:30",
        "2027-03-29 01:30 +01:00"
    )]
    [InlineData(
        "FREQ=DAILY;UNTIL=20261125T120000Z",
        "every day, at 02:30, until 2026-11-25",
        "2026-11-24 02:30 +00:00 | 2026-11-25 02:30 +00:00"
    )]
    [InlineData(
        "FREQ=SECONDLY;INTERVAL=30;BYDAY=SU;BYHOUR=4;BYMONTH=2",
        "every 30th second, in February, on Sunday, at hour 4",
        "2027-02-07 04:00 +00:00 | 2027-02-07 04:00 +00:00 | 2027-02-07 04:01 +00:00"
    )]
    [InlineData("FREQ=HOURLY;INTERVAL=6", "every 6th hour", "2026-11-23 08:30 +00:00 | 2026-11-23 14:30 +00:00")]
    public void RecurrenceRulesAreToldBackWithTheNextTimes(string rule, string sentence, string next)
    {
        var (read, problem) = RecurrenceText.Parse(rule);
        Assert.Null(problem);
        var schedule = new RecurrenceSchedule(read!, new(2026, 11, 23, 2, 30, 0), Dublin);
        Assert.Equal(sentence, schedule.Sentence);
        Assert.Equal(next, Next(schedule, Dublin, "2026-11-23T06:00:00Z", next.Split('|').Length));
    }

    [Theory]
    [InlineData("BYDAY=MO", "a rule says how often: FREQ=DAILY, WEEKLY, MONTHLY, YEARLY, HOURLY, MINUTELY or SECONDLY")]
    [InlineData("FREQ=DAILY;COUNT=3;UNTIL=20270101", "a rule ends by COUNT or by UNTIL, not by both")]
    [InlineData("FREQ=DAILY;BYWEEKNO=3", "BYWEEKNO is for FREQ=YEARLY")]
    [InlineData(
        "FREQ=DAILY;BYDAY=2TU",
        "the place of a day, as in 2TU, is for FREQ=MONTHLY, and for YEARLY without BYWEEKNO"
    )]
    [InlineData("FREQ=DAILY;MOON=3", "“MOON=3” is no part of a rule")]
    [InlineData("FREQ=DAILY;BYHOUR=24", "“BYHOUR=24” is no part of a rule")]
    [InlineData("FREQ=DAILY;FREQ=DAILY", "the rule has FREQ twice")]
    [InlineData("FREQ", "“FREQ” is no part of a rule; a part is written NAME=VALUE")]
    public void WhatIsWrongWithARuleIsTold(string rule, string problem) =>
        Assert.Equal(problem, RecurrenceText.Parse(rule).Problem?.ToString());

    [Theory]
    [InlineData(OnDayOff.Skip, "2026-12-23 | 2026-12-29 | 2026-12-30")]
    [InlineData(OnDayOff.Before, "2026-12-23 | 2026-12-27 | 2026-12-29")]
    [InlineData(OnDayOff.After, "2026-12-23 | 2026-12-26 | 2026-12-29")]
    public void OnDaysOffItIsLeftOutOrMoved(OnDayOff what, string next)
    {
        var times = new DueTimes(Words("weekday", "06:00"), Dublin, [Dairy], what);
        var found = times
            .Between(At("2026-12-22T12:00:00Z"), At("2027-01-05T12:00:00Z"))
            .Take(3)
            .Select(d => d.At.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture));
        Assert.Equal(next, string.Join(" | ", found));
    }

    // Held to a plain count: every own due time, moved by hand, in order, each once.
    [Theory]
    [InlineData(OnDayOff.Skip)]
    [InlineData(OnDayOff.Before)]
    [InlineData(OnDayOff.After)]
    public void WhatIsMovedIsWhatACountMoves(OnDayOff what)
    {
        var chance = new Random(11);
        string[] often = ["day", "weekday", "mon", "thu", "month", "2h"];
        for (var round = 0; round < 20; round++)
        {
            var every = often[chance.Next(often.Length)];
            var at = every == "2h" ? "" : $"{chance.Next(24):00}:30";
            var schedule = Words(every, at, every == "month" ? "1" : null, Dublin);
            var off = Enumerable
                .Range(0, 120)
                .Where(_ => chance.Next(3) == 0)
                .Select(d => new DateOnly(2026, 9, 1).AddDays(d))
                .ToHashSet();
            var (from, until) = (At("2026-10-05T00:00:00Z"), At("2026-11-08T00:00:00Z"));
            var expected = new SortedSet<DateTimeOffset>();
            for (var own = schedule.Next(from.AddDays(-15)); own < until.AddDays(15); own = schedule.Next(own.Value))
            {
                var local = TimeZoneInfo.ConvertTime(own.Value, Dublin).DateTime;
                var day = DateOnly.FromDateTime(local);
                if (off.Contains(day) && what == OnDayOff.Skip)
                    continue;
                while (off.Contains(day))
                    day = day.AddDays(what == OnDayOff.Before ? -1 : 1);
                expected.Add(
                    day == DateOnly.FromDateTime(local)
                        ? own.Value
                        : LocalTimes.First(Dublin, day.ToDateTime(TimeOnly.FromDateTime(local)))
                );
            }
            var times = new DueTimes(
                schedule,
                Dublin,
                [new Dates("off", [.. off.Select(d => $"{d:yyyy-MM-dd}")])],
                what
            );
            var wanted = expected.Where(e => e > from && e <= until).Select(e => e.ToUniversalTime()).ToList();
            Assert.Equal(wanted, times.Between(from, until).Select(d => d.At));
            // And backwards.
            var back = new List<DateTimeOffset>();
            for (var due = times.Previous(until.AddTicks(1)); due > from; due = times.Previous(due.Value))
                back.Insert(0, due.Value);
            Assert.Equal(wanted, back);
        }
    }

    [Theory]
    [InlineData(
        "FREQ=HOURLY",
        "2026-10-24T23:30:00Z",
        "2026-10-25 01:30 +01:00 | 2026-10-25 01:30 +00:00 | 2026-10-25 02:30 +00:00"
    )]
    [InlineData("FREQ=HOURLY;INTERVAL=2", "2026-03-29T00:00:00Z", "2026-03-29 00:30 +00:00 | 2026-03-29 03:30 +01:00")]
    [InlineData("FREQ=DAILY;BYHOUR=1", "2026-03-28T12:00:00Z", "2026-03-29 02:30 +01:00 | 2026-03-30 01:30 +01:00")]
    [InlineData("FREQ=DAILY;BYHOUR=1", "2026-10-24T12:00:00Z", "2026-10-25 01:30 +01:00 | 2026-10-26 01:30 +00:00")]
    public void ARuleOnADayOnWhichClocksAreTurned(string rule, string after, string next) =>
        Assert.Equal(
            next,
            Next(
                new RecurrenceSchedule(RecurrenceText.Parse(rule).Rule!, new(2026, 1, 1, 0, 30, 0), Dublin),
                Dublin,
                after,
                next.Split('|').Length
            )
        );

    [Fact]
    public void APeriodReachesBackToTheDueTimeBefore()
    {
        var times = new DueTimes(
            Words("weekday", "06:00"),
            Dublin,
            [Dairy],
            from: At("2026-12-23T00:00:00Z"),
            until: At("2026-12-30T06:00:00Z")
        );
        var due = times.Between(DateTimeOffset.MinValue, DateTimeOffset.MaxValue).ToList();
        // Whatever the first one is, it reaches back; at the end there is none.
        Assert.Equal(
            [(At("2026-12-23T06:00Z"), At("2026-12-22T06:00Z")), (At("2026-12-29T06:00Z"), At("2026-12-23T06:00Z"))],
            due.Select(d => (d.At, d.From))
        );
        Assert.Equal(At("2026-12-29T06:00Z"), times.Previous(DateTimeOffset.MaxValue));
        Assert.Null(times.Previous(At("2026-12-23T06:00Z")));
    }
}
