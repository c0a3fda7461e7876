using GateChain.Core.Running;
using GateChain.Core.Running.Events;
using GateChain.Core.Values;

namespace GateChain.Core.Tests.Running;

public class PauseTests
{
    const string Chain = """
        chain: t
        vars: { n: { type: int, initial: 0 } }
        steps:
          a: { kind: work, ifFails: pause, assign: { vars.n: result.n } }
          b: { kind: work }
          side: { kind: work }
          next: { kind: work }
        gates: [ { from: a, to: b }, { from: side, to: next } ]
        """;

    static Play Paused()
    {
        var broken = true;
        var play = new Play(Chain, (path, _) =>
            path == "a" && broken ? AttemptResult.Fail("test", "broke") : AttemptResult.Done(("n", Value.Int(5)))
        ).Run();
        broken = false;
        return play;
    }

    [Fact]
    public void WhatRunsRunsToItsEndAndNothingNewStarts()
    {
        var play = Paused();
        Assert.Equal(("paused", "a paused, b pending, side succeeded, next pending"), (play.State.Word, play.Words));
        Assert.Null(play.State.NextDue);
    }

    [Theory]
    [InlineData(PauseAnswer.Retry, "a succeeded, b succeeded, side succeeded, next succeeded", "succeeded", 5)]
    [InlineData(PauseAnswer.Skip, "a skipped, b skipped, side succeeded, next succeeded", "succeeded", 0)]
    [InlineData(PauseAnswer.Settle, "a succeeded, b succeeded, side succeeded, next succeeded", "succeeded", 7)]
    [InlineData(PauseAnswer.Fail, "a failed, b skipped, side succeeded, next succeeded", "failed", 0)]
    [InlineData(PauseAnswer.Stop, "a stopped, b stopped, side succeeded, next stopped", "stopped", 0)]
    public void APersonDecides(PauseAnswer answer, string words, string run, int n)
    {
        var play = Paused();
        Assert.True(play.Answer("a", answer, ("n", Value.Int(7))));
        play.Continue();
        Assert.Equal((words, run, Value.Int(n)), (play.Words, play.State.Word, play.State.Root.Variables["n"]));
        Assert.False(play.Answer("a", PauseAnswer.Skip), "a second answer changes nothing");
        Assert.Equal(
            (answer, Bob),
            (play.State.Find("a")!.Answered!.Value.Answer, play.State.Find("a")!.Answered!.Value.By)
        );
    }

    [Fact]
    public void OutputsThatCannotBeAssignedLeaveTheStepPaused()
    {
        var play = Paused();
        Assert.True(play.Answer("a", PauseAnswer.Settle));
        Assert.Equal("paused", play.Word("a"));
        Assert.StartsWith("assign vars.n: ", play.State.Find("a")!.Error!.Message);
    }

    [Fact]
    public void TheRunGoesOnWhenTheLastPausedStepIsDecided()
    {
        var play = Play.Failing(
                "chain: t\nsteps:\n  a: { kind: work, ifFails: pause }\n  b: { kind: work, ifFails: "
                    + "pause }\n  c: { kind: work }\n  d: { kind: work }\ngates: [ { from: a, to: c, on: "
                    + "skipped }, { from: b, to: d, on: failure } ]",
                "a",
                "b"
            )
            .Run();
        play.Answer("a", PauseAnswer.Skip);
        Assert.Equal(("paused", "pending"), (play.State.Word, play.Word("c")));
        play.Answer("b", PauseAnswer.Fail);
        Assert.Equal("a skipped, b failed, c succeeded, d succeeded", play.Continue().Words);
    }

    [Fact]
    public void RestsHoldsLoopsAndTurnsWaitForTheRunToGoOn()
    {
        var yaml = """
            chain: t
            steps:
              rest: { kind: work, retry: { limit: 1, wait: 10s } }
              held: { kind: work, guard: { probes: { p: { kind: eye } }, otherwise: { verdict: hold, recheck: 5s, limit: 1, then: proceed } } }
              loop: { kind: repeat, until: round == 2, limit: 5, pause: 3s, steps: { r: { kind: work } } }
              all: { kind: each, over: "[1, 2]", steps: { e: { kind: work } } }
              queued: { kind: work, lane: narrow }
              slow: { kind: work }
            """;
        var failed = false;
        var hold = true;
        var play = new Play(yaml, (path, attempt) => path == "slow" && hold ? null
            : path == "rest" && attempt == 1 && !failed ? AttemptResult.Fail("test", "broke")
            : AttemptResult.Done(("n", Value.Int(1)))).Begin();
        play.EndOne(play.InFlight.ToList().FindIndex(w => w.Step == "rest"));
        play.EndOne(play.InFlight.ToList().FindIndex(w => w.Step == "held"));
        play.EndOne(play.InFlight.ToList().FindIndex(w => w.Step == "loop[1]/r"));
        Assert.True(play.Put(new PauseInput(play.Now, Ann, "wait for the office")));
        play.EndOne(play.InFlight.ToList().FindIndex(w => w.Step == "all[0]/e"));
        Assert.False(
            play.EndOne(play.InFlight.ToList().FindIndex(w => w.Form == EffectKind.Lane)),
            "a turn is not taken while the run is paused"
        );
        Assert.Equal(
            "rest resting, held held, loop running, loop[1]/r succeeded, all running, "
                + "all[0]/e succeeded, queued queued, slow running",
            play.Words
        );
        Assert.Null(play.State.NextDue);
        play.Crash();
        Assert.Null(play.State.NextDue);
        failed = true;
        hold = false;
        play.Resume();
        Assert.Equal("succeeded", play.State.Word);
        Assert.Equal(2, play.State.Leg);
        Assert.Equal(
            ("succeeded", "succeeded", 2),
            (play.Word("loop[2]/r"), play.Word("all[1]/e"), play.State.Find("rest")!.Attempt)
        );
    }

    [Fact]
    public void AResumeOfAPausedRunLeavesWhatIsAtWorkAlone()
    {
        var broken = true;
        var play = new Play(
            "chain: t\nsteps:\n  a: { kind: work }\n  slow: { kind: work }\n  b: { kind: work }\ngates: "
                + "[ { from: a, to: b } ]",
            (path, _) =>
                path == "slow" && broken ? null
                : path == "a" && broken ? AttemptResult.Fail("test", "broke")
                : AttemptResult.Done()
        ).Run();
        Assert.Equal("a failed, slow running, b skipped", play.Words);
        Assert.Equal("the run is still going", RunMachine.PlanResume(play.State, ResumeSelection.Plain).Refusal);
        play.Put(new PauseInput(play.Now, Ann, null));
        broken = false;
        play.Resume();
        Assert.Equal(("a b", "a succeeded, slow succeeded, b succeeded"), (play.StartedWords, play.Words));
    }

    [Fact]
    public void AFailureWhoseFollowersAreAtWorkIsLeftAsItIs()
    {
        var play = new Play(
            "chain: t\nsteps:\n  a: { kind: work }\n  fix: { kind: work }\ngates: [ { from: a, to: "
                + "fix, on: failure } ]",
            (path, _) => path == "a" ? AttemptResult.Fail("test", "broke") : null
        ).Run();
        play.Put(new PauseInput(play.Now, Ann, null));
        Assert.Empty(RunMachine.PlanResume(play.State, ResumeSelection.Plain).Reset);
        Assert.Contains(
            "“fix” is running and depends on a step that would run again",
            RunMachine.PlanResume(play.State, new(["a"], [])).Refusal,
            StringComparison.Ordinal
        );
    }

    [Fact]
    public void AStepThatACrashCutOffCanAsk()
    {
        var play = new Play(
            "chain: t\nsteps:\n  a: { kind: work, onCrash: pause }\n  b: { kind: work }\ngates: [ { from: a, to: b } ]"
        ).Begin();
        play.Crash();
        Assert.Equal(("paused", "crash"), (play.State.Word, play.State.Find("a")!.Error!.Code));
        play.Answer("a", PauseAnswer.Settle);
        Assert.Equal(("a b", "succeeded"), (play.Continue().StartedWords, play.State.Word));
    }

    [Fact]
    public void AnEndInGoodOrderDoesNotCountTowardsTheCrashLimit()
    {
        var play = new Play("chain: t\nsteps: { a: { kind: work, crashLimit: 1 } }").Begin();
        for (var i = 0; i < 5; i++)
        {
            Assert.True(play.Put(new SuspendInput(play.Now)));
            play.Crash();
        }
        Assert.Equal(("running", 0, 6), (play.Word("a"), play.State.Find("a")!.Lost, play.State.Find("a")!.Attempt));
        play.Crash();
        play.Crash();
        Assert.Equal("crash-limit", play.State.Find("a")!.Error!.Code);
    }

    [Fact]
    public void APausedStepThatIsTriedAgainIsNotLookedAtByItsGuardAgain()
    {
        var broken = true;
        var play = new Play(
            "chain: t\nsteps:\n  a: { kind: work, ifFails: pause, guard: { probes: { p: { kind: eye } }, "
                + "otherwise: { verdict: proceed } } }",
            (_, _) => broken ? AttemptResult.Fail("test", "x") : AttemptResult.Done()
        ).Run();
        broken = false;
        play.Answer("a", PauseAnswer.Retry);
        Assert.Equal(
            ("succeeded", 1, 2),
            (play.Continue().State.Word, play.State.Find("a")!.Hold!.Looks, play.State.Find("a")!.Attempt)
        );
    }

    [Theory]
    [InlineData("a: { kind: decide, ifFails: pause, branches: [ { name: x, when: 'false' } ] }")]
    [InlineData("a: { kind: group, ifFails: pause, steps: { i: { kind: work } } }")]
    [InlineData("a: { kind: work, ifFails: pause, set: { text: '${1 / vars.n}' } }")]
    [InlineData("a: { kind: each, ifFails: pause, over: '[1 / vars.n]', steps: { i: { kind: work } } }")]
    [InlineData("a: { kind: work, ifFails: pause, guard: { otherwise: { verdict: fail } } }")]
    public void EveryFailureOfSuchAStepPauses(string step) =>
        Assert.Equal(
            "paused",
            Play.Failing($"chain: t\nvars: {{ n: {{ type: int, initial: 0 }} }}\nsteps:\n  {step}", "a", "a/i")
                .Run()
                .Word("a")
        );

    [Fact]
    public void APauseIsNotTakenTwiceNorAtTheEnd()
    {
        var play = new Play("chain: t\nsteps: { a: { kind: work } }").Begin();
        Assert.True(play.Put(new PauseInput(play.Now, Ann, null)));
        Assert.False(play.Put(new PauseInput(play.Now, Bob, null)));
        play.Continue();
        Assert.Equal("succeeded", play.State.Word);
        Assert.False(play.Put(new PauseInput(play.Now, Bob, null)));
    }

    [Fact]
    public void APausedRunCanBeStopped()
    {
        var play = Paused();
        play.Put(new StopInput(play.Now, Ann, null));
        Assert.Equal("stopped", play.State.Word);
    }
}
