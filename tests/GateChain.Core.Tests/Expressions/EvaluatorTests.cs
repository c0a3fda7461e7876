using GateChain.Core.Expressions;
using GateChain.Core.Values;

namespace GateChain.Core.Tests.Expressions;

public class EvaluatorTests
{
    static readonly DictionaryBindings Names = new(
        new Dictionary<string, Value>
        {
            ["n"] = Value.Int(7),
            ["d"] = Value.Double(2.5),
            ["s"] = Value.String("milk"),
            ["list"] = Value.List([Value.Int(3), Value.Int(1), Value.Int(2)]),
            ["map"] = Value.Map(
                ("litres", Value.Double(12.5)),
                ("farm", Value.String("farm-001")),
                ("none", Value.Null)
            ),
            ["t"] = TimeText.ParseTimestamp("2026-11-22T05:06:07.125Z")!.Value,
        }
    );

    internal static Value Eval(string text)
    {
        var (expression, problem) = Expression.Parse(text);
        Assert.True(expression is not null, $"{text}: {problem?.Message}");
        return expression.Evaluate(Names);
    }

    [Theory]
    // numbers
    [InlineData("1 + 2 * 3", "7")]
    [InlineData("(1 + 2) * 3", "9")]
    [InlineData("7 / 2", "3")]
    [InlineData("-7 / 2", "-3")]
    [InlineData("-7 % 3", "-1")]
    [InlineData("7.0 / 2.0", "3.5")]
    [InlineData("0x1F", "31")]
    [InlineData("5u + 2u", "7u")]
    [InlineData("1e3", "1000")]
    [InlineData("-9223372036854775808", "-9223372036854775808")]
    [InlineData("1 == 1.0 && 1u == 1 && 1.0 == 1u", "true")]
    [InlineData("1 < 1.5 && 2u > 1.5 && -1 < 0u", "true")]
    [InlineData("9007199254740994 > 9007199254740992.0", "true")]
    [InlineData("18446744073709551615u > 1e30", "false")]
    [InlineData("double('NaN') == double('NaN')", "false")]
    [InlineData("- - 3", "3")]
    [InlineData("!!true", "true")]
    // texts
    [InlineData("'a' + \"b\"", "\"ab\"")]
    [InlineData("size('a\\U0001F404b')", "3")]
    [InlineData("r'\\n' == '\\\\n'", "true")]
    [InlineData("'''a\nb'''.contains('\\n')", "true")]
    [InlineData("'\\x41\\101\\u0041'", "\"AAA\"")]
    [InlineData("b'\\xff' == b'\\377'", "true")]
    [InlineData("s.startsWith('mi') && s.endsWith('lk') && s.contains('il')", "true")]
    [InlineData("s.matches('^m.*k$')", "true")]
    [InlineData("'\\U0001F404' > '\\uFFFF'", "true")]
    // logic, with errors absorbed
    [InlineData("true || 1 / 0 > 0", "true")]
    [InlineData("1 / 0 > 0 || true", "true")]
    [InlineData("false && nothing", "false")]
    [InlineData("nothing && false", "false")]
    [InlineData("n > 5 ? 'many' : 'few'", "\"many\"")]
    [InlineData("true ? 1 : 1 / 0", "1")]
    // lists, maps, macros
    [InlineData("[1, 2] + [3]", "[1, 2, 3]")]
    [InlineData("list[1]", "1")]
    [InlineData("list[1.0]", "1")]
    [InlineData("2 in list && !(9 in list)", "true")]
    [InlineData("'litres' in map", "true")]
    [InlineData("map.litres", "12.5")]
    [InlineData("map['farm']", "\"farm-001\"")]
    [InlineData("has(map.litres) && !has(map.colour) && has(map.none)", "true")]
    [InlineData("{1: 'a', 2u: 'b'}[2]", "\"b\"")]
    [InlineData("list.all(x, x > 0)", "true")]
    [InlineData("list.exists(x, x == 2)", "true")]
    [InlineData("list.exists_one(x, x > 2)", "true")]
    [InlineData("list.map(x, x * 2)", "[6, 2, 4]")]
    [InlineData("list.map(x, x > 1, x * 10)", "[30, 20]")]
    [InlineData("list.filter(x, x < 3)", "[1, 2]")]
    [InlineData("list.all(x, 1 / (x - 3) < 9 || x == 3)", "true")]
    [InlineData("[[1, 2], [3]].map(y, y.map(x, x + size(y)))", "[[3, 4], [4]]")]
    [InlineData("map.filter(k, k.startsWith('l'))", "[\"litres\"]")]
    [InlineData("[].all(x, false) && ![].exists(x, true)", "true")]
    // times
    [InlineData("t.getFullYear()", "2026")]
    [InlineData("t.getMonth()", "10")]
    [InlineData("t.getDate() == 22 && t.getDayOfMonth() == 21", "true")]
    [InlineData("t.getHours('+02:30')", "7")]
    [InlineData("t.getMilliseconds()", "125")]
    [InlineData("t + duration('90m')", "2026-11-22T06:36:07.125Z")]
    [InlineData("t - timestamp('2026-11-22T00:00:00Z') > duration('5h')", "true")]
    [InlineData("duration('1h30m').getMinutes()", "90")]
    [InlineData("string(duration('1.5s'))", "\"1.5s\"")]
    [InlineData("timestamp(0)", "1970-01-01T00:00:00Z")]
    // conversions and types
    [InlineData("int('42') + int(2.9) + int(3u)", "47")]
    [InlineData("string(3.0) + string(true)", "\"3true\"")]
    [InlineData("double('1.5') + double(2)", "3.5")]
    [InlineData("type(1) == int && type('') == string && type(t) == google.protobuf.Timestamp", "true")]
    [InlineData("bool('true')", "true")]
    [InlineData("dyn(1) == 1", "true")]
    // optionals
    [InlineData("map.?litres.orValue(0.0)", "12.5")]
    [InlineData("map.?colour.orValue('none')", "\"none\"")]
    [InlineData("map.?colour.hasValue()", "false")]
    [InlineData("list[?9].or(optional.of(5)).value()", "5")]
    [InlineData("{?'a': map.?colour, 'b': 1}", "{\"b\": 1}")]
    [InlineData("[?map.?litres, ?map.?colour]", "[12.5]")]
    [InlineData("optional.of(2).optMap(x, x * 2).value()", "4")]
    [InlineData("{'a': {'b': 1}}.?a.b.orValue(9)", "1")]
    [InlineData("n // a comment\n + 1", "8")]
    [InlineData("map.`farm`", "\"farm-001\"")]
    public void Gives(string text, string expected) => Assert.Equal(expected, Eval(text).ToString());

    [Theory]
    [InlineData("1 / 0", "division by zero", 0, 5)]
    [InlineData("n + (5 % 0)", "modulus by zero", 5, 10)]
    [InlineData("9223372036854775807 + 1", "return error for overflow", 0, 23)]
    [InlineData("-(-9223372036854775808)", "return error for overflow", 0, 23)]
    [InlineData("map.colour == 'red'", "no such key: colour", 0, 10)]
    [InlineData("list[3]", "index 3 is outside of a list of 3", 0, 7)]
    [InlineData("n + s", "no such overload: +(int, string)", 0, 5)]
    [InlineData("int('x')", "\"x\" is not an int", 0, 8)]
    [InlineData("int(1e99)", "the number is out of range for int", 0, 9)]
    [InlineData("nothing > 1", "there is no “nothing” here", 0, 7)]
    [InlineData("n ? 1 : 2", "the condition before “?” is an int, not a bool", 0, 1)]
    [InlineData("{'a': 1, 'a': 2}", "the key \"a\" stands twice in the map", 9, 12)]
    [InlineData("s.matches('(')", "\"(\" is not a regular expression", 0, 14)]
    [InlineData("timestamp('yesterday')", "\"yesterday\" is not a timestamp such as \"2026-11-22T05:00:00Z\"", 0, 22)]
    [InlineData("timestamp('9999-12-31T23:59:59Z') + duration('1s')", "the timestamp is out of range", 0, 50)]
    [InlineData("list.all(x, x)", "this gives an int, not a bool", 12, 13)]
    [InlineData("optional.none().value()", "the optional holds nothing", 0, 23)]
    public void TellsWhatWentWrongAndWhere(string text, string message, int start, int end)
    {
        var value = Eval(text);
        Assert.True(value.IsError);
        Assert.Equal((message, start, end), (value.AsError.Message, value.AsError.Start, value.AsError.End));
    }

    [Fact]
    public void AMacroThatNeverEndsIsCutOff()
    {
        var thousand = "[" + string.Join(",", Enumerable.Range(0, 1000)) + "]";
        var value = Eval($"{thousand}.all(a, {thousand}.all(b, {thousand}.all(c, true)))");
        Assert.Contains("goes through more than", value.AsError.Message);
    }

    // Each of these would fill the memory; all end at once, with an error.
    [Theory]
    [InlineData("lists.range(10000000000)")]
    [InlineData("lists.range(5000).map(i, lists.range(5000).map(j, 'x').join('y')).size()")]
    [InlineData("lists.range(40).map(i, i)" + ".map(i, lists.range(1000000))")]
    [InlineData("cel.bind(a, lists.range(900000), a + a + a)")]
    [InlineData("cel.bind(s, lists.range(1000).map(i, '0123456789').join(), s.replace('', s))")]
    [InlineData("'%.1001f'.format([1.0])")]
    [InlineData("lists.range(1000000).map(i, lists.range(1000000))")]
    public void WhatWouldFillTheMemoryIsRefused(string text)
    {
        var clock = System.Diagnostics.Stopwatch.StartNew();
        Assert.True(Eval(text).IsError);
        Assert.True(clock.Elapsed < TimeSpan.FromMinutes(2));
    }

    [Fact]
    public void ExplainsWhatEveryPartGave()
    {
        var (expression, _) = Expression.Parse("n > 5 && (map.litres > 100.0 || s == 'milk') || size(list) > 3");
        var (value, parts) = expression!.EvaluateExplained(Names);
        Assert.True(value.IsTrue);
        var byText = parts.ToDictionary(p => p.Text, p => p.Value);
        Assert.Equal("true", byText["n > 5"]);
        Assert.Equal("7", byText["n"]);
        Assert.Equal("12.5", byText["map.litres"]);
        Assert.Equal("\"milk\"", byText["s"]);
        Assert.Null(byText["size(list) > 3"]);
        // Parentheses that a part begins or ends with belong to it.
        Assert.Contains("n > 5 && (map.litres > 100.0 || s == 'milk')", byText.Keys);
    }
}
