using CsCheck;
using GateChain.Core.Expressions;

namespace GateChain.Core.Tests.Expressions;

public class ParserTests
{
    [Theory]
    [InlineData("", "the expression ends too early: expected a value, a name or “(”", 0)]
    [InlineData("1 +", "the expression ends too early: expected a value, a name or “(”", 3)]
    [InlineData("a = b", "a comparison is written ==", 2)]
    [InlineData("a & b", "“and” is written &&", 2)]
    [InlineData("(1 + 2", "the expression ends too early: expected “)”", 6)]
    [InlineData("[1, 2", "the expression ends too early: expected “,” or “]”", 5)]
    [InlineData("a b", "expected an operator or the end of the expression", 2)]
    [InlineData("'open", "this text is not closed with a quote", 0)]
    [InlineData("'a\\q'", "this escape is not one that texts know", 2)]
    [InlineData("99999999999999999999", "this number is too big for 64 bits", 0)]
    [InlineData("9223372036854775808", "this number is too big for a 64 bit int", 0)]
    [InlineData("for", "“for” is a reserved word", 0)]
    [InlineData("has(x)", "has() takes one selection, for example has(steps.load.rows_read)", 0)]
    [InlineData("x.map(1, 2)", "map() takes the name of a variable here", 6)]
    [InlineData("x.all(i, i, true)", "both variables of all() are “i”", 9)]
    [InlineData("a.b{c: 1}", "messages can't be built in a chain: there are no message types", 3)]
    [InlineData("\U0001F404", "the character “\U0001F404” has no meaning here", 0)]
    public void SaysWhatIsWrongAndWhere(string text, string message, int at)
    {
        var (expression, problem) = Expression.Parse(text);
        Assert.Null(expression);
        Assert.Equal((message, at), (problem!.Message, problem.Span.Start));
    }

    [Theory]
    [InlineData(10_000)]
    public void DeepNestingIsRefusedAndDoesNotOverflowTheStack(int depth)
    {
        foreach (
            var text in (string[])
                [
                    new string('(', depth),
                    new string('[', depth),
                    new string('!', depth) + "true",
                    string.Concat(Enumerable.Repeat("a ? b : ", depth)) + "c",
                    string.Concat(Enumerable.Repeat("-", depth)) + "1",
                ]
        )
        {
            Assert.NotNull(Expression.Parse(text).Problem);
        }
    }

    [Fact]
    public void NoTextMakesTheParserThrow() =>
        Gen.OneOf(
                Gen.String,
                Gen.Select(
                        Pick.One(
                            "a",
                            "1",
                            "'x'",
                            "(",
                            ")",
                            "[",
                            "]",
                            "{",
                            "}",
                            ".",
                            ",",
                            "?",
                            ":",
                            "&&",
                            "||",
                            "!",
                            "-",
                            "==",
                            "in",
                            "size(",
                            "x.map(",
                            "${",
                            "b'\\x",
                            "\"",
                            "has("
                        ),
                        Gen.Const(" ")
                    )
                    .Array[1, 20]
                    .Select(p => string.Concat(p.Select(q => q.Item1 + q.Item2)))
            )
            .Sample(
                text =>
                {
                    var (expression, problem) = Expression.Parse(text);
                    Assert.True(expression is null != problem is null);
                    Template.Parse(text);
                },
                iter: 5000
            );
}
