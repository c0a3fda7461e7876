using GateChain.Core.Chains;
using GateChain.Core.Checking;
using GateChain.Core.Designing;
using GateChain.Core.Problems;

namespace GateChain.Core.Tests.Designing;

public class DesigningTests
{
    const string File = """
        chain: t
        params: { day: { type: timestamp }, depots: { type: list<string>, default: [] } }
        vars: { n: { type: int, initial: 0 } }
        steps:
          look: { kind: work }
          each:
            kind: each
            over: params.depots
            steps: { inner: { kind: work }, after: { kind: work } }
            gates: [ { from: inner, to: after } ]
          last: { kind: work }
        gates: [ { from: look, to: each }, { from: each, to: last } ]
        """;

    static ExpressionView At(ExpressionSpot spot) => new ExpressionService(Play.Read(File)).At(spot)!;

    /// <summary>The cursor stands at the bar.</summary>
    [Theory]
    [InlineData("each/after", StepPlace.Setting, "steps.|", "inner look")]
    [InlineData("each/inner", StepPlace.Setting, "steps.|", "look")]
    [InlineData(
        "last",
        StepPlace.Setting,
        "1 + steps.each.co|",
        "collected count error failed outcome state succeeded"
    )]
    [InlineData("last", StepPlace.Setting, "params.|", "day depots")]
    [InlineData("each/inner", StepPlace.Setting, "it|", "item")]
    [InlineData("last", StepPlace.Setting, "it|", "")]
    [InlineData("look", StepPlace.Assign, "resu|", "result")]
    [InlineData("look", StepPlace.Setting, "resu|", "")]
    [InlineData("each", StepPlace.Collect, "steps.|", "after inner look")]
    [InlineData("last", StepPlace.Setting, "params.depots.filter(d, d.starts|", "startsWith")]
    [InlineData("last", StepPlace.Setting, "params.day.getFullY|", "getFullYear")]
    [InlineData("last", StepPlace.Setting, "'steps.|'", "")]
    [InlineData("last", StepPlace.Setting, "size(params.depots) > 1 && vars.| == 2", "n")]
    public void WhatIsOfferedIsWhatIsInScopeThere(string step, StepPlace place, string text, string expected)
    {
        var cursor = text.IndexOf('|', StringComparison.Ordinal);
        var (from, items) = At(new(step, place)).Complete(text.Remove(cursor, 1), cursor);
        var typed = text[from..cursor];
        var names = items
            .Where(i =>
                expected.Length == 0
                    ? i.Label.StartsWith(typed, StringComparison.Ordinal) && typed.Length > 0
                    : i.Label.StartsWith(typed, StringComparison.Ordinal) || typed.Length == 0
            )
            .Select(i => i.Label)
            .ToList();
        if (expected.Length == 0)
        {
            Assert.Empty(names);
            return;
        }
        Assert.All(expected.Split(' ').Where(e => e.StartsWith(typed, StringComparison.Ordinal)), e =>
            Assert.Contains(e, names)
        );
        if (typed.Length == 0 && !text.Contains("co|", StringComparison.Ordinal))
            Assert.Equal(expected, string.Join(' ', names));
    }

    [Fact]
    public void AnExpressionIsToldItsTypeAndWhatIsWrong()
    {
        var gate = At(new(null, StepPlace.Setting, "", "each"));
        Assert.Equal(
            ("bool", "bool", 0),
            (
                gate.Wanted,
                gate.Look("steps.each.succeeded > 1").Type,
                gate.Look("steps.each.succeeded > 1").Problems.Count
            )
        );
        Assert.Equal("this gives an int, and a bool is asked for", Assert.Single(gate.Look("1 + 1").Problems).Message);
        Assert.Equal(
            "“last” cannot have run yet when this is computed",
            Assert.Single(gate.Look("steps.last.n == 1").Problems).Message
        );
        Assert.Equal(
            "look",
            Assert.Single(At(new("last", StepPlace.Setting)).Look("steps.lok.n").Problems).Fix!.Replacement
        );
        Assert.Contains(("steps.each.succeeded", "int"), gate.Names);
        Assert.Null(new ExpressionService(Play.Read(File)).At(new("nowhere", StepPlace.Setting)));
    }

    [Theory]
    [InlineData(
        "  last: { kind: work }",
        "  last: { kind: work, title: Last }",
        "changed step last: title: (none) → Last"
    )]
    [InlineData("  last: { kind: work }", "  # a comment\n  last:\n    kind:   'work'", "")]
    [InlineData(
        "{ from: each, to: last }",
        "{ from: each, to: last, on: failure }",
        "changed gate each → last: on: (none) → failure"
    )]
    [InlineData("inner: { kind: work }, ", "", "removed step each/inner")]
    [InlineData("inner: { kind: work }, ", "core: { kind: work }, ", "renamed step each/core")]
    [InlineData("params.depots", "params.others", "changed step each: over: params.depots → params.others")]
    [InlineData("initial: 0", "initial: 3", "changed chain : vars.n.initial: 0 → 3")]
    public void VersionsAreComparedByWhatTheySay(string old, string now, string expected) =>
        Assert.Equal(
            expected,
            string.Join(
                " | ",
                ChainComparison
                    .Compare(File, File.Replace(old, now, StringComparison.Ordinal))
                    .Where(c => c.Part != "gate" || c.Change == "changed")
                    .Select(c =>
                        $"{c.Change} {c.Part} {c.Address}"
                        + (
                            c.Change == "changed"
                                ? ": "
                                    + string.Join(
                                        "; ",
                                        c.Settings.Select(s =>
                                            $"{s.Setting}: {s.Before ?? "(none)"} → {s.After ?? "(none)"}"
                                        )
                                    )
                                : ""
                        )
                    )
            )
        );

    /// <summary>
    /// A key that is not known is told with those that are: the shapes, from which schema and forms are made, must know
    /// the same.
    /// </summary>
    [Theory]
    [InlineData("zzz: 1\nchain: t\nsteps: { a: { kind: work } }", "chain")]
    [InlineData("chain: t\nsteps: { a: { kind: work, zzz: 1 } }", "step")]
    [InlineData(
        "chain: t\nsteps: { a: { kind: work }, b: { kind: work } }\ngates: [ { from: a, to: b, zzz: 1 } ]",
        "gate"
    )]
    [InlineData("chain: t\nsteps: { a: { kind: work, retry: { zzz: 1 } } }", "retry")]
    [InlineData(
        "chain: t\nsteps: { a: { kind: work, expect: [ { when: 'true', verdict: warn, zzz: 1 } ] } }",
        "expect"
    )]
    [InlineData(
        "chain: t\nsteps: { a: { kind: work, guard: { otherwise: { verdict: hold, recheck: 1s, limit: 1, "
            + "zzz: 1 } } } }",
        "otherwise"
    )]
    [InlineData("chain: t\nsteps: { a: { kind: work, guard: { otherwise: { verdict: proceed }, zzz: 1 } } }", "guard")]
    [InlineData("chain: t\nparams: { p: { type: int, zzz: 1 } }\nsteps: { a: { kind: work } }", "parameter")]
    public void TheShapesKnowWhatTheReaderKnows(string file, string what)
    {
        var problems = new ProblemList("t", file);
        ChainReader.Read(file, Play.Kinds, problems);
        var known = Assert
            .Single(problems.Ordered, p => p.Kind == ProblemKinds.UnknownKey)
            .Fix!["known here: ".Length..]
            .Split(", ");
        var shape = what switch
        {
            "chain" => ChainShapes.Chain,
            "step" => ChainShapes.Step,
            "gate" => ChainShapes.Gate,
            "retry" => ChainShapes.Retry,
            "expect" => ChainShapes.ExpectRule,
            "otherwise" => ChainShapes.Otherwise,
            "guard" => ChainShapes.Guard,
            _ => ChainShapes.Parameter,
        };
        Assert.Equal(
            known.Order(StringComparer.Ordinal),
            shape.Members.Select(m => m.Name).Order(StringComparer.Ordinal)
        );
    }

    [Fact]
    public void EveryKeyThatOnlySomeKindsHaveIsDescribed() =>
        Assert.Equal(
            Play.Kinds.All.SelectMany(k => k.StepKeys).Distinct().Order(StringComparer.Ordinal),
            ChainShapes.OfKinds.Keys.Order(StringComparer.Ordinal)
        );
}
