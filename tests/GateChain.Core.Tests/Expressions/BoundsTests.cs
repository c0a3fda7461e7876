using System.Text;
using GateChain.Core.Expressions;
using GateChain.Core.Values;

namespace GateChain.Core.Tests.Expressions;

/// <summary>
/// What is too long, too deep, too big or too dear is refused in words, and never costs the process or hours.
/// </summary>
public class BoundsTests
{
    sealed class Names(Bounds bounds, CancellationToken cancel = default) : IBindings
    {
        public Bounds Bounds => bounds;
        public CancellationToken Cancel => cancel;

        public bool TryGet(string name, out Value value)
        {
            value =
                name == "m" ? Chained
                : name == "l" ? Value.List([Value.Int(1), Value.EmptyList])
                : default;
            return name is "m" or "l";
        }

        // m.a.a.a …: each map holds the next, the last one itself in the end.
        static readonly Value Chained = Value.Map(new Loop());

        sealed class Loop : MapValue
        {
            public override int Count => 1;
            public override IEnumerable<KeyValuePair<Value, Value>> Entries => [];

            public override bool TryGet(Value key, out Value value)
            {
                value = Value.Map(this);
                return true;
            }
        }
    }

    static readonly Names Usual = new(Bounds.Default);

    static string Chain(string first, string more, int times) =>
        new StringBuilder(first).Insert(first.Length, more, times).ToString();

    /// <summary>
    /// A chain of one operator, selection or call is one level, however long; it is parsed, checked, evaluated,
    /// explained, formatted and renamed on a small stack.
    /// </summary>
    [Theory]
    [InlineData("1", "+1", "4001")]
    [InlineData("1", "-1", "-3999")]
    [InlineData("true", "&&true", "true")]
    [InlineData("false", "||false", "false")]
    [InlineData("'a'", ".lowerAscii()", "\"a\"")]
    [InlineData("m", ".a", null)]
    [InlineData("m", "['a']", null)]
    [InlineData("optional.of(m)", ".?a", null)]
    [InlineData("[1]", ".map(x,x)", "[1]")]
    [InlineData("[1]", "+[]", "[1]")]
    [InlineData("optional.of(1)", ".optMap(x,x)", "optional.of(1)")]
    [InlineData("steps.a", "+steps.a", null)]
    public void LongChainsNeedNoStack(string first, string more, string? value)
    {
        var text = Chain(first, more, first == "steps.a" ? 3000 : 4000);
        Exception? failed = null;
        // On a stack that a recursion of that depth would use up at once.
        var thread = new Thread(
            () =>
            {
                try
                {
                    Go();
                }
                catch (Exception e)
                {
                    failed = e;
                }
            },
            maxStackSize: 512 << 10
        );
        thread.Start();
        thread.Join();
        Assert.Null(failed);

        void Go()
        {
            var (expression, problem) = Expression.Parse(text);
            Assert.Null(problem);
            expression!.Check(
                CelType.Object(new Dictionary<string, CelType> { ["m"] = CelType.Dyn, ["steps"] = CelType.Dyn })
            );
            var (result, explained) = (expression.Evaluate(Usual), expression.EvaluateExplained(Usual).Value);
            if (value is not null)
                Assert.Equal((value, value), (result.ToString(), explained.ToString()));
            Assert.Equal(Bare(text), Bare(Formatter.Format(expression)));
            Assert.Equal(
                text.Replace("steps.a", "steps.b", StringComparison.Ordinal),
                Renaming.Rename(expression, "steps", "a", "b")
            );
        }
    }

    static string Bare(string text) => text.Replace(" ", "", StringComparison.Ordinal);

    const int MaxNodes = 10_000;

    [Theory]
    [InlineData("1", "+1")]
    [InlineData("true", "&&true")]
    [InlineData("m", ".a")]
    [InlineData("[", "1,")]
    public void MorePartsThanTheBoundAreRefused(string first, string more)
    {
        var text = Chain(first, more, MaxNodes + 10);
        Assert.Contains("more than 10,000 parts", Expression.Parse(first == "[" ? text + "]" : text).Problem?.Message);
    }

    [Fact]
    public void TheExpressionsOfATextCountTogether()
    {
        Assert.Empty(Template.Parse(Chain("", "${1} ", 9_000)).Problems);
        Assert.Contains(
            "more than 10,000 parts",
            Template.Parse(Chain("", "${1} ", 200_000)).Problems.Single().Message
        );
    }

    /// <summary>Short texts whose evaluation would take minutes to months.</summary>
    [Theory]
    [InlineData("cel.bind(l, lists.range(1000000), l.all(i, !((-1) in l)))")]
    [InlineData("cel.bind(l, lists.range(1000000), l.all(i, l != l + [1]))")]
    [InlineData("cel.bind(l, lists.range(1000).map(i, lists.range(1000)), l.all(x, l.all(y, x != l)))")]
    [InlineData("lists.range(1000000).all(i, lists.range(1000000).exists(j, j == -1) || true)")]
    [InlineData("cel.bind(s, lists.range(1000000).map(i, 'x').join(), lists.range(1000000).all(i, !s.contains('y')))")]
    [InlineData("cel.bind(s, lists.range(1000000).map(i, 'x').join(), lists.range(1000000).all(i, s.size() > 1))")]
    [InlineData(
        "cel.bind(s, lists.range(500000).map(i, 'a').join(), lists.range(100000).all(i, !s.matches('(a|aa|aaa)*b')))"
    )]
    [InlineData(
        "lists.range(1000000).all(i, !'a'.matches('x{' + string(i % 900) + '}y{' + string(i / 900) + '}z{2}(q|r|s|t)'))"
    )]
    [InlineData("cel.bind(l, lists.range(200000).map(i, [i, 1]), lists.range(1000).all(i, l.distinct().size() > 1))")]
    [InlineData("cel.bind(l, lists.range(500000), lists.range(100000).all(i, l.reverse()[0] > 1 || true))")]
    [InlineData("cel.bind(l, lists.range(300000).map(i, string(i)), lists.range(1000).all(i, l.sort().size() > 1))")]
    [InlineData("lists.range(1000000).map(a, [a, a]).map(a, [a, a]).map(a, [a, a]).size() > 0")]
    public void WhatWouldTakeHoursIsEnded(string text)
    {
        var clock = System.Diagnostics.Stopwatch.StartNew();
        var value = Expression.Parse(text).Expression!.Evaluate(Usual);
        Assert.True(value.IsError, value.ToString());
        // Far above what it takes, far below what it would take: the point is that it ends.
        Assert.True(clock.Elapsed < TimeSpan.FromMinutes(5), $"{clock.Elapsed}: {value}");
    }

    [Fact]
    public void WhatIsSpentCannotBeAbsorbed()
    {
        var value = Expression
            .Parse("lists.range(1000).all(i, lists.range(1000).all(j, j >= 0)) || true")
            .Expression!.Evaluate(new Names(Bounds.Default with { EvaluationSteps = 10_000 }));
        Assert.Equal("the expression takes more than 10,000 steps", value.AsError.Message);
    }

    [Fact]
    public void AnEvaluationCanBeEndedFromOutside()
    {
        using var cancel = new CancellationTokenSource();
        cancel.Cancel();
        var value = Expression
            .Parse("lists.range(100000).all(i, i >= 0) || true")
            .Expression!.Evaluate(new Names(Bounds.Default, cancel.Token));
        Assert.Equal("the expression took too long and was ended", value.AsError.Message);
    }

    [Fact]
    public void TheDistinctOfManyListsIsQuick()
    {
        // Their hashes were their lengths: each was compared with all others.
        var value = EvaluatorTests.Eval(
            "lists.range(50000).map(i, [i, i]).distinct().size() == 50000 && lists.range(20000).map(i, "
                + "{'a': i}).distinct().size() == 20000"
        );
        Assert.True(value.IsTrue, value.ToString());
    }

    [Theory]
    [InlineData("'\\u0000'", 3, 0)]
    [InlineData("12", 4, 0)]
    [InlineData("[1, [2], 'abc']", 21, 2)]
    [InlineData("{'a': {'b': []}}", 16, 3)]
    [InlineData("[optional.of(optional.of([1]))]", 34, 4)]
    public void ValuesKnowTheirSizeAndDepth(string text, long size, int depth)
    {
        var value = EvaluatorTests.Eval(text);
        Assert.Equal((size, depth), (value.Size, value.Depth));
    }

    [Fact]
    public void ValuesThatAreTooDeepOrTooBigAreNotMade()
    {
        var deep = string.Concat(Enumerable.Repeat("[", 64)) + string.Concat(Enumerable.Repeat("]", 64));
        Assert.False(EvaluatorTests.Eval(deep).IsError);
        Assert.Equal(
            "the value would be too big: it is nested more than 64 levels deep",
            EvaluatorTests.Eval($"[{deep}]").AsError.Message
        );
        Assert.Equal(
            "the value would be too big: it is nested more than 64 levels deep",
            EvaluatorTests.Eval($"[{deep}].map(x, [x])").AsError.Message
        );
        Assert.Equal(
            "the value would be too big: it has more than 8 MiB",
            EvaluatorTests
                .Eval("cel.bind(s, lists.range(100000).map(i, 'x').join(), lists.range(100).map(i, s))")
                .AsError.Message
        );
        // Small to write, a hundred billion items to go through.
        Assert.True(
            EvaluatorTests
                .Eval("cel.bind(a, lists.range(1000), cel.bind(b, a.map(i, a), cel.bind(c, a.map(i, b), c == c)))")
                .IsError
        );
    }

    [Fact]
    public void WhatIsStoredCanBeReadHoweverDeep()
    {
        // Older versions let 64 levels in beneath what stands around a value.
        var value = Enumerable
            .Range(0, 300)
            .Aggregate(Value.Int(1), (inner, i) => i % 2 == 0 ? Value.List([inner]) : Value.Map(("k", inner)));
        Assert.Equal(value, ValueJson.TryParse(ValueJson.ToText(value, plain: false)));
    }

    [Theory]
    [InlineData("""{"$bytes": "%%%"}""")]
    [InlineData("""{"$double": ""}""")]
    [InlineData("""{"$map": [1]}""")]
    [InlineData("""{"$map": [[], 1]}""")]
    [InlineData("""{"$uint": -1}""")]
    public void WhatOnlyLooksLikeATagIsAMap(string json) =>
        Assert.Equal(ValueKind.Map, ValueJson.TryParse(json)!.Value.Kind);
}
