using GateChain.Core.Chains;
using GateChain.Core.Designing;
using GateChain.Core.Problems;

namespace GateChain.Core.Tests.Designing;

public class RenameTests
{
    const string File = """
        chain: t   # load stands here only in a comment
        params: { load: { type: int, default: 1 } }
        vars: { load: { type: int, initial: 0 } }
        steps:
          load:
            kind: work
            title: load it
            set: { text: "load ${steps.look.n} and ${params.load}" }
            assign: { vars.load: vars.load + result.n }
          look: { kind: work }
          each_load:
            kind: each
            over: "[1].filter(steps, steps > 0)"
            collect: steps.inner.n + steps.load.n
            steps:
              inner: { kind: work, set: { text: "${steps.load.n}" } }
              pick: { kind: decide, branches: [ { name: load, when: 'steps.inner.n > 1' }, { name: rest, otherwise: true } ] }
              last: { kind: work }
            gates:
              - { from: inner, to: pick }
              - { from: pick, to: last, branch: load }
        gates:
          - { from: look, to: load }
          - { from: load, to: each_load, when: "steps.load.n > 0 && 'steps.load' != ''" }
        outputs: { total: vars.load + params.load }
        layout:
          load: [1, 2]
          each_load/inner: [3, 4]
        """;

    static (string Text, string? Refusal) Rename(Renamed what, string scope, string from, string to, string file = File)
    {
        var chain = ChainReader.Read(file, Play.Kinds, new ProblemList("t", file))!;
        var (places, refusal) = ChainRename.Plan(chain, file, what, scope, from, to);
        return (
            places
                .Reverse()
                .Aggregate(file, (t, p) => t[..p.Edit.Start] + p.Edit.Text + t[(p.Edit.Start + p.Edit.Length)..]),
            refusal
        );
    }

    [Theory]
    [InlineData(
        Renamed.Step,
        "",
        "load",
        "store",
        "  load:\n    kind|${steps.load.n}|steps.inner.n + steps.load.n|to: load }|from: "
            + "load,|\"steps.load.n > 0 &&|  load: [1, 2]"
    )]
    [InlineData(Renamed.Step, "", "each_load", "every", "  each_load:\n|to: each_load|each_load/inner: [3")]
    [InlineData(
        Renamed.Step,
        "each_load",
        "inner",
        "core",
        "      inner: {|collect: steps.inner.n|'steps.inner.n > 1'|from: inner,|each_load/inner: [3"
    )]
    [InlineData(
        Renamed.Variable,
        "",
        "load",
        "litres",
        "vars: { load: {|vars.load: vars.load + result|total: vars.load"
    )]
    [InlineData(Renamed.Parameter, "", "load", "amount", "params: { load: {|${params.load}|+ params.load")]
    [InlineData(Renamed.Branch, "each_load/pick", "load", "many", "name: load,|branch: load }")]
    public void EveryReferenceIsChangedAndNothingElse(Renamed what, string scope, string from, string to, string places)
    {
        var (text, refusal) = Rename(what, scope, from, to);
        Assert.Null(refusal);
        var expected = File;
        foreach (var place in places.Split('|').Distinct())
        {
            Assert.Contains(place, expected);
            // Of a piece that shows more than the name, only the name behind the dot, the key or the end of a gate
            // changes.
            var at = what switch
            {
                Renamed.Variable when !place.StartsWith("vars:", StringComparison.Ordinal) => place.LastIndexOf(
                    "vars." + from,
                    StringComparison.Ordinal
                ) + 5,
                Renamed.Parameter when place.Contains("params.", StringComparison.Ordinal) => place.IndexOf(
                    "params." + from,
                    StringComparison.Ordinal
                ) + 7,
                _ => place.LastIndexOf(from, StringComparison.Ordinal),
            };
            expected = expected.Replace(
                place,
                place[..at] + to + place[(at + from.Length)..],
                StringComparison.Ordinal
            );
        }
        if (what == Renamed.Variable)
            expected = expected.Replace("vars.load: vars.litres", "vars.litres: vars.litres", StringComparison.Ordinal);
        Assert.Equal(expected, text);
        // Back again is the file as it was.
        var back = Rename(what, what == Renamed.Step && scope == from ? to : scope, to, from, text);
        Assert.Equal((File, null), back);
    }

    [Theory]
    [InlineData(Renamed.Step, "", "load", "look", "there is already a step “look”")]
    [InlineData(Renamed.Step, "", "load", "inner", "there is already a step “inner” at each_load/inner")]
    [InlineData(Renamed.Step, "", "nothing", "x", "there is no step “nothing”")]
    [InlineData(
        Renamed.Step,
        "",
        "load",
        "9x",
        "a name begins with a letter and holds letters, digits and _; this is “9x”"
    )]
    [InlineData(Renamed.Branch, "each_load/pick", "load", "rest", "there is already a branch “rest”")]
    [InlineData(Renamed.Parameter, "", "gone", "x", "there is no parameter “gone”")]
    public void WhatWouldNotBeTheSameChainIsRefused(Renamed what, string scope, string from, string to, string why) =>
        Assert.Equal((File, why), Rename(what, scope, from, to));

    [Fact]
    public void AnExpressionBehindEscapesKeepsTheFileAsItIs()
    {
        const string file =
            "chain: t\nsteps:\n  a: { kind: work }\n  b: { kind: work, set: { text: \"\\u0024{steps.a.n}\" } }\n";
        Assert.Equal(
            (
                file,
                "an expression in line 4 is written with escapes and can't be changed by itself; write it plainly first"
            ),
            Rename(Renamed.Step, "", "a", "x", file)
        );
    }
}
