using GateChain.Core.Running;

namespace GateChain.Core.Tests.Running;

public class HaltTests
{
    [Theory]
    [InlineData(
        "a: { kind: work }\n  b: { kind: work }\n  slow: { kind: work }\n  after: { kind: work }",
        "{ from: slow, to: after }",
        "a failed, b succeeded, slow succeeded, after stopped"
    )]
    [InlineData(
        "a: { kind: work }\n  mail: { kind: work }\n  more: { kind: work }\n  slow: { kind: "
            + "work }\n  after: { kind: work }",
        "{ from: a, to: mail, on: failure }, { from: mail, to: more }, { from: slow, to: after }",
        "a failed, mail succeeded, more succeeded, slow succeeded, after stopped"
    )]
    [InlineData(
        "a: { kind: work }\n  any: { kind: work, join: any }\n  slow: { kind: work }",
        "{ from: a, to: any, on: completion }, { from: slow, to: any }",
        "a failed, any succeeded, slow succeeded"
    )]
    [InlineData(
        "a: { kind: work }\n  held: { kind: work, guard: { probes: { p: { kind: eye } }, otherwise: "
            + "{ verdict: proceed } } }\n  queued: { kind: work, lane: narrow }",
        "",
        "a failed, held stopped, queued stopped"
    )]
    [InlineData(
        "a: { kind: work, ifFails: absorb }\n  slow: { kind: work }\n  after: { kind: work }",
        "{ from: slow, to: after }",
        "a failed, slow succeeded, after succeeded"
    )]
    [InlineData(
        "a: { kind: work }\n  g: { kind: group, steps: { i: { kind: work }, j: { kind: work } }, gates: "
            + "[ { from: i, to: j } ] }",
        "",
        "a failed, g stopped, g/i succeeded, g/j stopped"
    )]
    [InlineData(
        "a: { kind: work }\n  e: { kind: each, over: '[1, 2]', steps: { i: { kind: work } } }",
        "",
        "a failed, e stopped, e[0]/i succeeded"
    )]
    [InlineData(
        "a: { kind: work }\n  r: { kind: repeat, limit: 3, until: 'false', steps: { i: { kind: work } } }",
        "",
        "a failed, r stopped, r[1]/i succeeded"
    )]
    public void OnlyWhatStandsBehindTheFailureStillStarts(string steps, string gates, string words)
    {
        var play = Play.Failing(
                $"chain: t\nonFailure: halt\nsteps:\n  {steps}\ngates: [ {gates} ]".Replace(
                    "gates: [  ]",
                    "",
                    StringComparison.Ordinal
                ),
                "a"
            )
            .Run();
        Assert.Equal(words, play.Words);
        Assert.Equal(
            words.Contains("ifFails", StringComparison.Ordinal) || steps.Contains("absorb", StringComparison.Ordinal)
                ? "succeeded"
                : "failed",
            play.State.Word
        );
    }

    [Fact]
    public void WithFinishIndependentBranchesGoOn() =>
        Assert.Equal(
            "a failed, slow succeeded, after succeeded",
            Play.Failing(
                    "chain: t\nsteps:\n  a: { kind: work }\n  slow: { kind: work }\n  after: { kind: "
                        + "work }\ngates: [ { from: slow, to: after } ]",
                    "a"
                )
                .Run()
                .Words
        );

    [Fact]
    public void AFailureInAnIterationHaltsThatIterationAndToleranceDecidesAboutTheOthers()
    {
        var yaml =
            "chain: t\nonFailure: halt\nsteps:\n  e: { kind: each, over: '[1, 2]', tolerate: 1, steps: "
            + "{ x: { kind: work }, y: { kind: work }, z: { kind: work } }, gates: [ { from: y, to: "
            + "z } ] }\n  after: { kind: work }\ngates: [ { from: e, to: after } ]";
        Assert.Equal(
            "e succeeded, e[0]/x failed, e[0]/y succeeded, e[0]/z stopped, e[1]/x succeeded, "
                + "e[1]/y succeeded, e[1]/z succeeded, after succeeded",
            Play.Failing(yaml, "e[0]/x").Run().Words
        );
    }

    [Fact]
    public void AResumeGoesOnWithWhatWasHalted()
    {
        var broken = true;
        var play = new Play(
            "chain: t\nonFailure: halt\nsteps:\n  a: { kind: work }\n  g: { kind: group, steps: { i: "
                + "{ kind: work }, j: { kind: work } }, gates: [ { from: i, to: j } ] }",
            (path, _) => path == "a" && broken ? AttemptResult.Fail("test", "x") : AttemptResult.Done()
        ).Run();
        broken = false;
        play.Resume();
        Assert.Equal(("a g/j", "succeeded"), (play.StartedWords, play.State.Word));
    }
}
