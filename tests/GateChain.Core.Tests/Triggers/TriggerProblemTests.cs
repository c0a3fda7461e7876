using GateChain.Core.Checking;
using GateChain.Core.Identity;
using GateChain.Core.Problems;
using GateChain.Core.Scheduling.Calendars;
using GateChain.Core.Triggers;
using GateChain.Core.Triggers.Reading;
using GateChain.Core.Values;

namespace GateChain.Core.Tests.Triggers;

/// <summary>What can be wrong with triggers and calendars, with the place where it is told.</summary>
public class TriggerProblemTests
{
    const string Calendars = "dairy: { yearly: 12-25 }\n";

    static readonly TriggerContext Beside = new(
        new[]
        {
            "chain: intake\nparams: { day: { type: timestamp }, most: { type: int, default: 1 } }\n"
                + "steps: { a: { kind: work } }",
            "chain: tell\nsteps: { a: { kind: work } }",
            "chain: old\nsteps: { a: { kind: work } }",
        }
            .Select(Play.Read)
            .ToDictionary(c => c.Name, c => ChainInterfaces.Of(c) with { IsRetired = c.Name == "old" }),
        _ => new Dictionary<string, Value> { ["test"] = Value.Map(("limit", Value.Int(3))) },
        new Dictionary<string, string> { ["warehouse"] = "sqlite" },
        (name, _) => name == "known"
    );

    static IReadOnlyList<Problem> Check(string text)
    {
        if (text.StartsWith("chain: t\n", StringComparison.Ordinal))
            return new ChainCheck(Play.Kinds).Check("t.chain.yaml", text).Problems;
        if (text.StartsWith('#'))
        {
            var found = new ProblemList("calendars.yaml", text);
            CalendarsFile.Read(text, found, null, name => name == "days.ics" ? "no calendar" : null);
            return found.Ordered;
        }
        var problems = new ProblemList("triggers.yaml", text);
        var calendars = CalendarsFile.Read(Calendars, new("calendars.yaml", Calendars));
        var triggers = TriggersFile.Read(text, Area.Root, problems, Play.Kinds, calendars, _ => null);
        foreach (var trigger in triggers)
        {
            TriggerCheck.Check(trigger, Beside, problems);
            TriggerCheck.CheckCircle(triggers, trigger, problems);
        }
        return problems.Ordered;
    }

    public static TheoryData<string, string, string> Rows =>
        new()
        {
            {
                "nightly: { chain: tell, schedule: { every: dya, at: \"02:30\" } }",
                "1:44",
                "GC1601 “every: dya” is none of 15m, minute, hour, day, weekday, month"
            },
            { "nightly: { chain: tell, schedule: { cron: \"61 * * * *\" } }", "1:43", "GC1601" },
            {
                "nightly: { chain: tell, schedule: { every: day, cron: \"1 * * * *\", at: \"02:30\" } }",
                "1:35",
                "GC1601 a schedule has one of every, cron and rrule"
            },
            {
                "nightly: { chain: tell, schedule: { every: day } }",
                "1:44",
                "GC1601 a schedule of days says at what time"
            },
            {
                "nightly: { chain: tell, schedule: { every: 1h, at: \"02:30\" } }",
                "1:44",
                "GC1601 “every: 1h” is a step of its own"
            },
            {
                "nightly: { chain: tell, schedule: { every: month, on: 31 feb, at: \"02:30\" } }",
                "1:44",
                "GC1601 “on: 31 feb” is none of"
            },
            {
                "nightly:\n  chain: tell\n  schedule: { every: day, at: \"02:30\", except: diary }",
                "3:48",
                "GC1602 there is no calendar “diary” (did you mean “dairy”?)"
            },
            {
                "nightly: { chain: tell, schedule: { every: day, at: \"02:30\", zone: Dublin } }",
                "1:68",
                "GC1206 there is no time zone “Dublin”"
            },
            {
                "nightly: { chain: tell, schedule: { every: day, at: \"02:30\", from: soon } }",
                "1:68",
                "GC1206 “from” is a date such as 2026-01-31"
            },
            {
                "nightly: { chain: tell, schedule: { every: day, at: \"02:30\", onDayOff: before } }",
                "1:62",
                "GC1005 “onDayOff” says what becomes of days that “except” names"
            },
            {
                "nightly: { chain: tell }",
                "1:10",
                "GC1005 trigger “nightly” has one of schedule, arrival, hook, watch"
            },
            {
                "nightly: { chain: tell, schedule: { every: 1h }, outcome: { chains: x, is: failed } }",
                "1:50",
                "GC1003 trigger “nightly” has one of"
            },
            { "nightly: { chain: tel, schedule: { every: 1h } }", "1:19", "GC1403 there is no chain “tel”" },
            {
                "nightly: { chain: intake, schedule: { every: 1h } }",
                "1:1",
                "GC1604 “intake” needs “day” (timestamp), and the trigger does not give it"
            },
            {
                "nightly: { chain: intake, schedule: { every: 1h }, params: { day: event.due, mots: 1 } }",
                "1:78",
                "GC1604 “intake” has no parameter “mots” (did you mean “most”?)"
            },
            {
                "nightly: { chain: intake, schedule: { every: 1h }, params: { day: event.missed } }",
                "1:67",
                "GC1604 “day” of “intake” is a timestamp, and this gives an int"
            },
            { "nightly: { chain: tell, schedule: { every: 1h }, when: event.path == '' }", "1:62", "GC1202" },
            { "nightly: { chain: tell, schedule: { every: 1h }, when: event.due }", "1:56", "GC1203 “when” is a bool" },
            {
                "nightly: { chain: tell, schedule: { every: 1h }, profile: tets }",
                "1:1",
                "GC1206 there is no profile “tets” where “tell” lies (did you mean “test”?)"
            },
            {
                "come: { chain: tell, arrival: { path: in/*, every: 5s } }",
                "1:45",
                "GC1206 “every” is for connections"
            },
            {
                "come: { chain: tell, arrival: { path: in/*, connection: office } }",
                "1:1",
                "GC1401 there is no connection “office”"
            },
            {
                "come: { chain: tell, arrival: { path: in/*, connection: warehouse } }",
                "1:1",
                "GC1410 “warehouse” is a sqlite connection, and this takes sftp"
            },
            { "come: { chain: tell, arrival: { path: in/*, ready: done } }", "1:52", "GC1206 “ready” names the file" },
            { "call: { chain: tell, hook: { path: orders } }", "1:30", "GC1605 anybody could call this hook" },
            {
                "call: { chain: tell, hook: { path: orders, token: secret:known } }",
                "1:30",
                "GC1606 a call without an id is a fire of its own"
            },
            {
                "nightly: { chain: old, schedule: { every: day, at: \"02:30\" } }",
                "1:19",
                "GC1411 “old” is retired: fires of this trigger are refused"
            },
            {
                "call: { chain: tell, hook: { path: orders, sign: secret:unknown } }",
                "1:1",
                "GC1409 there is no secret “unknown”"
            },
            { "call: { chain: tell, hook: { path: orders, sign: word } }", "1:50", "GC1206 “sign” names a secret" },
            {
                "call: { chain: tell, hook: { path: ../api, open: true } }",
                "1:36",
                "GC1206 “path” is what comes after /hooks/"
            },
            {
                "call: { chain: tell, hook: { path: o, open: true, accepts: o.json } }",
                "1:60",
                "GC1402 there is no file “o.json”"
            },
            { "see: { chain: tell, watch: { probes: { a: { kind: eye } } } }", "1:28", "GC1005 a watch needs “when”" },
            { "see: { chain: tell, watch: { probes: { a: { kind: eye } }, when: probes.b.n > 1 } }", "1:73", "GC1202" },
            {
                "tell: { chain: tell, outcome: { chains: \"*\", is: faild } }",
                "1:50",
                "GC1009 “is” holds succeeded, failed, stopped, late, endangered, paused, warned, refused, and this is "
                    + "“faild”"
            },
            {
                "tell: { chain: tell, outcome: { chains: \"*\", is: failed } }",
                "1:1",
                "GC1607 “tell” starts “tell”, and is about its outcomes too (leave it out: \"!tell\")"
            },
            {
                "a: { chain: tell, outcome: { chains: intake, is: failed } }\n"
                    + "b: { chain: intake, params: { day: event.at }, outcome: { chains: tell, is: failed } }",
                "1:1",
                "GC1607 outcomes start each other in a circle: tell → intake → tell"
            },
            {
                "chain: t\nsteps:\n  a: { kind: work, set: { text: \"${event.path}\" } }",
                "3:36",
                "GC1608 there is no event when no trigger starts the run, and then this fails"
            },
            {
                "chain: t\nvars: { mark: { type: int, keep: true } }\nsteps: { a: { kind: work } }",
                "2:9",
                "GC1609 runs of “t” go side by side (whenBusy: allow), and only one of them can keep “mark”"
            },
            { "# calendars\noff: { yearly: 13-01 }", "2:16", "GC1206 “13-01” is not a month and a day such as 12-25" },
            { "# calendars\noff: { dates: [] }", "2:1", "GC1603 the calendar “off” has no days" },
            { "# calendars\noff: { with: on }\non: { with: off }", "3:13", "GC1103 “off” is made of itself" },
            { "# calendars\noff: { file: days.ics }", "2:14", "GC1206 “days.ics”" },
            { "# calendars\noff: { file: other.ics }", "2:14", "GC1402 there is no file “other.ics”" },
        };

    [Theory]
    [MemberData(nameof(Rows))]
    public void IsToldWithCodePlaceAndSentence(string text, string place, string expected)
    {
        var problems = Check(text);
        var shown = problems.Select(p => $"{p.Line}:{p.Column} {p.Code} {p.Message} ({p.Fix})").ToList();
        Assert.True(
            shown.Exists(p => p.StartsWith($"{place} {expected.TrimEnd(')')}", StringComparison.Ordinal)),
            string.Join("\n", shown)
        );
    }

    [Theory]
    [InlineData("")]
    [InlineData("x")]
    [InlineData("[1]")]
    [InlineData("a: 1")]
    [InlineData("a: { chain: [x], schedule: 7 }")]
    [InlineData("a: { chain: tell, schedule: { every: {}, at: {} } }")]
    [InlineData("a: { chain: tell, watch: { probes: [], when: [] } }")]
    [InlineData("? [a]\n: b")]
    public void BadFilesAreToldAndNeverThrow(string text) => Assert.NotEmpty(Check(text));

    /// <summary>A short file that shows a kind of problem; null when there is none.</summary>
    internal static (string Text, IReadOnlyList<Problem> Problems)? Example(ProblemKind kind)
    {
        var text = Rows.Where(r => r.Data.Item3.StartsWith(kind.Code, StringComparison.Ordinal))
            .Select(r => r.Data.Item1)
            .FirstOrDefault();
        return text is null || !kind.Code.StartsWith("GC16", StringComparison.Ordinal) ? null : (text, Check(text));
    }
}
