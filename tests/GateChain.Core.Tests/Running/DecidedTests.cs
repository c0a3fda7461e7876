using GateChain.Core.Chains;
using GateChain.Core.Checking;
using GateChain.Core.Running;
using GateChain.Core.Running.Events;
using GateChain.Core.Values;

namespace GateChain.Core.Tests.Running;

/// <summary>What docs/semantics.md says under “Decided after the first examination”, sentence by sentence.</summary>
public class DecidedTests
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
        play.Begin().GoOn();
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
        play.GoOn();
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
        play.GoOn();
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

    // Bounds

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
        play.GoOn();
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

    // Lost attempts

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

    // What a resume is told

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

    // What may be missing is told wherever an expression stands

    [Theory]
    [InlineData("outputs: { o: steps.b.n }")]
    [InlineData("handlers: { failure: { steps: { h: { kind: work, set: { text: '${steps.a.n}' } } } } }")]
    [InlineData("handlers: { success: { steps: { h: { kind: work, set: { text: '${steps.b.n}' } } } } }")]
    public void OutputsThatMayBeMissingAreTold(string more) =>
        Assert.Contains(
            Check(
                $"{more}\nsteps: {{ a: {{ kind: work }}, b: {{ kind: work }}, c: {{ kind: "
                    + $"work }} }}\ngates: [ {{ from: a, to: b, when: '1 > 2' }} ]"
            ),
            p => p == "GC1305"
        );

    [Theory]
    [InlineData("outputs: { o: steps.a.n }")]
    [InlineData("outputs: { o: steps.b.?n.orValue(0) }")]
    [InlineData("handlers: { success: { steps: { h: { kind: work, set: { text: '${steps.a.n}' } } } } }")]
    public void WhatCannotBeMissingIsNot(string more) =>
        Assert.DoesNotContain(
            Check(
                $"{more}\nsteps: {{ a: {{ kind: work }}, b: {{ kind: work }}, c: {{ kind: "
                    + $"work }} }}\ngates: [ {{ from: a, to: b, when: '1 > 2' }} ]"
            ),
            p => p == "GC1305"
        );

    [Theory]
    [InlineData("{ kind: each, over: '[1]', collect: steps.y.n, STEPS }")]
    [InlineData("{ kind: repeat, until: steps.y.n == 1, limit: 3, STEPS }")]
    [InlineData(
        "{ kind: group, steps: { x: { kind: work }, y: { kind: work } }, gates: [ { from: x, to: y, on: "
            + "always, when: steps.x.n == 1 } ] }"
    )]
    [InlineData(
        "{ kind: group, steps: { x: { kind: work }, y: { kind: work, set: { text: "
            + "'${steps.x.error.message}' } } }, gates: [ { from: x, to: y, on: completion } ] }"
    )]
    public void InLoopsGatesAndErrorsToo(string container) =>
        Assert.Contains(
            Check(
                "steps:\n  e: "
                    + container.Replace(
                        "STEPS",
                        "steps: { x: { kind: work }, y: { kind: work } }, gates: [ { from: x, to: y, when: '1 > 2' } ]",
                        StringComparison.Ordinal
                    )
            ),
            p => p == "GC1305"
        );

    [Theory]
    [InlineData("completion", false)]
    [InlineData("failure", false)]
    [InlineData("always", true)]
    public void AFailedEachTellsWhatItCollectedToo(string on, bool isMissing)
    {
        var problems = Check(
            $"steps:\n  e: {{ kind: each, over: '[1]', collect: item, steps: {{ x: {{ kind: "
                + $"work }} }} }}\n  b: {{ kind: work }}\n  a: {{ kind: work }}\ngates: [ {{ from: a, to: e }}, "
                + $"{{ from: e, to: b, on: {on}, when: size(steps.e.collected) > 1 }} ]"
        );
        Assert.Equal(isMissing, problems.Contains("GC1305"));
    }

    [Theory]
    [InlineData("a: { kind: work, ifFails: pause }")]
    [InlineData("a: { kind: work, onCrash: pause }")]
    public void WhatAPersonMayPassOverCanBeSkipped(string step) =>
        Assert.DoesNotContain(
            Check($"steps:\n  {step}\n  b: {{ kind: work }}\ngates: [ {{ from: a, to: b, on: skipped }} ]"),
            p => p is "GC1302" or "GC1303"
        );

    static IEnumerable<string> Check(string rest) =>
        new ChainCheck(Play.Kinds).Check("t", "chain: t\n" + rest).Problems.Select(p => p.Code);
}
