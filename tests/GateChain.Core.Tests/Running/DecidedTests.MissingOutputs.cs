using GateChain.Core.Chains;
using GateChain.Core.Checking;
using GateChain.Core.Running;
using GateChain.Core.Running.Events;
using GateChain.Core.Values;

namespace GateChain.Core.Tests.Running;

public partial class DecidedTests
{
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
