using GateChain.Core.Chains;
using GateChain.Core.Checking;
using GateChain.Core.Running;
using GateChain.Core.Running.Events;
using GateChain.Core.Values;

namespace GateChain.Core.Tests.Running;

public partial class DecidedTests
{
    [Fact]
    public void ADecisionWithoutEndIsCutAndAStopComesThrough()
    {
        var play = new Play(
            "chain: t\nvars: { n: { type: int } }\nsteps:\n  r: { kind: repeat, until: 'false', limit: "
                + "1000000, steps: { a: { kind: assign, assign: { vars.n: vars.n + 1 } } } }"
        )
        {
            Bounds = Bounds.Default with { DecisionEvents = 20 },
        };
        play.Begin();
        Assert.True(play.Journal[^1].Events.Count < 40 && play.State.CutAt is not null);
        for (var i = 0; i < 3; i++)
            play.LetTimePass();
        Assert.True(play.State.Root.Variables["n"].AsInt > 6);
        play.Put(new StopInput(play.Now, Ann, null));
        play.Continue();
        Assert.Equal("stopped", play.State.Word);
    }

    [Fact]
    public void CutsChangeNothing()
    {
        const string chain =
            "chain: t\nvars: { n: { type: int } }\noutputs: { n: vars.n, all: "
            + "steps.e.collected }\nsteps:\n  e: { kind: each, over: lists.range(60), parallel: 7, "
            + "collect: item, steps: { a: { kind: assign, assign: { vars.n: vars.n + item } }, b: { kind: "
            + "work }, c: { kind: assign, assign: { vars.n: vars.n + 1 } } }, gates: [ { from: a, to: "
            + "c } ] }\n  r: { kind: repeat, until: round == 50, limit: 60, steps: { x: { kind: assign, "
            + "assign: { vars.n: vars.n + 1 } } } }\n  z: { kind: work }\ngates: [ { from: e, to: r }, "
            + "{ from: r, to: z } ]";
        var whole = new Play(chain).Run();
        foreach (var events in (int[])[1, 2, 5, 30])
        {
            var cut = new Play(chain) { Bounds = Bounds.Default with { DecisionEvents = events } }.Run();
            Assert.Equal(
                (whole.State.Word, whole.State.Outputs.ToString(), whole.Words),
                (cut.State.Word, cut.State.Outputs.ToString(), cut.Words)
            );
            Assert.Contains(cut.Events, e => e is DecisionCut);
        }
    }

    [Fact]
    public void WhatIsTooBigFailsItsStepAndTouchesNothingElse()
    {
        var big = Value.String(new string('x', 2000));
        var play = new Play(
            "chain: t\nsteps:\n  a: { kind: work }\n  b: { kind: work }\n  c: { kind: work, ifFails: absorb }",
            (path, _) => path == "a" ? AttemptResult.Done(("n", big)) : AttemptResult.Done(("n", Value.Int(1)))
        )
        {
            Bounds = Bounds.Default with { ValueSize = 1000 },
        };
        play.Run();
        Assert.Equal("a failed, b succeeded, c succeeded", play.Words);
        Assert.Equal(
            ("too-big", "“n” is too big: it has more than 1000 bytes"),
            (play.State.Find("a")!.Error!.Code, play.State.Find("a")!.Error!.Message)
        );
    }

    [Fact]
    public void AListThatIsGatheredCountsByItsItemsAndTheRunInAll()
    {
        var rows = Value.List([.. Enumerable.Repeat(Value.String(new string('x', 400)), 10)]);
        var bounds = Bounds.Default with { ValueSize = 1000, RunSize = 10_000 };
        string Words(int steps) =>
            new Play(
                "chain: t\nsteps:\n"
                    + string.Concat(Enumerable.Range(0, steps).Select(i => $"  s{i}: {{ kind: work }}\n")),
                (_, _) => AttemptResult.Done(("n", rows))
            )
            {
                Bounds = bounds,
            }
                .Run()
                .Words;
        Assert.Equal("s0 succeeded, s1 succeeded", Words(2));
        Assert.Equal("s0 succeeded, s1 succeeded, s2 failed", Words(3));
    }

    [Fact]
    public void WhatCannotBeStoredFailsItsStepOrItsRun()
    {
        var play = new Play(
            "chain: t\nsteps:\n  a: { kind: work }\n  b: { kind: work }\ngates: [ { from: a, to: b, on: failure } ]"
        ).Begin();
        play.Put(new UnstorableInput(new AttemptEndedInput(play.Now, "a", 1, AttemptResult.Done()), "too much"));
        Assert.Equal(("failed", "running"), (play.Word("a"), play.Word("b")));
        play.Put(new UnstorableInput(new TimeInput(play.Now), "too much"));
        Assert.Equal(("failed", "too-big"), (play.State.Word, play.State.Error!.Code));
    }

    [Theory]
    [InlineData("redo", "running", 2)]
    [InlineData("pause", "paused", 1)]
    [InlineData("fail", "failed", 1)]
    public void AnAttemptIsLostOnlyWhenWhatItStartedIsGone(string onCrash, string word, int attempts)
    {
        var play = new Play($"chain: t\nsteps:\n  a: {{ kind: work, onCrash: {onCrash} }}", (_, _) => null).Begin();
        play.Put(new LeftoverInput(play.Now, "a", 1, "process 7 can't be ended"));
        Assert.Equal(("running", "process 7 can't be ended"), (play.Word("a"), play.State.Find("a")!.Leftover));
        play.Put(new ConfirmGoneInput(play.Now, "a", Ann));
        Assert.Equal(
            (word, attempts, null),
            (play.Word("a"), play.State.Find("a")!.Attempt, play.State.Find("a")!.Leftover)
        );
        Assert.False(play.Put(new LostInput(play.Now, "a", 7)));
    }

    [Theory]
    [InlineData("e[1]", null, "e[1]/x e[1]/y")]
    [InlineData("e[9]", "there is no step “e[9]” in this run", "")]
    [InlineData("e", null, "e[0]/x e[0]/y e[1]/x e[1]/y")]
    public void AnIterationStandsForItsSteps(string from, string? refusal, string started)
    {
        var play = new Play(
            "chain: t\nsteps:\n  e: { kind: each, over: '[1, 2]', steps: { x: { kind: work }, y: { kind: "
                + "work } }, gates: [ { from: x, to: y } ] }\n  b: { kind: work }"
        ).Run();
        Assert.Equal(refusal, RunMachine.PlanResume(play.State, new([from], [])).Refusal);
        if (refusal is null)
            Assert.Equal(started, play.Resume(from: [from]).StartedWords);
        Assert.Null(play.State.Find("e[1]"));
    }

    [Fact]
    public void JitterDiffersFromAttemptToAttempt()
    {
        var play = Play.Failing(
                "chain: t\nsteps:\n  a: { kind: work, retry: { limit: 5, wait: 100s, jitter: 1 } }",
                "a"
            )
            .Run();
        var waits = play
            .State.Attempts.Where(a => a.RetryAt is not null)
            .Select(a => (a.RetryAt!.Value - a.Ended!.Value).TotalSeconds)
            .ToList();
        Assert.True(waits.Count == 5 && waits.Max() - waits.Min() > 40, string.Join(", ", waits));
    }
}
