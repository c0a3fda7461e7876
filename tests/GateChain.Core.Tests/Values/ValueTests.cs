using CsCheck;
using GateChain.Core.Expressions;
using GateChain.Core.Values;

namespace GateChain.Core.Tests.Values;

public class ValueTests
{
    internal static readonly Gen<Value> Scalars = Gen.OneOf(
        Gen.Const(Value.Null),
        Gen.Bool.Select(Value.Bool),
        Gen.Long.Select(Value.Int),
        Gen.ULong.Select(Value.Uint),
        Gen.Double.Select(Value.Double),
        Gen.String.Select(Value.String),
        Gen.Byte.Array.Select(Value.Bytes),
        Gen.Select(Gen.Long[-62135596800, 253402300799], Gen.Int[0, 999_999_999], Value.Timestamp),
        Gen.Select(Gen.Long[0, 315576000000], Gen.Int[0, 999_999_999], Value.Duration),
        Gen.Const(Value.Type("int")),
        Gen.Const(Value.None)
    );

    static readonly Gen<Value> Any = Gen.Recursive<Value>(
        (depth, inner) =>
            depth > 3
                ? Scalars
                : Gen.OneOf(
                    Scalars,
                    inner.Array[0, 4].Select(a => Value.List(a)),
                    Gen.Select(Gen.OneOf(Gen.String, Pick.One("$map", "$time")), inner)
                        .Array[0, 4]
                        .Select(e => Value.Map(DictionaryMap.Of(e.Select(p => KeyValuePair.Create(p.Item1, p.Item2))))),
                    inner.Select(Value.Some)
                )
    );

    [Fact]
    public void JsonKeepsEveryValue() =>
        Any.Sample(
            value =>
            {
                var back = ValueJson.TryParse(ValueJson.ToText(value, plain: false))!.Value;
                Assert.Equal(value.ToString(), back.ToString());
                Assert.Equal(value.Kind, back.Kind);
            },
            iter: 5000
        );

    [Fact]
    public void PlainJsonIsJson() =>
        Any.Sample(value => Assert.NotNull(ValueJson.TryParse(ValueJson.ToText(value))), iter: 2000);

    [Fact]
    public void EqualValuesHaveEqualHashes() =>
        Gen.Select(Gen.Int[-5, 5], Gen.Int[-5, 5])
            .Sample(
                (a, b) =>
                {
                    Value[] forms = [Value.Int(a), Value.Double(a), Value.Int(b), Value.Double(b)];
                    foreach (var x in forms)
                    {
                        foreach (var y in forms)
                        {
                            if (x == y)
                                Assert.Equal(x.GetHashCode(), y.GetHashCode());
                        }
                    }
                }
            );

    [Theory]
    [InlineData("int", "\"50\"", "50")]
    [InlineData("double", "3", "3")]
    [InlineData("list<string>", "\"north, south\"", "[\"north\", \"south\"]")]
    [InlineData("list<int>", "\"[1, 2]\"", "[1, 2]")]
    [InlineData("timestamp", "\"2026-11-22\"", "2026-11-22T00:00:00Z")]
    [InlineData("duration", "\"1d2h\"", "93600s")]
    [InlineData("duration", "\"PT5M\"", "300s")]
    [InlineData("map", "\"{\\\"a\\\": 1}\"", "{\"a\": 1}")]
    [InlineData("any", "\"x\"", "\"x\"")]
    [InlineData("int", "4.0", "4")]
    public void ReadsWhatPeopleHandIn(string type, string json, string expected) =>
        Assert.Equal(expected, Conversion.To(CelType.Parse(type)!, ValueJson.TryParse(json)!.Value).Value.ToString());

    [Theory]
    [InlineData("int", "\"many\"", "expected an int, and this is “many”")]
    [InlineData(
        "timestamp",
        "\"today\"",
        "expected a timestamp such as 2026-11-22 or 2026-11-22T05:00:00Z, and this is “today”"
    )]
    [InlineData("list<int>", "[1, \"x\"]", "item 2: expected an int, and this is “x”")]
    [InlineData("bool", "1", "expected a bool, and this is an int")]
    [InlineData("string", "1", "expected a string, and this is an int")]
    public void RefusesWhatDoesNotFit(string type, string json, string message) =>
        Assert.Equal(message, Conversion.To(CelType.Parse(type)!, ValueJson.TryParse(json)!.Value).Problem);

    [Theory]
    [InlineData("300ms", 300)]
    [InlineData("5s", 5_000)]
    [InlineData("1h30m", 5_400_000)]
    [InlineData("PT1.5S", 1_500)]
    [InlineData("0", 0)]
    public void ReadsDurations(string text, double ms) =>
        Assert.Equal(ms, TimeText.ParseSetting(text)!.Value.TotalMilliseconds);

    [Theory]
    [InlineData("")]
    [InlineData("5")]
    [InlineData("-5s")]
    [InlineData("5 s")]
    [InlineData("P")]
    [InlineData("1x")]
    public void RefusesWhatIsNoDuration(string text) => Assert.Null(TimeText.ParseSetting(text));

    [Fact]
    public void TimestampsRoundTripThroughText() =>
        Gen.Select(Gen.Long[-62135596800, 253402300799], Gen.Int[0, 999_999_999])
            .Sample(
                (seconds, nanos) =>
                {
                    var value = Value.Timestamp(seconds, nanos);
                    Assert.Equal(value, TimeText.ParseTimestamp(TimeText.Timestamp(value)));
                }
            );
}
