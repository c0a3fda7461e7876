using GateChain.Core.Expressions;
using GateChain.Core.Tests.Conformance;

namespace GateChain.Core.Tests.Expressions;

public class FormatTests
{
    [Theory]
    [InlineData("1+2*3", "1 + 2 * 3")]
    [InlineData("(1+2)*3", "(1 + 2) * 3")]
    [InlineData("1-(2-3)", "1 - (2 - 3)")]
    [InlineData("((a)&&(b||c))||!d", "a && (b || c) || !d")]
    [InlineData("a?b:(c?d:e)", "a ? b : c ? d : e")]
    [InlineData("(a?b:c)?d:e", "(a ? b : c) ? d : e")]
    [InlineData("has( steps . load.rows )", "has(steps.load.rows)")]
    [InlineData("x.?a[ ?0 ].orValue( {'k' :1 , ?'o':x} )", "x.?a[?0].orValue({'k': 1, ?'o': x})")]
    [InlineData("list.map(n,n>1,n*n).exists_one( i,v,v==i )", "list.map(n, n > 1, n * n).exists_one(i, v, v == i)")]
    [InlineData("-(x)+-1", "-x + -1")]
    [InlineData("-(1)", "-(1)")]
    [InlineData("(-1).abs()", "(-1).abs()")]
    [InlineData("cel.bind(a,1,a+ a)", "cel.bind(a, 1, a + a)")]
    [InlineData("math.greatest(1,2,3)", "math.greatest(1, 2, 3)")]
    [InlineData("'a\\'b' +r\"c\" // words", "'a\\'b' + r\"c\"")]
    [InlineData("m.`odd name`", "m.`odd name`")]
    [InlineData(".a.b in [c,]", ".a.b in [c]")]
    public void WritesInOneWay(string text, string formatted)
    {
        var expression = Expression.Parse(text).Expression!;
        Assert.Equal(formatted, Formatter.Format(expression));
        Assert.Equal(formatted, Formatter.Format(Expression.Parse(formatted).Expression!));
    }

    // The suite has every form there is: written again, each gives what it gave before.
    [Fact]
    public void WhatIsWrittenAnewIsTheSame()
    {
        var tried = 0;
        foreach (var test in ConformanceTests.All.Where(c => c.Kind == "conformance" && !c.HoldsMessage))
        {
            if (Expression.Parse(test.Text).Expression is not { } before)
                continue;
            var text = Formatter.Format(before);
            var (after, problem) = Expression.Parse(text);
            Assert.True(after is not null, $"{test.Text} became {text}: {problem?.Message}");
            Assert.True(Shape(before.Tree) == Shape(after.Tree), $"{test.Text} became {text}");
            Assert.True(
                CelValue.Same(before.Evaluate(test.Names), after.Evaluate(test.Names))
                    || before.Evaluate(test.Names).IsError,
                $"{test.Text} became {text}"
            );
            tried++;
        }
        Assert.True(tried > 1500);
    }

    static string Shape(Expr expr) =>
        $"{expr.GetType().Name}{(expr is CallExpr call ? call.Function.Name : "")}("
        + $"{string.Join(",", Walk.Children(expr).Select(Shape))})";

    [Theory]
    [InlineData("steps.load.rows > 1 && has(steps.load.rows)", "steps.fill.rows > 1 && has(steps.fill.rows)")]
    [InlineData("steps.loader.rows + other.load", "steps.loader.rows + other.load")]
    [InlineData(
        "'steps.load' + string(steps.load.n) // steps.load",
        "'steps.load' + string(steps.fill.n) // steps.load"
    )]
    [InlineData("[1].map(steps, steps.load) == steps.load.n", "[1].map(steps, steps.load) == steps.fill.n")]
    [InlineData("steps.load.items.map(steps, .steps.load)", "steps.fill.items.map(steps, .steps.fill)")]
    [InlineData("cel.bind(steps, steps.load, steps.load)", "cel.bind(steps, steps.fill, steps.load)")]
    [InlineData("steps.?load.rows", "steps.?fill.rows")]
    public void RenamesThroughTheTree(string text, string renamed) =>
        Assert.Equal(renamed, Renaming.Rename(Expression.Parse(text).Expression!, "steps", "load", "fill"));
}
