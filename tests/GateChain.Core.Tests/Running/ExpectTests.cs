using GateChain.Core.Running;
using GateChain.Core.Running.Events;
using GateChain.Core.Values;

namespace GateChain.Core.Tests.Running;

public class ExpectTests
{
    static Play Run(string expect, string more, params int[] gives)
    {
        var attempt = 0;
        return new Play(
            $"chain: t\nvars: {{ n: {{ type: int, initial: 0 }} }}\nsteps:\n  a: {{ kind: work, expect: "
                + $"[ {expect} ], assign: {{ vars.n: result.n }}{more} }}",
            (_, _) => AttemptResult.Done(("n", Value.Int(gives[Math.Min(attempt++, gives.Length - 1)])))
        ).Run();
    }

    [Theory]
    [InlineData(
        "{ when: result.n > 1, verdict: fail, message: 'too many: ${result.n}' }",
        "",
        2,
        "failed",
        "too many: 2",
        0
    )]
    [InlineData("{ when: result.n > 1, verdict: fail }", "", 2, "failed", "result.n > 1 holds (result.n = 2)", 0)]
    [InlineData("{ when: result.n > 1, verdict: fail }", "", 1, "succeeded", null, 1)]
    [InlineData(
        "{ when: result.n == 2, verdict: accept }, { when: result.n > 1, verdict: fail }",
        "",
        2,
        "succeeded",
        null,
        2
    )]
    [InlineData(
        "{ when: result.n > 1, verdict: redo }",
        ", retry: { limit: 2 }",
        2,
        "failed",
        "expect asks for another attempt (result.n > 1 holds (result.n = 2)), and all 3 are used up",
        0
    )]
    [InlineData(
        "{ when: result.n > 1, verdict: redo, message: too many }",
        "",
        2,
        "failed",
        "expect asks for another attempt (too many), and there is no retry",
        0
    )]
    [InlineData(
        "{ when: 1 / (result.n - 2) > 0, verdict: fail }",
        "",
        2,
        "failed",
        "an expect rule can't be decided: division by zero in “1 / (result.n - 2) > 0” (result.n = 2)",
        0
    )]
    public void RulesAreReadOverTheResult(string expect, string more, int gives, string word, string? message, int n)
    {
        var play = Run(expect, more, gives);
        Assert.Equal((word, message), (play.Word("a"), play.State.Find("a")!.Error?.Message));
        Assert.Equal(Value.Int(n), play.State.Root.Variables["n"]);
    }

    [Fact]
    public void ARedoUsesUpAnAttempt()
    {
        var play = Run(
            "{ when: result.n < 3, verdict: redo, message: not yet }",
            ", retry: { limit: 5, wait: 10s, when: 'false' }",
            1,
            2,
            3
        );
        Assert.Equal(("succeeded", 3), (play.Word("a"), play.State.Find("a")!.Attempt));
        Assert.Equal(["not yet", "not yet"], play.Events.OfType<AttemptFailed>().Select(e => e.Error.Message));
        Assert.Equal(20, Math.Round((play.Now - Play.Start0).TotalSeconds));
    }

    [Fact]
    public void AWarningMarksStepAndRunAndIsASuccess()
    {
        var play = Run("{ when: result.n > 1, verdict: warn, message: many }", "", 2);
        Assert.Equal(("succeeded", "succeeded"), (play.Word("a"), play.State.Word));
        Assert.Equal(("many", "many"), (play.State.Find("a")!.Warnings.Single(), play.State.Warnings.Single().Message));
    }

    [Fact]
    public void AFailedExpectationTakesTheStepsOwnWay()
    {
        Assert.Equal("succeeded", Run("{ when: 'true', verdict: fail }", ", ifFails: absorb", 1).State.Word);
        Assert.Equal("paused", Run("{ when: 'true', verdict: fail }", ", ifFails: pause", 1).State.Word);
    }
}
