using GateChain.Core.Checking;

namespace GateChain.Core.Tests.Chains;

/// <summary>Hints are put to rest with a reason, for the chain, a container or a step; nothing else is.</summary>
public class QuietHintTests
{
    static string Codes(string chainKey = "", string stepKey = "", string groupKey = "")
    {
        var text =
            $"chain: t\n{chainKey}steps:\n  a: {{ kind: work }}\n  b: {{ kind: work{stepKey} }}\n"
            + $"  g:\n    kind: group\n{groupKey}    steps: {{ c: {{ kind: work }} }}\n  m: {{ kind: work }}\n"
            + "gates: [ { from: a, to: m, on: failure } ]";
        return string.Join(
            " | ",
            new ChainCheck(Play.Kinds)
                .Check("t.chain.yaml", text)
                .Problems.Select(p => $"{p.Code} {p.Message.Split(" of ").Last()}")
        );
    }

    [Fact]
    public void AHintIsTold() => Assert.Equal("GC1301 b, c, m", Codes());

    [Fact]
    public void AChainPutsItToRest() => Assert.Equal("", Codes("quiet: { GC1301: the night shift looks }\n"));

    [Fact]
    public void AStepIsLeftOut() => Assert.Equal("GC1301 c, m", Codes(stepKey: ", quiet: { GC1301: may fail }"));

    [Fact]
    public void SoIsWhatIsInAContainer() =>
        Assert.Equal("GC1301 b, m", Codes(groupKey: "    quiet: { GC1301: may fail }\n"));

    [Theory]
    [InlineData("quiet: { GC1101: no }\n", "GC1009 only hints can be put to rest")]
    [InlineData("quiet: { GC1031: typo }\n", "GC1009 only hints can be put to rest")]
    [InlineData("quiet: { GC1301: }\n", "“GC1301” needs a reason")]
    [InlineData("quiet: { GC1301: ' ' }\n", "“GC1301” needs a reason")]
    [InlineData("quiet: { GC1301: [x] }\n", "“GC1301” needs a reason")]
    [InlineData("quiet: all\n", "“quiet” is a mapping")]
    public void WhatCantBePutToRestIsTold(string quiet, string problem)
    {
        var problems = new ChainCheck(Play.Kinds)
            .Check("t.chain.yaml", $"chain: t\n{quiet}steps: {{ a: {{ kind: work }} }}")
            .Problems;
        Assert.Contains(problems, p => $"{p.Code} {p.Message}".Contains(problem, StringComparison.Ordinal));
    }
}
