using CsCheck;
using GateChain.Core.Expressions;
using GateChain.Core.Values;

namespace GateChain.Core.Tests.Expressions;

public class CheckerTests
{
    static readonly CelType Scope = CelType.Object(
        new Dictionary<string, CelType>
        {
            ["n"] = CelType.Int,
            ["d"] = CelType.Double,
            ["s"] = CelType.String,
            ["b"] = CelType.Bool,
            ["list"] = CelType.List(CelType.Int),
            ["any"] = CelType.Dyn,
            ["steps"] = CelType.Object(
                new Dictionary<string, CelType>
                {
                    ["load"] = CelType.Object(new Dictionary<string, CelType> { ["rows_read"] = CelType.Int }),
                }
            ),
        }
    );

    static (CelType Type, IReadOnlyList<ExpressionProblem> Problems) Check(string text) =>
        Expression.Parse(text).Expression!.Check(Scope);

    [Theory]
    [InlineData("n + 1", "int")]
    [InlineData("n > 1.5", "bool")]
    [InlineData("list.map(x, string(x))", "list<string>")]
    [InlineData("list[0] + 1", "int")]
    [InlineData("{'a': [1.0]}", "map<string, list<double>>")]
    [InlineData("b ? n : 2", "int")]
    [InlineData("[1, 'a']", "list<any>")]
    [InlineData("any + 1", "int")]
    [InlineData("steps.load.rows_read", "int")]
    [InlineData("steps.?load", "optional<object>")]
    [InlineData("list[?0].orValue(1)", "int")]
    [InlineData("timestamp('') - timestamp('')", "duration")]
    [InlineData("type(n)", "type")]
    [InlineData("has(steps.load.colour)", "bool")]
    public void FindsTheType(string text, string type)
    {
        var (found, problems) = Check(text);
        Assert.Empty(problems);
        Assert.Equal(type, found.ToString());
    }

    [Theory]
    [InlineData("n + d", "“+” does not work between int and double", "make both the same with double(…) or int(…)")]
    [InlineData(
        "n + s",
        "“+” does not work between int and string",
        "make both text with string(…), or the text a number with int(…) or double(…)"
    )]
    [InlineData("nn > 1", "there is no “nn” here", "did you mean “n”?")]
    [InlineData("steps.laod", "there is no “laod” in steps", "did you mean “load”?")]
    [InlineData("steps.load.rows", "there is no “rows” in steps.load", "known here: rows_read")]
    [InlineData("size(n)", "size() does not take (int)", null)]
    [InlineData("size()", "size() takes 1 argument, not 0", null)]
    [InlineData("n && b", "“&&” stands between bools, and this is an int", null)]
    [InlineData("n.size", "“.size” can't be taken from an int", null)]
    [InlineData("s[0]", "a string can't be indexed with an int", null)]
    [InlineData("list.all(x, x + 1)", "the condition is a bool, and this is an int", null)]
    [InlineData("n.map(x, x)", "an int can't be gone through", null)]
    [InlineData("'a' in list", "“in” can't look for a string in a list<int>", null)]
    [InlineData("s.startWith('a')", "there is no method “startWith”", "did you mean “startsWith”?")]
    [InlineData("sizze(s)", "there is no function “sizze”", "did you mean “size”?")]
    [InlineData("s.startsWith(1)", "startsWith() of a string does not take (int)", null)]
    public void FindsTheMistake(string text, string message, string? fix)
    {
        var problem = Assert.Single(Check(text).Problems);
        Assert.Equal((message, fix), (problem.Message, problem.Fix?.Text));
    }

    // What the checker lets pass never gives a type error: only what depends on values can go wrong.
    [Fact]
    public void WhatChecksNeverGivesATypeError()
    {
        var names = new DictionaryBindings(
            new Dictionary<string, Value>
            {
                ["n"] = Value.Int(3),
                ["d"] = Value.Double(1.5),
                ["s"] = Value.String("x"),
                ["b"] = Value.True,
                ["list"] = Value.List([Value.Int(1), Value.Int(2)]),
            }
        );
        var leaf = Pick.One("n", "d", "s", "b", "list", "1", "2.5", "'a'", "true", "[1, 2]", "1u");
        var expr = Gen.Recursive<string>(
            (depth, inner) =>
                depth > 3
                    ? leaf
                    : Gen.OneOf(
                        leaf,
                        Gen.Select(
                            inner,
                            Pick.One("+", "-", "*", "<", "==", "&&", "||", "in", ">="),
                            inner,
                            (a, op, c) => $"({a} {op} {c})"
                        ),
                        Gen.Select(inner, inner, (a, c) => $"({a} ? {c} : {c})"),
                        // Mixed types would be “any”, which the checker lets pass by design.
                        inner.Select(a => $"[{a}, {a}]"),
                        Gen.Select(Pick.One("size", "string", "int", "double", "type"), inner, (f, a) => $"{f}({a})"),
                        Gen.Select(inner, Pick.One("all", "exists", "map", "filter"), inner, (a, m, c) =>
                            $"{a}.{m}(x, {c})"
                        )
                    )
        );
        var passed = 0;
        expr.Sample(
            text =>
            {
                var expression = Expression.Parse(text).Expression!;
                if (expression.Check(Scope).Problems.Count > 0)
                    return;
                Interlocked.Increment(ref passed);
                var value = expression.Evaluate(names);
                Assert.False(
                    value.IsError
                        && (
                            value.AsError.Message.Contains("no such overload")
                            || value.AsError.Message.Contains("not a bool")
                            || value.AsError.Message.Contains("gone through")
                        ),
                    $"{text}: {value}"
                );
            },
            iter: 20_000
        );
        Assert.True(passed > 500, $"only {passed} expressions passed the checker");
    }
}
