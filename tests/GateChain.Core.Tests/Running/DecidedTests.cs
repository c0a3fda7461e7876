using GateChain.Core.Chains;
using GateChain.Core.Checking;
using GateChain.Core.Running;
using GateChain.Core.Running.Events;
using GateChain.Core.Values;

namespace GateChain.Core.Tests.Running;

/// <summary>What docs/semantics.md says under “Decided after the first examination”, sentence by sentence.</summary>
public partial class DecidedTests
{
    // Absent values

    [Fact]
    public void AnOutputThatReadsWhatWasSkippedIsAbsentAndTheRunStaysGreen()
    {
        var play = new Play(
            "chain: t\noutputs: { o: steps.b.n, p: steps.a.n }\nsteps:\n  a: { kind: work }\n  b: "
                + "{ kind: work }\ngates: [ { from: a, to: b, when: '1 > 2' } ]"
        ).Run();
        Assert.Equal("succeeded", play.State.Word);
        Assert.Equal("{\"p\": 1}", play.State.Outputs.ToString());
        Assert.Equal(
            "output “o” is absent: steps.b has no n, because “b” was skipped",
            Assert.Single(play.State.Warnings).Message
        );
    }

    [Theory]
    [InlineData("a: { kind: work, disabled: true }", "steps.a has no n, because “a” is disabled")]
    [InlineData("a: { kind: work, ifFails: absorb }", "steps.a has no n, because “a” failed")]
    public void ElsewhereItIsAnErrorThatSaysWhichStepAndWhy(string step, string why)
    {
        var play = Play.Failing(
                $"chain: t\nsteps:\n  {step}\n  b: {{ kind: work, set: {{ text: "
                    + $"'${{steps.a.n}}' }} }}\ngates: [ {{ from: a, to: b, on: always }} ]",
                "a"
            )
            .Run();
        Assert.Equal(
            ("failed", true),
            (play.Word("b"), play.State.Find("b")!.Error!.Message.Contains(why, StringComparison.Ordinal))
        );
    }

    [Fact]
    public void AnOutputInErrorForAnotherReasonFailsTheRunUntilAResumeComputesItAgain()
    {
        var play = new Play(
            "chain: t\nparams: { d: { type: int, default: 0 } }\noutputs: { o: "
                + "1 / params.d }\nsteps:\n  a: { kind: work }"
        ).Run();
        Assert.Equal("failed", play.State.Word);
        play.Resume(new Dictionary<string, Value> { ["d"] = Value.Int(1) });
        Assert.Equal(
            ("succeeded", "{\"o\": 1}", ""),
            (play.State.Word, play.State.Outputs.ToString(), play.StartedWords)
        );
    }

    [Fact]
    public void WhatAChildDidNotGiveIsNotGivenToItsCallerEither()
    {
        var play = new Play(
            "chain: t\nsteps:\n  c: { kind: call, chain: child }\n  b: { kind: work, set: { text: "
                + "'${steps.c.o}' } }\ngates: [ { from: c, to: b } ]"
        )
        {
            Child = _ => null,
        };
        play.Begin().Continue();
        play.Put(
            new ChildEndedInput(
                play.Now,
                "c",
                play.State.Find("c")!.Child!.Run,
                Outcome.Succeeded,
                Value.EmptyMap,
                null,
                ["output “o” is absent: steps.x has no n, because “x” was skipped"]
            )
        );
        Assert.Contains(
            "steps.c has no o, because in run 101: output “o” is absent: steps.x has no n, because “x” was skipped",
            play.State.Find("b")!.Error!.Message
        );
    }

    // Probes that could not look

    [Fact]
    public void AGuardThatReadsWhatAProbeCouldNotSeeSaysWhyAndShowsIt()
    {
        var play = new Play(
            "chain: t\nsteps:\n  a:\n    kind: work\n    guard:\n      probes: { q: { kind: "
                + "eye } }\n      rules: [ { when: probes.q.n > 0, verdict: proceed } ]\n      otherwise: "
                + "{ verdict: skip }"
        ).Begin();
        play.Put(
            new ProbesTakenInput(
                play.Now,
                "a",
                1,
                Value.Map(("q", Value.Map(("ok", Value.False), ("error", Value.String("no such table: notable")))))
            )
        );
        Assert.Equal(
            "the guard can't be decided: probe “q” could not look: no such table: "
                + "notable (so probes.q.n is not there) in “probes.q.n > 0”",
            play.State.Find("a")!.Error!.Message
        );
        Assert.Equal(
            "no such table: notable",
            play.State.Find("a")!.Hold!.Latest!.Probes.AsMap.Find("q")!.Value.AsMap.Find("error")!.Value.AsString
        );
    }

    // Paused containers and calls

    const string Paused =
        "chain: t\nsteps:\n  g:\n    kind: group\n    ifFails: pause\n    steps: { x: { kind: work }, y: "
        + "{ kind: work } }\n    gates: [ { from: x, to: y } ]\n  z: { kind: work }\ngates: [ { from: g, "
        + "to: z } ]";

    [Theory]
    [InlineData(PauseAnswer.Retry, "g/y z")]
    [InlineData(PauseAnswer.Anew, "g/x g/y z")]
    public void RetryGoesOnInsideAndAnewDoesAllOfItAgain(PauseAnswer answer, string started)
    {
        var broken = true;
        var play = new Play(Paused, (path, _) =>
            broken && path == "g/y" ? AttemptResult.Fail("test", "broke") : AttemptResult.Done()
        ).Run();
        Assert.Equal("paused", play.State.Word);
        broken = false;
        play.Started.Clear();
        play.Answer("g", answer);
        play.Continue();
        Assert.Equal(("succeeded", started, 1), (play.State.Word, play.StartedWords, play.State.Leg));
    }

    [Theory]
    [InlineData(PauseAnswer.Retry, true)]
    [InlineData(PauseAnswer.Anew, false)]
    public void ACallIsRetriedInItsChildAndAnewInAnother(PauseAnswer answer, bool same)
    {
        var broken = true;
        var play = new Play("chain: t\nsteps:\n  c: { kind: call, chain: child, ifFails: pause }")
        {
            Child = _ => broken ? AttemptResult.Fail("child", "broke") : AttemptResult.Done(),
        };
        play.Run();
        var child = play.State.Find("c")!.Child!.Run;
        broken = false;
        play.Answer("c", answer);
        play.Continue();
        Assert.Equal(("succeeded", same), (play.State.Word, play.State.Find("c")!.Child!.Run == child));
    }

    // Stop steps

    [Theory]
    [InlineData("", "stopped", "s stopped, b stopped, late stopped")]
    [InlineData(
        "outcome: succeeded, message: enough",
        "succeeded",
        "s succeeded, b skipped, late skipped, @success[1]/h succeeded"
    )]
    [InlineData(
        "outcome: failed, message: too bad",
        "failed",
        "s failed, b stopped, late stopped, @failure[1]/h succeeded"
    )]
    public void AStopStepEndsTheRunAsItSays(string set, string outcome, string words)
    {
        var play = new Play(
            $"chain: t\noutputs: {{ o: 1 }}\nsteps:\n  s: {{ kind: stop, set: {{ {set} }} }}\n  b: "
                + $"{{ kind: work }}\n  late: {{ kind: work, join: some }}\ngates: [ {{ from: s, to: b, on: "
                + $"always }} ]\nhandlers:\n  success: {{ steps: {{ h: {{ kind: work }} }} }}\n  failure: "
                + $"{{ steps: {{ h: {{ kind: work }} }} }}"
        ).Run();
        Assert.Equal((outcome, words), (play.State.Word, play.Words));
        if (outcome == "succeeded")
            Assert.Equal("{\"o\": 1}", play.State.Outputs.ToString());
        if (outcome == "failed")
            Assert.Contains("too bad", play.State.Error!.Message, StringComparison.Ordinal);
    }

    // Loops that name their item

    [Fact]
    public void InnerLoopsDoNotHideOuterOnes()
    {
        var seen = new List<string>();
        var play = new Play(
            """
            chain: t
            steps:
              depots:
                kind: each
                over: "['north', 'south']"
                as: depot
                steps:
                  days:
                    kind: each
                    over: "[1, 2]"
                    as: day
                    steps:
                      again: { kind: repeat, as: try, until: "true", limit: 2, steps: { x: { kind: work, set: { text: "${depot.item} ${depot.index} ${day.item} ${item} ${try.round}" } } } }
            """
        );
        play.Run();
        Assert.Equal("succeeded", play.State.Word);
        Assert.Equal(
            "south 1 2 2 1",
            play.State.Find("depots[1]/days[1]/again[1]/x")!.Inputs.AsMap.Find("text")!.Value.AsString
        );
    }

    [Theory]
    [InlineData("as: item", "GC1007")]
    [InlineData("as: params", "GC1007")]
    [InlineData("as: x", "GC1106")]
    [InlineData("as: 1x", "GC1007")]
    public void TheNameIsNoOther(string name, string code) =>
        Assert.Contains(
            new ChainCheck(Play.Kinds)
                .Check(
                    "t",
                    $"chain: t\nsteps:\n  e: {{ kind: each, over: '[1]', {name}, steps: {{ x: {{ kind: work }} }} }}"
                )
                .Problems,
            p => p.Code == code
        );

    // Defaults

    [Fact]
    public void TheNearestDefaultWinsAndAStepsOwnWordOverAll()
    {
        var chain = Play.Read(
            """
            chain: t
            defaults: { retry: { limit: 2 }, timeout: 5m, onCrash: pause, onResume: redo }
            steps:
              a: { kind: work }
              b: { kind: work, retry: none, timeout: 1m, onCrash: fail, onResume: keep }
              w: { kind: wait, set: { for: 1s } }
              g:
                kind: group
                defaults: { retry: { limit: 7 }, timeout: none }
                steps: { c: { kind: work } }
            handlers: { failure: { steps: { h: { kind: work } } } }
            """
        );
        string Of(string id) =>
            chain.AllSteps.Single(s => s.Id == id) is var s
                ? $"{s.Retry?.Limit} {s.Timeout?.TotalMinutes} {s.OnCrash} {s.RedoOnResume}"
                : "";
        Assert.Equal(
            ["2 5 Pause True", "1 Fail False", "  Redo False", "7  Pause True", "2 5 Redo True"],
            new[] { Of("a"), Of("b").Trim(), Of("w"), Of("c"), Of("h") }
        );
    }

    [Fact]
    public void ADefaultLaneBesideTheChainsIsAProblem() =>
        Assert.Contains(
            new ChainCheck(Play.Kinds)
                .Check("t", "chain: t\nlane: a\ndefaults: { lane: b }\nsteps: { x: { kind: work } }")
                .Problems,
            p => p is { Code: "GC1003", IsError: true }
        );

    // A decide without a branch

    [Fact]
    public void ADisabledDecideTakesNoBranch()
    {
        var play = new Play(
            "chain: t\nsteps:\n  d: { kind: decide, disabled: true, branches: [ { name: x, when: "
                + "'1 > 2' }, { name: y, otherwise: true } ] }\n  b: { kind: work }\ngates: [ { from: d, to: "
                + "b, branch: x } ]"
        ).Run();
        Assert.Equal("succeeded: d succeeded, b skipped", $"{play.State.Word}: {play.Words}");
    }
}
