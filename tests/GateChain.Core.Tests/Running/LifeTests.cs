using GateChain.Core.Running;
using GateChain.Core.Running.Events;
using GateChain.Core.Values;

namespace GateChain.Core.Tests.Running;

public class LifeTests
{
    [Fact]
    public void ABranchThatFailsDoesNotKeepTheOthers()
    {
        var play = Play.Failing(
                "chain: t\nsteps:\n  a: { kind: work }\n  b: { kind: work }\n  a2: { kind: work }\n  b2: "
                    + "{ kind: work }\n  tell: { kind: work }\ngates:\n  - { from: a, to: a2 }\n  - { from: b, "
                    + "to: b2 }\n  - { from: a, to: tell, on: failure }",
                "a"
            )
            .Run();
        Assert.Equal("a failed, b succeeded, a2 skipped, b2 succeeded, tell succeeded", play.Words);
        Assert.Equal("failed", play.State.Word);
        Assert.Equal("a: a broke", play.State.Error!.Message);
    }

    [Fact]
    public void AnAbsorbedFailureDoesNotCount()
    {
        var play = Play.Failing(
                "chain: t\nsteps:\n  a: { kind: work, ifFails: absorb }\n  b: { kind: "
                    + "work }\ngates:\n  - { from: a, to: b, on: failure }",
                "a"
            )
            .Run();
        Assert.Equal(("succeeded", "a failed, b succeeded"), (play.State.Word, play.Words));
    }

    [Fact]
    public void ADisabledStepIsPassedOverAsSucceeded()
    {
        var play = new Play(
            "chain: t\nsteps:\n  a: { kind: work, disabled: true }\n  b: { kind: work }\ngates:\n  - { from: a, to: b }"
        ).Run();
        Assert.Equal("a succeeded, b succeeded", play.Words);
        Assert.Equal("b", Assert.Single(play.Started));
        Assert.Contains("isabled", Why.Of(play.State, play.State.Find("a")!).Sentence);
    }

    [Fact]
    public void RetriesWaitLongerEachTime()
    {
        var tries = 0;
        var play = new Play(
            "chain: t\nsteps:\n  a: { kind: work, retry: { limit: 3, wait: 5s, factor: 2, max: 15s } }",
            (_, _) => ++tries < 4 ? AttemptResult.Fail("busy", "no") : AttemptResult.Done()
        ).Run();
        Assert.Equal("a succeeded", play.Words);
        Assert.Equal(
            [5, 10, 15],
            play.State.Attempts.Where(a => a.RetryAt is not null)
                .Select(a => (int)(a.RetryAt!.Value - a.Ended!.Value).TotalSeconds)
        );
        Assert.Equal(4, play.State.Find("a")!.Attempt);
    }

    [Fact]
    public void RetryEndsWhenItMakesNoSense()
    {
        var play = new Play(
            "chain: t\nsteps:\n  a: { kind: work, retry: { limit: 3, when: error.code == 'busy' } }",
            (_, n) => AttemptResult.Fail(n == 1 ? "busy" : "broken", "no")
        ).Run();
        Assert.Equal(("a failed", 2), (play.Words, play.State.Find("a")!.Attempt));
    }

    [Fact]
    public void JitterIsTheSameEachTimeTheJournalIsMade()
    {
        TimeSpan Rest() =>
            new Play("chain: t\nsteps:\n  a: { kind: work, retry: { limit: 1, wait: 100s, jitter: 0.5 } }", (_, _) =>
                AttemptResult.Fail("x", "x")
            )
                .Run()
                .State.Attempts[0]
                .RetryAt!.Value - Play.Start0;
        Assert.Equal(Rest(), Rest());
        Assert.InRange(Rest().TotalSeconds, 50, 151);
        Assert.NotEqual(100.01, Rest().TotalSeconds);
    }

    [Fact]
    public void ATimeoutEndsTheAttemptAndCountsAsFailure()
    {
        var play = new Play("chain: t\nsteps:\n  a: { kind: work, timeout: 30s, retry: { limit: 1 } }", (_, attempt) =>
            attempt == 1 ? null : AttemptResult.Done()
        ).Begin();
        play.EndOne();
        play.Now += TimeSpan.FromSeconds(30);
        play.Put(new TimeInput(play.Now));
        Assert.Equal(CancelReason.Timeout, play.State.Find("a")!.Cancel);
        play.Put(new AttemptEndedInput(play.Now, "a", 1, AttemptResult.Fail("stopped", "ended early")));
        Assert.Equal("timeout", play.State.Find("a")!.Error!.Code);
        Assert.Equal("a succeeded", play.Continue().Words);
    }

    [Fact]
    public void AWaitEndsAtItsTimeAlsoAfterARestart()
    {
        var play = new Play(
            "chain: t\nsteps:\n  w: { kind: wait, set: { for: 10m } }\n  a: { kind: "
                + "work }\ngates:\n  - { from: w, to: a }"
        ).Begin();
        Assert.Equal(Play.Start0.AddMinutes(10), play.State.NextDue);
        play.Now += TimeSpan.FromMinutes(4);
        play.Crash();
        Assert.Equal(Play.Start0.AddMinutes(10), play.State.NextDue);
        Assert.Equal("w succeeded, a succeeded", play.Continue().Words);
    }

    [Fact]
    public void StopEndsEverythingAndOpensNoGate()
    {
        var play = new Play(
            "chain: t\nsteps:\n  a: { kind: work }\n  w: { kind: wait, set: { for: 1h } }\n  b: { kind: "
                + "work }\n  c: { kind: work }\ngates:\n  - { from: a, to: b, on: always }\n  - { from: w, to: "
                + "c, on: always }"
        ).Begin();
        play.Put(new StopInput(play.Now, Ann, "enough"));
        Assert.Equal("a running, w stopped, b stopped, c stopped", play.Words);
        Assert.Equal("a stopped, w stopped, b stopped, c stopped", play.Continue().Words);
        Assert.Equal(("stopped", "enough"), (play.State.Word, play.State.Error!.Message));
    }

    [Fact]
    public void TheStopStepStopsTheRun()
    {
        var play = new Play(
            "chain: t\nsteps:\n  g:\n    kind: group\n    steps:\n      s: { kind: stop, set: { message: "
                + "'no milk today' } }\n  a: { kind: work }\ngates:\n  - { from: g, to: a, on: always }"
        ).Run();
        Assert.Equal(("stopped", "no milk today"), (play.State.Word, play.State.Error!.Message));
        Assert.Equal("g stopped, g/s stopped, a stopped", play.Words);
    }

    [Fact]
    public void AssignmentsInParallelBranchesLoseNothing()
    {
        var steps = string.Join(
            "\n",
            Enumerable.Range(0, 20).Select(i => $"  s{i}: {{ kind: work, assign: {{ vars.n: vars.n + result.n }} }}")
        );
        Assert.Equal(
            Value.Int(20),
            new Play($"chain: t\nvars: {{ n: {{ type: int, initial: 0 }} }}\nsteps:\n{steps}\noutputs: {{ n: vars.n }}")
                .Run()
                .State.Outputs.AsMap.Find("n")
        );
    }

    [Fact]
    public void AssignmentsOfOneStepSeeEachOtherAndAreAllOrNone()
    {
        const string yaml =
            "chain: t\nvars: {{ a: {{ type: int, initial: 1 }}, b: {{ type: int, initial: "
            + "0 }} }}\nsteps:\n  s: {{ kind: assign, assign: {{ vars.a: vars.a + 1, vars.b: {0} }} }}";
        var good = new Play(string.Format(yaml, "vars.a * 10")).Run();
        Assert.Equal((2L, 20L), (good.State.Root.Variables["a"].AsInt, good.State.Root.Variables["b"].AsInt));
        var bad = new Play(string.Format(yaml, "vars.a / 0")).Run();
        Assert.Equal(("failed", 1L), (bad.Word("s"), bad.State.Root.Variables["a"].AsInt));
    }

    [Fact]
    public void AnOutputThatCannotBeComputedFailsTheRun() =>
        Assert.Contains(
            "output “x”",
            new Play("chain: t\nsteps:\n  a: { kind: work, set: { give: 1 } }\noutputs: { x: steps.a.nothing }")
                .Run()
                .State.Error!.Message
        );

    [Fact]
    public void SettingsAreComputedWhenTheStepStarts()
    {
        var play = new Play(
            "chain: t\nparams: { day: { type: timestamp } }\nsteps:\n  a: { kind: work, set: { text: "
                + "'day ${params.day.getDate()}', give: '${params.day}' } }"
        ).Run(("day", TimeText.ParseDateOrTimestamp("2026-11-22")!.Value));
        Assert.Equal("{\"text\": \"day 22\", \"give\": 2026-11-22T00:00:00Z}", play.State.Find("a")!.Inputs.ToString());
    }

    [Theory]
    [InlineData("redo", "succeeded", 2)]
    [InlineData("fail", "failed", 1)]
    public void ACrashIsMetAsTheStepSays(string onCrash, string word, int attempts)
    {
        var play = new Play($"chain: t\nsteps:\n  a: {{ kind: work, onCrash: {onCrash} }}").Begin();
        play.Crash();
        play.Continue();
        Assert.Equal((word, attempts), (play.Word("a"), play.State.Attempts.Count));
    }

    [Fact]
    public void CrashesAreCountedApartAndLimited()
    {
        var play = new Play("chain: t\nsteps:\n  a: { kind: work, crashLimit: 2, retry: { limit: 1 } }").Begin();
        for (var i = 0; i < 3; i++)
            play.Crash();
        Assert.Equal(("failed", "crash-limit"), (play.Word("a"), play.State.Find("a")!.Error!.Code));
    }

    [Fact]
    public void TenThousandSkipsNeedNoStack()
    {
        var steps = string.Join("\n", Enumerable.Range(0, 10_000).Select(i => $"  s{i}: {{ kind: work }}"));
        var gates = string.Join("\n", Enumerable.Range(1, 9_999).Select(i => $"  - {{ from: s{i - 1}, to: s{i} }}"));
        var (chain, _) = new GateChain.Core.Checking.ChainCheck(Play.Kinds).Check(
            "t",
            $"chain: t\nsteps:\n{steps}\ngates:\n{gates}"
        );
        var state = new GateChain.Core.Running.State.RunState(1, chain!);
        RunMachine.Decide(
            state,
            new StartInput(Play.Start0, "u", "r", new Dictionary<string, Value>(), Value.EmptyMap, Ann)
        );
        RunMachine.Decide(
            state,
            new AttemptEndedInput(Play.Start0, "s0", 1, AttemptResult.Fail("x", "x")),
            Bounds.Default with
            {
                DecisionEvents = int.MaxValue,
            }
        );
        Assert.Equal("failed", state.Word);
        Assert.Equal("skipped", state.Find("s9999")!.Word);
    }
}
