using GateChain.Core.Chains;
using GateChain.Core.Running;
using GateChain.Core.Running.Events;

namespace GateChain.Core.Tests.Running;

public class GuardTests
{
    const string Eye = "probes: { p: { kind: eye, at: here } }";

    static string Guarded(string guard, string more = "") =>
        $"chain: t\nvars: {{ n: {{ type: int, initial: 0 }} }}\nsteps:\n  a:\n    kind: work\n    guard: "
        + $"{{ {guard} }}\n  b: {{ kind: work }}\n{more}gates: [ {{ from: a, to: b, on: always }} ]";

    // What the probe sees, look by look; the last one continues.
    static Play Run(string yaml, params int[] sees) =>
        new Play(yaml) { Sees = (_, look) => sees[Math.Min(look, sees.Length) - 1] }.Run();

    [Theory]
    [InlineData(
        "rules: [ { when: probes.p.n > 0, verdict: proceed } ], otherwise: { verdict: skip }",
        1,
        "a succeeded, b succeeded",
        "succeeded"
    )]
    [InlineData(
        "rules: [ { when: probes.p.n > 0, verdict: proceed } ], otherwise: { verdict: skip }",
        0,
        "a skipped, b succeeded",
        "succeeded"
    )]
    [InlineData(
        "rules: [ { when: probes.p.n > 0, verdict: fail, message: 'there are ${probes.p.n}' } ], "
            + "otherwise: { verdict: proceed }",
        3,
        "a failed, b succeeded",
        "failed"
    )]
    [InlineData(
        "rules: [ { when: probes.p.n > 0, verdict: stop } ], otherwise: { verdict: proceed }",
        3,
        "a stopped, b stopped",
        "stopped"
    )]
    // The first rule that holds decides.
    [InlineData(
        "rules: [ { when: probes.p.n > 5, verdict: fail }, { when: probes.p.n > 0, verdict: skip }, "
            + "{ when: probes.p.n > 2, verdict: fail } ], otherwise: { verdict: stop }",
        3,
        "a skipped, b succeeded",
        "succeeded"
    )]
    public void TheFirstRuleThatHoldsGivesTheVerdict(string rules, int sees, string steps, string run)
    {
        var play = Run(Guarded($"{Eye}, {rules}"), sees);
        Assert.Equal((steps, run), (play.Words, play.State.Word));
        Assert.Equal(steps.StartsWith("a succeeded", StringComparison.Ordinal), play.Started.Contains("a"));
    }

    [Fact]
    public void AMessageIsComputedAndToldWithTheFailure() =>
        Assert.Equal(
            "there are 3",
            Run(
                Guarded(
                    $"{Eye}, rules: [ {{ when: probes.p.n > 0, verdict: fail, message: "
                        + $"'there are ${{probes.p.n}}' }} ], otherwise: {{ verdict: proceed }}"
                ),
                3
            )
                .State.Find("a")!
                .Error!.Message
        );

    [Fact]
    public void WithoutProbesTheRulesAreReadAtOnce()
    {
        var play = new Play(
            Guarded("rules: [ { when: vars.n == 0, verdict: skip } ], otherwise: { verdict: proceed }")
        ).Begin();
        Assert.Equal("skipped", play.Word("a"));
        Assert.DoesNotContain(play.Events, e => e is GuardAsked);
    }

    [Fact]
    public void AHeldStepLooksAgainAndSaysWhatItWaitsFor()
    {
        var play = new Play(
            Guarded(
                $"{Eye}, rules: [ {{ when: probes.p.n > 0, verdict: proceed }} ], otherwise: {{ verdict: "
                    + $"hold, recheck: 5m, limit: 3, message: nothing yet }}"
            )
        )
        {
            Sees = (_, look) => look < 3 ? 0 : 1,
        }.Begin();
        play.EndOne();
        var hold = play.State.Find("a")!.Hold!;
        Assert.Equal("held", play.Word("a"));
        Assert.Equal(
            (Play.Start0, 1, "nothing yet", play.Now.AddMinutes(5)),
            (hold.Since, hold.Looks, hold.Latest!.Message, play.State.NextDue)
        );
        play.Continue();
        Assert.Equal("a succeeded, b succeeded", play.Words);
        Assert.Equal(3, play.State.Find("a")!.Hold!.Looks);
    }

    [Theory]
    [InlineData("limit: 0", 1)]
    [InlineData("limit: 1", 2)]
    [InlineData("limit: 12", 13)]
    [InlineData("limit: 12m", 4)]
    [InlineData("limit: 10m", 3)]
    public void AGuardAlwaysEnds(string limit, int looks)
    {
        foreach (
            var (then, word) in new[]
            {
                ("fail", "failed"),
                ("skip", "skipped"),
                ("proceed", "succeeded"),
                ("stop", "stopped"),
            }
        )
        {
            var play = Run(Guarded($"{Eye}, otherwise: {{ verdict: hold, recheck: 5m, {limit}, then: {then} }}"), 0);
            Assert.Equal((word, looks), (play.Word("a"), play.State.Find("a")!.Hold!.Looks));
            Assert.True(play.State.HasEnded);
        }
    }

    [Fact]
    public void ADurationAsLimitBringsALastLookAtItsEnd()
    {
        var play = Run(Guarded($"{Eye}, otherwise: {{ verdict: hold, recheck: 5m, limit: 12m }}"), 0);
        Assert.Equal(4, play.Events.OfType<GuardLooked>().Count());
        Assert.Equal(
            12,
            Math.Round((play.State.Find("a")!.Ended!.Value - play.State.Find("a")!.Hold!.Since).TotalMinutes)
        );
        Assert.Equal("held for 12m, as long as its guard allows", play.State.Find("a")!.Error!.Message);
    }

    [Fact]
    public void EachHoldHasALimitOfItsOwn() =>
        Assert.Equal(
            5,
            Run(
                Guarded(
                    $"{Eye}, rules: [ {{ when: probes.p.n == 1, verdict: hold, recheck: 1m, limit: "
                        + $"2 }} ], otherwise: {{ verdict: hold, recheck: 1m, limit: 2 }}"
                ),
                1,
                0,
                1,
                0,
                0
            )
                .State.Find("a")!
                .Hold!.Looks
        );

    [Fact]
    public void AWakeLooksAtOnceAndCountsForNothing()
    {
        var sees = 0;
        var play = new Play(
            Guarded(
                $"{Eye}, rules: [ {{ when: probes.p.n > 0, verdict: proceed }} ], otherwise: {{ verdict: "
                    + $"hold, recheck: 5m, limit: 1 }}"
            )
        )
        {
            Sees = (_, _) => sees,
        }.Begin();
        play.EndOne();
        var planned = play.State.NextDue;
        for (var i = 0; i < 10; i++)
        {
            Assert.True(play.Put(new WakeInput(play.Now, "a")));
            Assert.False(play.Put(new WakeInput(play.Now, "a")), "it is looking already");
            play.EndOne();
            Assert.Equal(("held", planned), (play.Word("a"), play.State.NextDue));
        }
        sees = 1;
        play.Put(new WakeInput(play.Now, "a"));
        play.EndOne();
        Assert.Equal("running", play.Word("a"));
    }

    [Theory]
    [InlineData("2026-11-22T04:00:00Z", "06:00", "UTC", "2026-11-22T06:00:00Z")]
    [InlineData("2026-11-22T06:00:00Z", "06:00", "UTC", "2026-11-23T06:00:00Z")]
    [InlineData("2026-07-01T04:00:00Z", "06:00", "Europe/London", "2026-07-01T05:00:00Z")]
    // The clock leaps over 01:30 on this day; the moment it has leapt counts.
    [InlineData("2026-03-28T23:00:00Z", "01:30", "Europe/London", "2026-03-29T01:00:00Z")]
    // The clock shows 01:30 twice on this day; the first time counts.
    [InlineData("2026-10-24T23:30:00Z", "01:30", "Europe/London", "2026-10-25T00:30:00Z")]
    [InlineData("2026-10-25T00:30:00Z", "01:30", "Europe/London", "2026-10-26T01:30:00Z")]
    [InlineData("2026-12-31T23:30:00Z", "00:15", "Pacific/Auckland", "2027-01-01T11:15:00Z")]
    public void AHoldCanLookAgainAtAClockTime(string now, string time, string zone, string next) =>
        Assert.Equal(
            DateTimeOffset.Parse(next, System.Globalization.CultureInfo.InvariantCulture),
            new ClockTime(
                TimeOnly.Parse(time, System.Globalization.CultureInfo.InvariantCulture),
                TimeZoneInfo.FindSystemTimeZoneById(zone)
            ).NextAfter(DateTimeOffset.Parse(now, System.Globalization.CultureInfo.InvariantCulture))
        );

    [Fact]
    public void AClockTimeIsWaitedFor()
    {
        var play = new Play(
            Guarded($"{Eye}, otherwise: {{ verdict: hold, at: '06:00', limit: 1, then: proceed }}")
        ).Begin();
        play.EndOne();
        Assert.Equal(new DateTimeOffset(2026, 11, 22, 6, 0, 0, TimeSpan.Zero), play.State.NextDue);
    }

    [Fact]
    public void AnErrorInARuleIsNotTakenForFalse()
    {
        var play = Run(
            Guarded(
                $"{Eye}, rules: [ {{ when: 10 / probes.p.n > 1, verdict: skip }} ], otherwise: {{ verdict: proceed }}"
            ),
            0
        );
        Assert.Equal("failed", play.Word("a"));
        Assert.Contains(
            "the guard can't be decided: division by zero",
            play.State.Find("a")!.Error!.Message,
            StringComparison.Ordinal
        );
    }

    [Fact]
    public void TheGuardedStepSeesWhatItsProbesSaw()
    {
        var play = new Play(
            "chain: t\nsteps:\n  a: { kind: work, set: { text: 'saw ${probes.p.n}' }, guard: { probes: "
                + "{ p: { kind: eye } }, otherwise: { verdict: proceed } } }"
        )
        {
            Sees = (_, _) => 7,
        }.Begin();
        play.EndOne();
        Assert.Equal("""{"text": "saw 7"}""", play.State.Find("a")!.Inputs.ToString());
    }

    [Fact]
    public void AHoldKeepsItsTimesAcrossACrash()
    {
        var play = new Play(
            Guarded($"{Eye}, otherwise: {{ verdict: hold, recheck: 5m, limit: 2, then: skip }}")
        ).Begin();
        play.Crash();
        play.EndOne();
        var due = play.State.NextDue;
        play.Crash();
        Assert.Equal(("held", due, 1), (play.Word("a"), play.State.NextDue, play.State.Find("a")!.Hold!.Looks));
        Assert.Equal("a skipped, b succeeded", play.Continue().Words);
    }

    [Fact]
    public void AContainerHasAThresholdToo() =>
        Assert.Equal(
            "g skipped",
            new Play(
                "chain: t\nsteps:\n  g: { kind: group, guard: { otherwise: { verdict: skip } }, steps: "
                    + "{ a: { kind: work } } }"
            )
                .Run()
                .Words
        );

    [Fact]
    public void WhyTellsOfTheHold()
    {
        var play = new Play(
            Guarded(
                $"{Eye}, rules: [ {{ when: probes.p.n > 4, verdict: proceed }} ], otherwise: {{ verdict: "
                    + $"hold, recheck: 5m, limit: 3, message: nothing yet }}"
            )
        )
        {
            Sees = (_, _) => 2,
        }.Begin();
        play.EndOne();
        var why = Why.Of(play.State, play.State.Find("a")!);
        Assert.EndsWith(
            "Its guard holds it since 2026-11-22 04:00:00 UTC: nothing yet. It has looked once. "
                + "It waits for here (n 2). It looks again at 2026-11-22 04:05:00 UTC.",
            why.Sentence,
            StringComparison.Ordinal
        );
        Assert.Contains(why.Guard!.Parts, p => p is { Text: "probes.p.n", Value: "2" });
    }
}
