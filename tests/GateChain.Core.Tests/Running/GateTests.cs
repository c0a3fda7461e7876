using GateChain.Core.Running;
using GateChain.Core.Running.Events;
using GateChain.Core.Values;

namespace GateChain.Core.Tests.Running;

public class GateTests
{
    static string Chain(string gate, string more = "") =>
        $$"""
            chain: t
            vars: { n: { type: int, initial: 3 } }
            steps:
              first: { kind: work }
              a: { kind: work }
              b: { kind: work }
            gates:
              - { from: first, to: a{{more}} }
              - { from: a, to: b{{gate}} }
            """;

    [Theory]
    [InlineData("", "succeeded skipped skipped")]
    [InlineData(", on: success", "succeeded skipped skipped")]
    [InlineData(", on: failure", "skipped succeeded skipped")]
    [InlineData(", on: completion", "succeeded succeeded skipped")]
    [InlineData(", on: skipped", "skipped skipped succeeded")]
    [InlineData(", on: always", "succeeded succeeded succeeded")]
    [InlineData(", on: [failure, skipped]", "skipped succeeded succeeded")]
    [InlineData(", when: vars.n > 2", "succeeded skipped skipped")]
    [InlineData(", when: vars.n > 5", "skipped skipped skipped")]
    [InlineData(", on: completion, when: vars.n > 2", "succeeded succeeded skipped")]
    [InlineData(", on: failure, when: vars.n > 5, match: either", "skipped succeeded skipped")]
    [InlineData(", on: failure, when: vars.n > 2, match: either", "succeeded succeeded succeeded")]
    public void OpensAsItsOutcomesAndExpressionSay(string gate, string expected)
    {
        var whenSucceeded = Play.Failing(Chain(gate)).Run().Word("b");
        var whenFailed = Play.Failing(Chain(gate), "a").Run().Word("b");
        var whenSkipped = Play.Failing(Chain(gate, ", on: failure")).Run().Word("b");
        Assert.Equal(expected, $"{whenSucceeded} {whenFailed} {whenSkipped}");
    }

    [Theory]
    [InlineData("all", "oo", "succeeded")]
    [InlineData("all", "os", "skipped")]
    [InlineData("any", "os", "succeeded")]
    [InlineData("any", "ss", "skipped")]
    [InlineData("some", "os", "succeeded")]
    [InlineData("some", "ss", "skipped")]
    [InlineData("2", "oos", "succeeded")]
    [InlineData("2", "oss", "skipped")]
    [InlineData("1", "sss", "skipped")]
    public void JoinsReleaseOrSkip(string join, string gates, string expected)
    {
        var sources = string.Join("\n", gates.Select((_, i) => $"  s{i}: {{ kind: work }}"));
        var links = string.Join(
            "\n",
            gates.Select((g, i) => $"  - {{ from: s{i}, to: t, on: {(g == 'o' ? "success" : "failure")} }}")
        );
        Assert.Equal(
            expected,
            new Play($"chain: t\nsteps:\n{sources}\n  t: {{ kind: work, join: {join} }}\ngates:\n{links}")
                .Run()
                .Word("t")
        );
    }

    [Theory]
    [InlineData("any", 1)]
    [InlineData("some", 3)]
    [InlineData("all", 3)]
    [InlineData("2", 2)]
    public void JoinsStartAtTheRightMoment(string join, int after)
    {
        var play = new Play(
            $"chain: t\nsteps:\n  s0: {{ kind: work }}\n  s1: {{ kind: work }}\n  s2: {{ kind: "
                + $"work }}\n  t: {{ kind: work, join: {join} }}\ngates:\n"
                + "  - { from: s0, to: t }\n  - { from: s1, to: t }\n  - { from: s2, to: t }"
        ).Begin();
        for (var i = 1; i <= 3; i++)
        {
            play.EndOne();
            Assert.Equal(i >= after, play.Started.Contains("t"));
        }
        play.Continue();
        Assert.Single(play.Started, s => s == "t");
    }

    [Fact]
    public void TwoGatesBetweenTheSameStepsAreAlternatives() =>
        Assert.Equal(
            "succeeded",
            Play.Failing(
                    "chain: t\nsteps:\n  a: { kind: work }\n  b: { kind: work, join: "
                        + "any }\ngates:\n  - { from: a, to: b }\n  - { from: a, to: b, on: failure }",
                    "a"
                )
                .Run()
                .Word("b")
        );

    [Fact]
    public void AnErrorIsNeverTakenForFalse()
    {
        var play = new Play(Chain(", when: 1 / (vars.n - 3) > 0")).Run();
        Assert.Equal("failed", play.Word("b"));
        Assert.Contains("division by zero", play.State.Find("b")!.Error!.Message);
        Assert.Equal("failed", play.State.Word);
        var gate = Assert.Single(play.Events.OfType<GateDecided>(), g => g.Gate == 1);
        Assert.Contains(gate.Reason!.Parts, p => p.Text == "vars.n" && p.Value == "3");
    }

    [Fact]
    public void AnErrorAtAGateToAStepThatRunsIsAWarning()
    {
        var play = new Play(
            "chain: t\nvars: { n: { type: int, initial: 0 } }\nsteps:\n  a: { kind: work }\n  b: { kind: "
                + "work }\n  c: { kind: work, join: any }\ngates:\n  - { from: a, to: c }\n  - { from: b, to: "
                + "c, when: 1 / vars.n > 0 }"
        ).Run();
        Assert.Equal("succeeded", play.Word("c"));
        Assert.Contains("division by zero", Assert.Single(play.State.Warnings).Message);
    }

    [Fact]
    public void AGateIsDecidedOnceAndRecoveryDoesNotEvaluateItAgain()
    {
        var play = new Play(Chain(", when: vars.n > 2")).Begin();
        play.EndOne();
        play.EndOne();
        play.Crash();
        play.Continue();
        Assert.Equal(2, play.Events.OfType<GateDecided>().Count());
    }

    [Fact]
    public void DecideTakesTheFirstBranchThatHolds()
    {
        const string yaml = """
            chain: t
            params: { n: { type: int } }
            steps:
              pick: { kind: decide, branches: [ { name: many, when: params.n > 10 }, { name: some, when: params.n > 0 }, { name: none, otherwise: true } ] }
              many: { kind: work }
              some: { kind: work }
              none: { kind: work }
            gates:
              - { from: pick, to: many, branch: many }
              - { from: pick, to: some, branch: some }
              - { from: pick, to: none, branch: none }
            """;
        Assert.Equal("many", Assert.Single(new Play(yaml).Run(("n", Value.Int(11))).Started));
        Assert.Equal("some", Assert.Single(new Play(yaml).Run(("n", Value.Int(5))).Started));
        var play = new Play(yaml).Run(("n", Value.Int(0)));
        Assert.Equal("none", Assert.Single(play.Started));
        Assert.Equal(
            ["many", "some", "none"],
            Why.Of(play.State, play.State.Find("pick")!).Branches.Select(b => b.Branch)
        );
    }

    [Fact]
    public void DecideFailsWhenNoBranchHolds() =>
        Assert.Equal(
            "no-branch",
            new Play("chain: t\nsteps:\n  d: { kind: decide, branches: [ { name: a, when: 1 > 2 } ] }")
                .Run()
                .State.Find("d")!
                .Error!.Code
        );
}
