using GateChain.Core.Running;
using GateChain.Core.Values;

namespace GateChain.Core.Tests.Running;

public class RepeatTests
{
    static Play Run(string rule, Func<string, int, AttemptResult?>? outcome = null) =>
        new Play(
            $"chain: t\nvars: {{ n: {{ type: int, initial: 0 }} }}\nsteps:\n  r: {{ kind: repeat, {rule}, "
                + $"steps: {{ a: {{ kind: work, assign: {{ vars.n: vars.n + result.n }} }} }} }}\n  after: "
                + $"{{ kind: work, set: {{ text: '${{steps.r.rounds}} ${{steps.r.at_limit}}' }} }}\ngates: "
                + $"[ {{ from: r, to: after }} ]",
            outcome
        ).Run();

    [Theory]
    [InlineData("until: vars.n >= 3, limit: 9", "3 false", "succeeded")]
    [InlineData("until: steps.a.n == 1, limit: 9", "1 false", "succeeded")]
    [InlineData("until: round == 4, limit: 9", "4 false", "succeeded")]
    [InlineData("while: vars.n < 2, limit: 9", "2 false", "succeeded")]
    [InlineData("while: round <= 2, limit: 9", "2 false", "succeeded")]
    [InlineData("while: 'false', limit: 9", "0 false", "succeeded")]
    [InlineData("until: 'false', limit: 3, atLimit: accept", "3 true", "succeeded")]
    [InlineData("while: 'true', limit: 3, atLimit: accept", "3 true", "succeeded")]
    // The condition is looked at before the limit is: two rounds were enough.
    [InlineData("while: round <= 2, limit: 2", "2 false", "succeeded")]
    [InlineData("until: round == 2, limit: 2", "2 false", "succeeded")]
    public void RoundsEndAsTheirRuleSays(string rule, string text, string word)
    {
        var play = Run(rule);
        Assert.Equal(word, play.State.Word);
        Assert.Equal(Value.String(text), play.State.Find("after")!.Inputs.AsMap.Find("text"));
    }

    [Theory]
    [InlineData(
        "until: 'false', limit: 3",
        "limit",
        "the limit of 3 rounds was reached, and until (false) was still false"
    )]
    [InlineData(
        "while: 'true', limit: 3",
        "limit",
        "the limit of 3 rounds was reached, and while (true) was still true"
    )]
    [InlineData(
        "until: 1 / (vars.n - 2) > 5, limit: 9",
        "expression",
        "until: division by zero in “1 / (vars.n - 2) > 5” (vars.n = 2)"
    )]
    [InlineData(
        "while: 1 / (vars.n - 1) < 5, limit: 9",
        "expression",
        "while: division by zero in “1 / (vars.n - 1) < 5” (vars.n = 1)"
    )]
    public void WhatGoesWrongWithTheRuleFailsTheStep(string rule, string code, string message)
    {
        var error = Run(rule).State.Find("r")!.Error!;
        Assert.Equal((code, message), (error.Code, error.Message));
    }

    [Fact]
    public void AFailureInARoundFailsTheRepeat()
    {
        var play = Run("until: 'false', limit: 9", (path, _) =>
            path == "r[3]/a" ? AttemptResult.Fail("test", "broke") : AttemptResult.Done(("n", Value.Int(1)))
        );
        Assert.Equal("r failed, r[1]/a succeeded, r[2]/a succeeded, r[3]/a failed, after skipped", play.Words);
        Assert.Equal("r[3]/a: broke", play.State.Find("r")!.Error!.Message);
    }

    [Fact]
    public void TheRoundsLieAPauseApartAndThePauseOutlivesACrash()
    {
        var play = new Play(
            "chain: t\nsteps:\n  r: { kind: repeat, until: round == 3, limit: 9, pause: 1m, steps: { a: "
                + "{ kind: work } } }"
        ).Begin();
        play.EndOne();
        Assert.Equal(play.Now.AddMinutes(1), play.State.NextDue);
        play.Crash();
        Assert.Equal("r running, r[1]/a succeeded", play.Words);
        play.Continue();
        Assert.Equal(("succeeded", 2), (play.State.Word, (int)Math.Round((play.Now - Play.Start0).TotalMinutes)));
    }

    [Fact]
    public void ItsVariablesBelongToAllRounds()
    {
        var yaml =
            "chain: t\nsteps:\n  r:\n    kind: repeat\n    until: vars.sum >= 6\n    limit: 9\n    vars: "
            + "{ sum: { type: int, initial: 0 } }\n    steps: { a: { kind: assign, assign: { vars.sum: "
            + "vars.sum + round } } }";
        var play = new Play(yaml).Run();
        Assert.Equal(
            (3, Value.Int(6)),
            (play.State.Find("r")!.Repeat!.Rounds.Count, play.State.Find("r")!.Repeat!.Rounds[0].Variables["sum"])
        );
    }

    [Fact]
    public void ATimeoutEndsItInTheMiddleOfARoundAndBetweenTwo()
    {
        const string yaml =
            "chain: t\nsteps:\n  r: { kind: repeat, until: 'false', limit: 99, pause: 1m, timeout: 150s, "
            + "steps: { a: { kind: work } } }";
        var between = new Play(yaml).Run();
        Assert.Equal(
            ("timeout", 3),
            (between.State.Find("r")!.Error!.Code, between.State.Find("r")!.Repeat!.Rounds.Count)
        );
        var hangs = true;
        var inside = new Play(yaml, (path, _) => path == "r[2]/a" && hangs ? null : AttemptResult.Done()).Run();
        Assert.Equal("r running, r[1]/a succeeded, r[2]/a running", inside.Words);
        hangs = false;
        Assert.Equal("r failed, r[1]/a succeeded, r[2]/a stopped", inside.Continue().Words);
    }

    [Fact]
    public void AResumeGoesOnAtTheRoundThatFailed()
    {
        var broken = true;
        var play = Run("until: vars.n >= 5, limit: 9", (path, _) =>
            path == "r[3]/a" && broken ? AttemptResult.Fail("test", "broke") : AttemptResult.Done(("n", Value.Int(1)))
        );
        broken = false;
        play.Resume();
        Assert.Equal(("r[3]/a r[4]/a r[5]/a after", "succeeded"), (play.StartedWords, play.State.Word));
    }

    [Fact]
    public void AResumeAtTheLimitGivesAsManyRoundsAgain()
    {
        var play = Run("until: vars.n >= 5, limit: 3");
        Assert.Equal("failed", play.State.Word);
        play.Resume();
        Assert.Equal(("r[4]/a r[5]/a after", "succeeded"), (play.StartedWords, play.State.Word));
    }

    [Fact]
    public void AConditionInErrorIsLookedAtAgainByAResume()
    {
        var play = Run("until: 1 / (vars.n - 2) > -9, limit: 9", (_, _) => AttemptResult.Done(("n", Value.Int(2))));
        Assert.Equal("failed", play.State.Word);
        play.Resume(variables: new Dictionary<string, Value> { ["n"] = Value.Int(7) });
        Assert.Equal(("after", "succeeded"), (play.StartedWords, play.State.Word));
    }

    [Fact]
    public void ARetryBeginsWithTheFirstRound()
    {
        var tries = 0;
        var play = Run("until: round == 2, limit: 9, retry: { limit: 1 }", (path, _) =>
            path == "r[2]/a" && ++tries == 1
                ? AttemptResult.Fail("test", "broke")
                : AttemptResult.Done(("n", Value.Int(1)))
        );
        Assert.Equal("r[1]/a r[2]/a r[1]/a r[2]/a after", play.StartedWords);
    }

    [Fact]
    public void AStopEndsItBetweenTwoRounds()
    {
        var play = new Play(
            "chain: t\nsteps:\n  r: { kind: repeat, until: 'false', limit: 9, pause: 1m, steps: { a: { kind: work } } }"
        ).Begin();
        play.EndOne();
        play.Put(new StopInput(play.Now, Ann, null));
        Assert.Equal(("stopped", "stopped"), (play.State.Word, play.Word("r")));
    }
}
