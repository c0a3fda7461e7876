using GateChain.Core.Running;
using GateChain.Core.Running.Events;
using GateChain.Core.Values;

namespace GateChain.Core.Tests.Running;

/// <summary>What a failed run says: the step it began with, however deep, why, and how one gets there.</summary>
public sealed class RootCauseTests
{
    const string Nested = """
        chain: t
        steps:
          outer:
            kind: group
            steps:
              e:
                kind: each
                over: "[{'name': 'south'}, {'name': 'west'}, {'name': 'north'}]"
                steps:
                  r: { kind: repeat, limit: 1, until: "true", steps: { deep: { kind: work } } }
        """;

    [Fact]
    public void ThroughContainersTheDeepestStepIsNamedWithItsItem()
    {
        var play = Play.Failing(Nested, "outer/e[1]/r[1]/deep").Run();
        const string Why = "outer/e[1]/r[1]/deep (“west”): outer/e[1]/r[1]/deep broke";
        Assert.Equal(Why, play.State.Error!.Message);
        Assert.Equal(Why, play.State.Find("outer")!.Error!.Message);
        Assert.Equal(
            new FailureOrigin(1, "t", "outer/e[1]/r[1]/deep", "outer/e[1]/r[1]/deep broke", "west"),
            play.State.Error.Origin
        );
        Assert.Equal(
            "iteration 2 of 3 (“west”) failed, and none may; 1 succeeded, 1 was not started: " + Why,
            play.State.Find("outer/e")!.Error!.Message
        );
        Assert.Equal(["outer/e[1]/r[1]/deep"], play.State.Failures.Select(s => s.Path));
    }

    [Fact]
    public void ThroughCallsTheDeepestRunIsNamedAndTheWayThere()
    {
        var inChild = new StepError(
            "child",
            "run 42 (c) failed: step deep of run 43 (d): broke (by way of g/mid)",
            Origin: new(43, "d", "deep", "broke.", null, "g/mid")
        );
        var play = new Play(
            "chain: t\nsteps: { e: { kind: each, over: '[7]', steps: { top: { kind: call, chain: c } } } }"
        )
        {
            Child = _ => new(Value.EmptyMap, inChild),
        }.Run();
        Assert.Equal("step deep of run 43 (d): broke (by way of e[0]/top (“7”) › g/mid)", play.State.Error!.Message);
        Assert.Equal(inChild, play.State.Find("e[0]/top")!.Error);
        Assert.Equal(
            (43, "deep", "e[0]/top (“7”) › g/mid"),
            (play.State.Error.Origin!.Run, play.State.Error.Origin.Step, play.State.Error.Origin.Way)
        );
    }

    [Theory]
    [InlineData("", "1", "iteration 2 of 4 (“20”) failed, and none may; 1 succeeded, 2 were not started; ")]
    [InlineData(
        "tolerate: 1,",
        "1,2",
        "2 of 4 iterations failed, and at most 1 may; 1 succeeded, 1 was not started; the first was iteration 2 (“20”)"
    )]
    [InlineData(
        "tolerate: 50%,",
        "0,1,3",
        "3 of 4 iterations failed, and at most 50 % (2) may; 1 succeeded; the first was iteration 1 (“10”)"
    )]
    [InlineData("parallel: 4,", "0,1,2,3", "4 of 4 iterations failed, and none may; the first was iteration 1 (“10”)")]
    public void FailedIterationsAreCountedWithTheOthers(string more, string failing, string begins)
    {
        var play = Play.Failing(
                $"chain: t\nsteps: {{ e: {{ kind: each, {more} over: '[10, 20, 30, 40]', steps: {{ x: "
                    + $"{{ kind: work }} }} }} }}",
                [.. failing.Split(',').Select(i => $"e[{i}]/x")]
            )
            .Run();
        Assert.StartsWith(begins.TrimEnd(' ', ';'), play.State.Find("e")!.Error!.Message, StringComparison.Ordinal);
        var first = failing.Split(',')[0];
        var others = failing.Split(',').Length - 1;
        Assert.Equal(
            $"e[{first}]/x (“{10 * (int.Parse(first) + 1)}”): e[{first}]/x broke"
                + $"{(others > 0 ? $" (and {others} more failed)" : "")}",
            play.State.Error!.Message
        );
    }

    [Fact]
    public void WhatWasToleratedIsNotAmongTheFailures()
    {
        var play = Play.Failing(
                "chain: t\nsteps:\n  e: { kind: each, tolerate: 1, over: '[1, 2]', steps: { x: { kind: "
                    + "work } } }\n  z: { kind: work }",
                "e[0]/x",
                "z"
            )
            .Run();
        Assert.Equal(["z"], play.State.Failures.Select(s => s.Path));
        Assert.Equal("z: z broke", play.State.Error!.Message);
    }

    [Fact]
    public void AFailedCollectNamesItsIteration()
    {
        var play = new Play(
            "chain: t\nsteps: { e: { kind: each, over: '[1, 0]', collect: 1 / item, steps: { x: { kind: work } } } }"
        ).Run();
        Assert.Equal(
            "iteration 2 of 2 (“0”) failed, and none may; 1 succeeded: e[1]: collect: "
                + "division by zero in “1 / item” (item = 0)",
            play.State.Find("e")!.Error!.Message
        );
    }

    [Theory]
    [InlineData("any", "b, a", "b")]
    [InlineData("any", "a, b", "a")]
    [InlineData("2", "c, a, b", "a")]
    [InlineData("all", "c, a, b", null)]
    [InlineData("some", "c, a, b", null)]
    public void WhyNamesTheGateThatStartedTheStep(string join, string ends, string? starter)
    {
        var play = new Play(
            $"chain: t\nsteps: {{ a: {{ kind: work }}, b: {{ kind: work }}, c: {{ kind: work }}, z: "
                + $"{{ kind: work, join: {join} }} }}\ngates: [ {{ from: a, to: z }}, {{ from: b, to: z }}, "
                + $"{{ from: c, to: z }} ]"
        ).Begin();
        // All in one moment: the order tells, not the time.
        foreach (var step in ends.Split(", "))
            play.Put(new AttemptEndedInput(play.Now, step, 1, AttemptResult.Done()));
        var why = Why.Of(play.Restored(), play.Restored().Find("z")!);
        Assert.Equal(
            starter,
            why.Gates.SingleOrDefault(g => g.Sentence.EndsWith("; that started it.", StringComparison.Ordinal))?.From
        );
    }

    [Fact]
    public void WhyTellsSinceWhenAndHowLongAStepWaitedForItsLane()
    {
        var play = new Play("chain: t\nsteps: { a: { kind: work, lane: narrow } }", (_, _) => null).Begin();
        string Sentence() => Why.Of(play.Restored(), play.Restored().Find("a")!).Sentence;
        Assert.Contains("It waits for its turn in the lane “narrow” since 2026-11-22 04:00:00 UTC.", Sentence());
        play.Put(new LaneInput(play.Now.AddSeconds(75), "a"));
        Assert.EndsWith(
            "It is running. Before it, it waited 1 min 15 s for its turn in the lane “narrow”.",
            Sentence(),
            StringComparison.Ordinal
        );
    }

    [Fact]
    public void AWarningOfExpectIsToldOnce()
    {
        var play = new Play(
            "chain: t\nsteps: { a: { kind: work, expect: [ { when: result.n == 1, verdict: warn, message: few } ] } }"
        ).Run();
        Assert.Equal(["few"], Why.Of(play.State, play.State.Find("a")!).Warnings);
    }
}
