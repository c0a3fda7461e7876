using System.Globalization;
using Cronos;
using GateChain.Core.Scheduling;
using Ical.Net.CalendarComponents;
using Ical.Net.DataTypes;
using Ical.Net.Evaluation;

namespace GateChain.Core.Tests.Scheduling;

/// <summary>
/// Next times are held to what others say, over random schedules and over every change of every zone.
/// </summary>
public class SecondOpinionTests
{
    static readonly DateTimeOffset Start = new(2020, 1, 1, 0, 0, 0, TimeSpan.Zero),
        End = new(2030, 1, 1, 0, 0, 0, TimeSpan.Zero);

    /// <summary>The zones that differ in their changes, each with the moments of them.</summary>
    static readonly Lazy<List<(TimeZoneInfo Zone, List<DateTimeOffset> Changes)>> Zones = new(() =>
        [
            .. TimeZoneInfo
                .GetSystemTimeZones()
                .Select(z => (Zone: z, Changes: ChangesOf(z)))
                .Where(z => z.Changes.Count > 0)
                .DistinctBy(z => string.Join(' ', z.Changes.Select(c => $"{c.UtcTicks}{z.Zone.GetUtcOffset(c)}"))),
        ]
    );

    static List<DateTimeOffset> ChangesOf(TimeZoneInfo zone)
    {
        var changes = new List<DateTimeOffset>();
        for (var at = Start; at < End; at = at.AddHours(12))
        {
            if (zone.GetUtcOffset(at) == zone.GetUtcOffset(at.AddHours(12)))
                continue;
            var (low, high) = (at, at.AddHours(12));
            while (high - low > TimeSpan.FromMinutes(1))
            {
                var middle = low.AddMinutes(Math.Floor((high - low).TotalMinutes / 2));
                if (zone.GetUtcOffset(middle) == zone.GetUtcOffset(at))
                    low = middle;
                else
                    high = middle;
            }
            changes.Add(high);
        }
        return changes;
    }

    [Fact]
    public void ANamedTimeIsTheMomentAtWhichTheClockFirstShowsItOrPassesIt()
    {
        var looked = 0;
        foreach (var (zone, changes) in Zones.Value)
        {
            foreach (var change in changes)
            {
                var around = TimeZoneInfo.ConvertTime(change, zone).Date.AddDays(-1);
                // What the clock has shown at most, minute by minute: where it is put back it shows nothing new.
                var (shown, first) = (DateTime.MinValue, new Dictionary<DateTime, DateTimeOffset>());
                var at = change.AddDays(-3);
                for (var i = 0; i < 6 * 24 * 60; i++, at = at.AddMinutes(1))
                {
                    var local = TimeZoneInfo.ConvertTime(at, zone).DateTime;
                    for (
                        var m = shown == DateTime.MinValue ? local : shown.AddMinutes(1);
                        m <= local;
                        m = m.AddMinutes(1)
                    )
                    {
                        first[m] = at;
                    }
                    shown = local > shown ? local : shown;
                }
                for (var local = around; local < around.AddDays(3); local = local.AddMinutes(15))
                {
                    Assert.Equal(first[local], LocalTimes.First(zone, local));
                    looked++;
                }
            }
        }
        Assert.True(looked > 100_000, $"{looked} times");
    }

    [Fact]
    public void CronTextsAreHeldToCronos()
    {
        var seed = Seed();
        var chance = new Random(seed);
        var both = 0;
        for (var i = 0; i < 3_000; i++)
        {
            var text = RandomCron(chance);
            var (zone, changes) = PlainZones.Value[chance.Next(PlainZones.Value.Count)];
            var (ours, _) = Cron.Parse(text, zone);
            var theirs = CronExpression.Parse(
                text,
                text.Split(' ').Length == 6 ? CronFormat.IncludeSeconds : CronFormat.Standard
            );
            var at =
                chance.Next(3) == 0
                    ? Start.AddMinutes(chance.Next(5_000_000))
                    : changes[chance.Next(changes.Count)].AddMinutes(chance.Next(-1500, 200));
            for (var n = 0; n < 8; n++)
            {
                var opinion = theirs.GetNextOccurrence(at, zone);
                var next = ours?.Next(at);
                // A pulse of hours at named minutes continues here when clocks are put back, and stands still there.
                if (
                    IsPulseOfHours(text)
                    && next is { } near
                    && zone.GetUtcOffset(near.AddHours(-3)) > zone.GetUtcOffset(near.AddHours(3))
                )
                {
                    break;
                }
                Assert.True(
                    next == opinion,
                    $"seed {seed}: “{text}” in {zone.Id} after {at:o}: {next:o}, and Cronos says {opinion:o}"
                );
                if (next is not { } found)
                    break;
                // And back: before the next one stands the last that is not behind the moment.
                Assert.True(
                    ours!.Previous(found.AddTicks(1)) == found,
                    $"seed {seed}: “{text}” in {zone.Id} before {found:o}"
                );
                at = found;
                both++;
            }
        }
        Assert.True(both > 20_000, $"{both} times");
    }

    /// <summary>
    /// Those whose local times the framework, and so Cronos, tells right: not where clocks are turned at midnight,
    /// where winter is what is moved, or where a zone got another offset for good.
    /// </summary>
    static readonly Lazy<List<(TimeZoneInfo Zone, List<DateTimeOffset> Changes)>> PlainZones = new(() =>
        [
            .. Zones.Value.Where(z =>
                z.Changes.TrueForAll(change =>
                    Enumerable
                        .Range(-20, 40)
                        .Select(n => TimeZoneInfo.ConvertTime(change, z.Zone).DateTime.AddMinutes(15 * n))
                        .All(local =>
                            LocalTimes.All(z.Zone, local).Count
                            == (
                                z.Zone.IsInvalidTime(local) ? 0
                                : z.Zone.IsAmbiguousTime(local) ? 2
                                : 1
                            )
                        )
                )
            ),
        ]
    );

    static bool IsPulseOfHours(string text) =>
        text.Split(' ') is var fields
        && fields[^4].AsSpan().IndexOfAny('*', '-', '/') >= 0
        && !fields.Take(fields.Length - 4).Any(f => f.AsSpan().IndexOfAny('*', '-', '/') >= 0);

    // Day of month and day of week together mean either of them here, as in crontab(5), and both of them there.
    static string RandomCron(Random chance)
    {
        string Field(int least, int most) =>
            chance.Next(7) switch
            {
                0 or 1 => "*",
                2 => $"*/{chance.Next(1, most)}",
                3 => string.Join(',', Enumerable.Range(0, chance.Next(1, 4)).Select(_ => chance.Next(least, most + 1))),
                4 when chance.Next(least, most) is var from => $"{from}-{chance.Next(from, most + 1)}",
                5 when chance.Next(least, most) is var from =>
                    $"{from}-{chance.Next(from, most + 1)}/{chance.Next(1, 8)}",
                _ => $"{chance.Next(least, most + 1)}",
            };
        var (day, week) = chance.Next(4) switch
        {
            0 => (Field(1, 28), "*"),
            1 => ("*", Field(0, 6)),
            2 => ("L", "*"),
            _ => (
                "*",
                chance.Next(3) switch
                {
                    0 => $"{chance.Next(7)}#{chance.Next(1, 6)}",
                    1 => $"{chance.Next(7)}L",
                    _ => "*",
                }
            ),
        };
        var text = $"{Field(0, 59)} {Field(0, 23)} {day} {(chance.Next(3) == 0 ? Field(1, 12) : "*")} {week}";
        return chance.Next(4) == 0 ? $"{Field(0, 59)} {text}" : text;
    }

    [Fact]
    public void RecurrenceRulesAreHeldToIcalNet()
    {
        var seed = Seed();
        var chance = new Random(seed);
        var both = 0;
        for (var i = 0; i < 1_500; i++)
        {
            var text = RandomRule(chance);
            var (zone, changes) = Zones.Value[chance.Next(Zones.Value.Count)];
            var start =
                chance.Next(2) == 0
                    ? new DateTime(2021, 1, 1).AddMinutes(chance.Next(1_000_000))
                    : TimeZoneInfo
                        .ConvertTime(changes[chance.Next(changes.Count)], zone)
                        .Date.AddDays(-chance.Next(3))
                        .AddMinutes(15 * chance.Next(96));
            var (rule, problem) = RecurrenceText.Parse(text);
            // Of hours that come twice there is only the first there, and a search may never end.
            if (rule?.Frequency == Frequency.Hourly)
                start = start.AddDays(changes.Exists(c => Math.Abs((c.DateTime - start).TotalDays) < 4) ? 8 : 0);
            Assert.True(rule is not null, $"“{text}”: {problem}");
            var ours = new RecurrenceSchedule(rule, start, zone);
            var theirs = new CalendarEvent
            {
                DtStart = new CalDateTime(start, zone.Id),
                RecurrenceRule = new RecurrencePattern(text),
            };
            // The first one is its start there, whatever the rule says.
            // Hours that a rule names are counted from midnight there, whatever the clock shows on the day of a change.
            bool IsLike(DateTimeOffset at) =>
                rule.ByHour.Count == 0
                || zone.GetUtcOffset(TimeZoneInfo.ConvertTime(at, zone).Date) == zone.GetUtcOffset(at)
                    && zone.GetUtcOffset(at.AddDays(-1)) == zone.GetUtcOffset(at.AddDays(1));
            var opinion = Before9999(theirs)
                .Where(o => o > LocalTimes.First(zone, start))
                .Take(10)
                .TakeWhile(o => o < End)
                .Where(IsLike)
                .ToList();
            var found = new List<DateTimeOffset>();
            for (
                var at = ours.Next(LocalTimes.First(zone, start));
                at is { } due && found.Count < 10;
                at = ours.Next(due)
            )
            {
                found.Add(due.ToUniversalTime());
            }
            found = [.. found.TakeWhile(o => o < End).Where(IsLike)];
            Assert.True(
                found.SequenceEqual(opinion),
                $"seed {seed}: “{text}” from {start:s} in {zone.Id}:\n{Shown(found)}\n{Shown(opinion)}"
            );
            both += found.Count;
        }
        Assert.True(both > 8_000, $"{both} times");
    }

    static string Shown(IEnumerable<DateTimeOffset> moments) =>
        string.Join(' ', moments.Select(m => m.ToString("s", CultureInfo.InvariantCulture)));

    // A rule that never comes again ends there with an exception.
    static IEnumerable<DateTimeOffset> Before9999(CalendarEvent theirs)
    {
        using var all = theirs.GetOccurrences().GetEnumerator();
        while (MoveNext())
            yield return new(all.Current.Period.StartTime.AsUtc, TimeSpan.Zero);
        bool MoveNext()
        {
            try
            {
                return all.MoveNext();
            }
            catch (EvaluationOutOfRangeException)
            {
                return false;
            }
        }
    }

    static string RandomRule(Random chance)
    {
        string[] days = ["MO", "TU", "WE", "TH", "FR", "SA", "SU"];
        string Place() => $"{(chance.Next(2) == 0 ? "-" : "")}{chance.Next(1, 5)}";
        string Some(IEnumerable<string> all, int most) =>
            string.Join(',', all.OrderBy(_ => chance.Next()).Take(chance.Next(1, most + 1)));
        IEnumerable<string> Signed(int most) =>
            Enumerable
                .Range(0, 6)
                .Select(_ => $"{(chance.Next(3) == 0 ? "-" : "")}{chance.Next(1, most + 1)}")
                .Distinct();
        IEnumerable<string> Plain(int least, int most) =>
            Enumerable.Range(0, 4).Select(_ => $"{chance.Next(least, most + 1)}").Distinct();
        var often = chance.Next(6) switch
        {
            0 => "YEARLY",
            1 or 2 => "MONTHLY",
            3 => "WEEKLY",
            4 => "HOURLY",
            _ => "DAILY",
        };
        var parts = new List<string> { $"FREQ={often}" };
        if (chance.Next(2) == 0)
            parts.Add($"INTERVAL={chance.Next(1, 5)}");
        var set = true;
        switch (often)
        {
            case "YEARLY" when chance.Next(4) == 0:
                parts.Add($"BYYEARDAY={Some(Signed(365), 3)}");
                break;
            case "YEARLY" or "MONTHLY" when chance.Next(2) == 0:
                if (often == "YEARLY")
                    parts.Add($"BYMONTH={Some(Plain(1, 12), 3)}");
                parts.Add(
                    chance.Next(2) == 0
                        ? $"BYMONTHDAY={Some(Signed(28), 3)}"
                        : $"BYDAY={Some(days.Select(d => chance.Next(2) == 0 ? d : Place() + d), 3)}"
                );
                break;
            case "WEEKLY":
                parts.Add($"BYDAY={Some(days, 4)}");
                if (chance.Next(2) == 0)
                    parts.Add($"WKST={days[chance.Next(7)]}");
                break;
            case "DAILY" when chance.Next(2) == 0:
                parts.Add($"BYDAY={Some(days, 5)}");
                break;
            default:
                set = false;
                break;
        }
        if (often != "HOURLY" && chance.Next(3) == 0)
            parts.Add($"BYHOUR={Some(Plain(4, 23), 3)}");
        if (
            set
            && often is "MONTHLY" or "YEARLY"
            && chance.Next(4) == 0
            && parts.Exists(p => p.StartsWith("BY", StringComparison.Ordinal))
        )
        {
            parts.Add($"BYSETPOS={Some(["1", "-1"], 2)}");
        }
        if (chance.Next(4) == 0)
            parts.Add($"COUNT={chance.Next(2, 15)}");
        return string.Join(';', parts);
    }

    // Always the same unless somebody says another: what others make of rare days is theirs.
    static int Seed() =>
        int.TryParse(Environment.GetEnvironmentVariable("GATECHAIN_SEED"), out var seed) ? seed : 20_261_128;
}
