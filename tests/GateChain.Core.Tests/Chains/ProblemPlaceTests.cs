using GateChain.Core.Checking;
using GateChain.Core.Problems;

namespace GateChain.Core.Tests.Chains;

/// <summary>A problem says which characters it is about, and in which step or gate they are.</summary>
public sealed class ProblemPlaceTests
{
    const string Text = """
        chain: t
        wrong: 1
        steps:
          first:
            kind: work
            timeout: soon

          # About the loop.
          loop:
            kind: each
            over: '[1, 2]'
            steps:
              inner: { kind: nothing }
              last:
                kind: work
                titel: x
            gates:
              - { from: inner, to: nowhere }
            parallel: none
        gates:
          - from: first
            to: loop
            when: steps.first.x ++ 1
          - { from: loop, to: 🥛 }
        handlers:
          failure:
            steps:
              mail: { kind: work, join: no }
        outputs: { a: nope }
        """;

    [Fact]
    public void EachIsInItsPartAndHasItsLength()
    {
        var (_, problems) = new ChainCheck(Play.Kinds).Check("t", Text);
        Assert.Equal(
            [
                "chain | wrong",
                "first | soon",
                "loop/inner | nothing",
                "loop/last | titel",
                "loop: inner → nowhere (0) | nowhere",
                "loop | none",
                ": first → loop (0) | +",
                ": loop → 🥛 (1) | 🥛",
                "@failure/mail | no",
                "chain | nope",
            ],
            problems.Select(p => $"{Place(p.Place)} | {Text[p.Span.Start..p.Span.End]}")
        );
        // What offsets say is said by lines and columns too.
        foreach (var p in problems)
        {
            Assert.Equal(p.Span.Start, OffsetOf(p.Line, p.Column));
            Assert.Equal(p.Span.End, OffsetOf(p.End.Line, p.End.Column));
        }
    }

    static string Place(PartPlace? place) =>
        place switch
        {
            { Step: { } step } => step,
            { Gate: { } g } => $"{g.Scope}: {g.From} → {g.To} ({g.Index})",
            _ => "chain",
        };

    static int OffsetOf(int line, int column)
    {
        var offset = 0;
        for (var i = 1; i < line; i++)
            offset = Text.IndexOf('\n', offset) + 1;
        for (var i = 1; i < column; i++)
            offset += char.IsHighSurrogate(Text[offset]) ? 2 : 1;
        return offset;
    }
}
