using System.Globalization;
using GateChain.Core.Chains;
using GateChain.Core.Checking;
using GateChain.Core.Expressions;
using GateChain.Core.Problems;

namespace GateChain.Core.Tests.Chains;

public partial class ProblemTests
{
    static readonly WorkspaceContext Around = new(
        new Dictionary<string, string> { ["warehouse"] = "sqlite" },
        new HashSet<string> { "a.sql" },
        new[]
        {
            "chain: child\nparams: { day: { type: timestamp }, n: { type: int, default: 1 } }\nsteps: "
                + "{ a: { kind: work } }\noutputs: { total: params.n + 1 }",
            "chain: back\nsteps: { a: { kind: call, chain: t } }",
            "chain: old\nsteps: { a: { kind: work } }",
            "chain: elsewhere\nsteps: { a: { kind: work } }",
        }
            .Select(Play.Read)
            .ToDictionary(
                c => c.Name,
                c =>
                    ChainInterfaces.Of(c) with
                    {
                        IsRetired = c.Name == "old",
                        Area = c.Name == "elsewhere" ? new("other") : default,
                    }
            ),
        new HashSet<string> { "wide" }
    )
    {
        Releases = Earlier,
        Labels = new HashSet<string> { "warehouse" },
    };

    // Release 1 of each chain.
    static ChainInterface? Earlier(string chain, int release) =>
        (chain, release) switch
        {
            ("child", 1) => ChainInterfaces.Of(
                Play.Read(
                    "chain: child\nparams: { n: { type: int } }\nsteps: { a: { kind: work } }\noutputs: "
                        + "{ sum: params.n }"
                )
            ),
            ("back", 1) => ChainInterfaces.Of(
                Play.Read("chain: back\nsteps: { a: { kind: call, chain: back, release: 2 } }")
            ),
            ("back", 2) => ChainInterfaces.Of(Play.Read("chain: back\nsteps: { a: { kind: call, chain: t } }")),
            ("t", 1) => ChainInterfaces.Of(Play.Read("chain: t\nsteps: { a: { kind: work } }")),
            _ => null,
        };

    static IReadOnlyList<Problem> Check(string text) =>
        new ChainCheck(Play.Kinds).Check("t.chain.yaml", text, Around).Problems;

    /// <summary>
    /// A short file that shows a kind of problem, with all that is told of it; null when the kind is shown elsewhere.
    /// </summary>
    internal static (string Text, IReadOnlyList<Problem> Problems)? Example(ProblemKind kind)
    {
        var texts = Rows.Where(r => r.Data.Item3.StartsWith(kind.Code, StringComparison.Ordinal))
            .Select(r => r.Data.Item1)
            .Where(t => t.Length is > 0 and < 600)
            .ToList();
        return texts.Count == 0 ? Triggers.TriggerProblemTests.Example(kind) : (texts[0], Check(texts[0]));
    }

    [Theory]
    [MemberData(nameof(Rows))]
    public void IsToldWithCodePlaceSentenceAndMend(string text, string place, string expected)
    {
        var problems = Check(text);
        var shown = string.Join(
            "\n",
            problems.Select(p => $"{p.Line}:{p.Column} {p.Code} {p.Message}{(p.Fix is null ? "" : $" ({p.Fix})")}")
        );
        Assert.True(
            place
                .Split('|')
                .Any(at =>
                    problems.Any(p =>
                        $"{p.Line}:{p.Column}" == at
                        && $"{p.Code} {p.Message} ({p.Fix})".StartsWith(expected.TrimEnd(')'), StringComparison.Ordinal)
                    )
                ),
            shown
        );
        // What is said is a form and what stands in it.
        Assert.All(problems, p => Assert.Equal(p.Message, Filled(p.Said)));
    }

    static string Filled(Sentence said) =>
        string.Format(CultureInfo.InvariantCulture, said.Format, [.. said.Arguments]);

    [Fact]
    public void WhatIsSaidIsAFormAndWhatStandsInIt()
    {
        var said = Check("chain: t\nsteps: { a: { kind: 'w{0}rk' } }")[0].Said;
        Assert.Equal("there is no kind “{0}”", said.Format);
        Assert.Equal("w{0}rk", said.Arguments[0]);
        Sentence braces = $"{{}} of {1.5:0.00} and {default(string)} in “{"{x}"}”";
        Assert.Equal(
            ("{{}} of {0} and {1} in “{2}”", "1.50||{x}"),
            (braces.Format, string.Join("|", braces.Arguments))
        );
        Assert.Equal(braces.ToString(), Filled(braces));
        Assert.Equal<Sentence>($"a {"b"}", $"{"a"} b");
    }

    // Each of the last steps depends on the first ones in an order of its own, so that no order of looking at them is a
    // good one.
    static string Tangle(int n)
    {
        var ids = Enumerable.Range(0, n).ToList();
        var gates =
            from to in ids
            from k in Enumerable.Range(0, 12)
            select $"  - {{ from: a{(to * 7 + k * (to % 11 + 3)) % n}, to: b{to} }}";
        gates = gates.Distinct().Concat(ids.Select(i => $"  - {{ from: b{i}, to: last }}")).ToList();
        return $"chain: t\nsteps:\n{string.Concat(ids.Select(i => $"  a{i}: {{ kind: work }}\n"))}"
            + $"{string.Concat(ids.Select(i => $"  b{i}: {{ kind: work, join: 4 }}\n"))}  last: {{ kind: work, "
            + $"join: {n / 2} }}\ngates:\n{string.Join("\n", gates.Distinct())}";
    }

    [Theory]
    [InlineData("has(steps.a.n) && steps.a.n > 1")]
    [InlineData("steps.a.?n.orValue(0) > 1")]
    [InlineData("steps.a.state == 'succeeded' && steps.a.n > 1")]
    [InlineData("steps.a.attempts > 1")]
    public void AnOutputThatIsAskedForIsNotMissing(string condition) =>
        Assert.DoesNotContain(
            Check(
                $"chain: t\nsteps: {{ a: {{ kind: work }}, b: {{ kind: work }} }}\ngates: [ {{ from: a, "
                    + $"to: b, on: completion, when: \"{condition}\" }} ]"
            ),
            p => p.Code == "GC1305"
        );

    [Fact]
    public void AChainMayCallAnEarlierReleaseOfItselfThatDoesNot() =>
        Assert.Empty(Check("chain: t\nsteps: { a: { kind: call, chain: t, release: 1 } }"));

    [Fact]
    public void WhereReleasesAreNotKnownANumberIsTakenOnTrust() =>
        Assert.Empty(
            new ChainCheck(Play.Kinds)
                .Check(
                    "t.chain.yaml",
                    "chain: t\nsteps: { a: { kind: call, chain: child, release: 7, inputs: { x: "
                        + "1 } } }\noutputs: { y: steps.a.y }",
                    Around with
                    {
                        Releases = null,
                    }
                )
                .Problems
        );

    [Fact]
    public void EveryKindOfProblemHasARow()
    {
        var rows = Rows.Select(r => r.Data.Item3).ToList();
        // These need settings of other kinds, or stand in other files; the tests of kinds and workspaces have them.
        var elsewhere = new[]
        {
            ProblemKinds.UnknownConnection,
            ProblemKinds.WrongConnection,
            ProblemKinds.MissingAttachment,
            ProblemKinds.PlainSecret,
            ProblemKinds.SecretUnset,
            ProblemKinds.TooMany,
            ProblemKinds.UnknownProfileValue,
            ProblemKinds.ProfileLacks,
            ProblemKinds.ProfilesDiffer,
            ProblemKinds.BadSchedule,
            ProblemKinds.UnknownCalendar,
            ProblemKinds.EmptyCalendar,
            ProblemKinds.BadTriggerInput,
            ProblemKinds.OpenHook,
            ProblemKinds.HookWithoutId,
            ProblemKinds.TriggerCircle,
            ProblemKinds.EventMayBeAbsent,
            ProblemKinds.KeptBesideOthers,
            ProblemKinds.UnknownInTest,
        };
        Assert.Empty(
            ProblemKinds
                .All.Except(elsewhere)
                .Where(k => !rows.Exists(r => r.StartsWith(k.Code, StringComparison.Ordinal)))
                .Select(k => k.Code)
        );
    }

    [Theory]
    [InlineData(
        "chain: t\nsteps:\n  a: { kind: wrok }\n  b: { kind: work, timeuot: 5s }\n  c: { kind: work, "
            + "set: { text: [a }\n  d: { kind: work }\n",
        "GC1101 GC1004 GC1001"
    )]
    [InlineData(
        "chain: t\nparams: { n: { type: itn } }\nsteps:\n  a:\n    kind: work\n   set: { text: x }\n",
        "GC1207 GC1001"
    )]
    [InlineData("chain: t\nsteps:\n  a: { kind: work\n", "GC1001")]
    public void OfABrokenFileWhatStandsBeforeItIsToldToo(string text, string codes) =>
        Assert.Equal(codes, string.Join(" ", Check(text).Select(p => p.Code)));

    [Fact]
    public void AllProblemsAreToldAtOnce() =>
        Assert.Equal(
            5,
            Check(
                "chain: t\nparams: { x: { type: nope } }\nsteps:\n  a: { kind: wrok }\n  b: { kind: "
                    + "work, timeuot: 5s }\n  c: { kind: work, set: { text: '${)}' } }\ngates:\n  - { from: b, "
                    + "to: nowhere }\n"
            ).Count
        );

    [Theory]
    [InlineData("chain: t\r\nsteps:\r\n  a: { kind: wrok }\r\n", 3, 14)]
    [InlineData("chain: t\nnotes: '\U0001F404 moo'\nsteps: { '\U0001F404': { kind: wrok } }", 3, 23)]
    [InlineData("{\"chain\": \"t\", \"steps\": {\"a\": {\"kind\": \"wrok\"}}}", 1, 40)]
    [InlineData(
        "chain: t\nsteps:\n  a:\n    kind: work\n    set:\n      text: |\n        one\n        ${nope}\n",
        8,
        11
    )]
    [InlineData(
        "chain: t\nsteps:\n  a:\n    kind: work\n    set:\n      text: >-\n        one\n        two ${nope}\n",
        8,
        15
    )]
    public void PlacesAreRightWhateverTheFileLooksLike(string text, int line, int column) =>
        Assert.Contains(Check(text), p => p.Code is "GC1101" or "GC1202" && (p.Line, p.Column) == (line, column));

    [Fact]
    public void NoTextMakesTheReaderThrow()
    {
        const string good =
            "chain: t\nparams: { n: { type: int, default: 1 } }\nsteps:\n  a: { kind: work, set: { text: "
            + "'${params.n}' } }\n  e: { kind: each, over: '[1]', steps: { b: { kind: work } }, gates: "
            + "[] }\ngates:\n  - { from: a, to: e, when: params.n > 0 }\n";
        CsCheck.Check.Sample(
            CsCheck.Gen.Select(
                CsCheck.Gen.Int[0, good.Length - 1],
                CsCheck.Gen.Int[0, 6],
                Pick.One("", "{", "]", "\n", ": ", "'", "${", "- ", "&a ", "*a", "\t", "!!x ", "? ", "|")
            ),
            t =>
            {
                Check(good.Remove(t.Item1, Math.Min(t.Item2, good.Length - t.Item1)).Insert(t.Item1, t.Item3));
            },
            iter: 3000
        );
    }
}
