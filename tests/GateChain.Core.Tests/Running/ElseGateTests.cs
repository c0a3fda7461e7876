using GateChain.Core.Checking;
using GateChain.Core.Problems;
using GateChain.Core.Running;
using GateChain.Core.Values;

namespace GateChain.Core.Tests.Running;

/// <summary>Else gates: decided after their siblings, open when none of them is.</summary>
public class ElseGateTests
{
    static string Chain(params string[] gates) =>
        $$"""
            chain: t
            vars: { n: { type: int, initial: 3 } }
            steps:
              a: { kind: work }
              b: { kind: work }
              c: { kind: work }
              d: { kind: work }
            gates:
              {{string.Join("\n  ", gates.Select(g => $"- {{ from: a, {g} }}"))}}
            """;

    // What became of b, c and d when a succeeded, and when it failed.
    [Theory]
    [InlineData("s-s --s", "to: b, when: vars.n > 2", "to: c, else: true", "to: d, on: always")]
    [InlineData("-ss --s", "to: b, when: vars.n > 5", "to: c, else: true", "to: d, on: always")]
    // The one that is written first is decided last all the same.
    [InlineData("-s- ---", "to: b, else: true", "to: c, when: vars.n > 2", "to: d, else: true")]
    [InlineData("s-s ---", "to: b, else: true", "to: c, when: vars.n > 5", "to: d, else: true")]
    // Siblings are those that the outcome admits.
    [InlineData("-s- s--", "to: b, on: failure, when: vars.n > 2", "to: c, else: true", "to: d, on: skipped")]
    [InlineData(
        "-s- -s-",
        "to: b, on: failure, when: vars.n > 5",
        "to: c, on: completion, else: true",
        "to: d, on: skipped"
    )]
    // One of two halves is enough for a sibling to be open.
    [InlineData(
        "s-- -s-",
        "to: b, on: success, when: vars.n > 5, match: either",
        "to: c, on: completion, else: true",
        "to: d, on: skipped"
    )]
    // Gates without a condition are no siblings.
    [InlineData("ss- ---", "to: b", "to: c, else: true", "to: d, when: vars.n > 5")]
    public void OpensWhenNoneBesideItHas(string expected, string b, string c, string d)
    {
        var chain = Chain(b, c, d);
        Assert.Equal(expected, $"{Of(Play.Failing(chain))} {Of(Play.Failing(chain, "a"))}");

        static string Of(Play play)
        {
            play.Run();
            return string.Concat(new[] { "b", "c", "d" }.Select(s => play.Word(s) == "succeeded" ? 's' : '-'));
        }
    }

    [Fact]
    public void AnErrorBesideItIsItsErrorToo()
    {
        var play = new Play(Chain("to: b, when: 1 / (vars.n - 3) > 0", "to: c, else: true", "to: d, when: vars.n > 2"));
        play.Run();
        Assert.Equal("failed failed succeeded", $"{play.Word("b")} {play.Word("c")} {play.Word("d")}");
        Assert.Equal(
            "the gate from a can't be decided: the gate to b can't be either: division by zero",
            play.State.Find("c")!.Error!.Message.Split(" in ")[0].Split(" (")[0]
        );
        Assert.Contains("could not be decided", Why.Of(play.State, play.State.Find("c")!).Gates[0].Sentence);
    }

    [Fact]
    public void AGateThatDoesNotAskForTheOutcomeIsShutWhateverIsInError()
    {
        var play = Play.Failing(
            Chain("to: b, on: failure, when: 1 / (vars.n - 3) > 0", "to: c, else: true", "to: d, on: always"),
            "a"
        );
        play.Run();
        Assert.Equal("failed skipped", $"{play.Word("b")} {play.Word("c")}");
    }

    [Theory]
    [InlineData(true, "“x” to “b” is shut, “y” to “c” is shut")]
    [InlineData(false, "“x” to “b” is open, “y” to “c” is shut")]
    public void WhyNamesTheGatesBesideIt(bool isDisabled, string beside)
    {
        var play = new Play(
            "chain: t\nsteps:\n  a: { kind: decide, branches: [ { name: x, when: 'true' }, { name: y, when: 'true' } ]"
                + $"{(isDisabled ? ", disabled: true" : "")} }}\n  b: {{ kind: work }}\n  c: {{ kind: work }}\n"
                + "  d: { kind: work }\ngates:\n  - { from: a, to: b, branch: x }\n"
                + "  - { from: a, to: c, branch: y }\n  - { from: a, to: d, else: true }"
        );
        play.Run();
        Assert.Equal(isDisabled ? "succeeded" : "skipped", play.Word("d"));
        Assert.Contains(beside, Why.Of(play.State, play.State.Find("d")!).Gates[0].Sentence);
    }

    [Fact]
    public void AResumeDecidesItAgainWithThoseBesideIt()
    {
        var play = new Play(Chain("to: b, when: 1 / (vars.n - 3) > 0", "to: c, else: true", "to: d, else: true"));
        play.Run();
        Assert.Equal("failed", play.Word("c"));
        play.Resume(variables: new Dictionary<string, Value> { ["n"] = Value.Int(2) });
        Assert.Equal("skipped succeeded succeeded", $"{play.Word("b")} {play.Word("c")} {play.Word("d")}");
    }

    [Theory]
    [InlineData("to: b, when: vars.n > 2, else: true", "GC1109 an else gate has no “when”")]
    [InlineData("to: b, match: either, else: true", "GC1109 an else gate has no “match”")]
    [InlineData("to: b, branch: x, else: true", "GC1109 an else gate has no “branch”")]
    [InlineData("to: b, else: true", "GC1110 the else gate from “a” to “b” opens whenever its outcome fits")]
    public void WhatMakesNoSenseIsTold(string gate, string problem) =>
        Assert.Contains(Problems(Chain(gate)), p =>
            $"{p.Kind.Code} {p.Message}".StartsWith(problem, StringComparison.Ordinal)
        );

    [Theory]
    [InlineData("", "without a branch it fails")]
    [InlineData(", on: completion", null)]
    public void BehindADecideWhoseBranchesAllHaveAGateItIsTold(string on, string? problem)
    {
        var problems = Problems(
            "chain: t\nsteps:\n  a: { kind: decide, branches: [ { name: x, when: 'true' } ] }\n  b: { kind: work }\n"
                + "  c: { kind: work }\ngates:\n  - { from: a, to: b, branch: x }\n"
                + $"  - {{ from: a, to: c{on}, else: true }}"
        );
        if (problem is null)
            Assert.DoesNotContain(problems, p => p.Message.Contains("else") || p.Kind.Code == "GC1303");
        else
            Assert.Contains(problems, p => p.Message.Contains(problem, StringComparison.Ordinal));
    }

    static IReadOnlyList<Problem> Problems(string chain) =>
        new ChainCheck(Play.Kinds).Check("t.chain.yaml", chain).Problems;

    [Fact]
    public void ItsLabelSaysElse() =>
        Assert.Equal(
            ["else", "on failure, else"],
            Play.Read(Chain("to: b, else: true", "to: c, on: failure, else: true")).Root.Gates.Select(g => g.Label)
        );
}
