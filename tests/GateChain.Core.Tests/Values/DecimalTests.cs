using System.Globalization;
using System.Numerics;
using CsCheck;
using GateChain.Core.Expressions;
using GateChain.Core.Tests.Expressions;
using GateChain.Core.Values;

namespace GateChain.Core.Tests.Values;

/// <summary>Exact decimals: against fractions of whole numbers of any size, which are exact by nature.</summary>
public class DecimalTests
{
    // Of few digits and of many, with any scale.
    static readonly Gen<Decimal38> Any = Gen.Select(
            Gen.OneOf(
                Gen.Long.Select(n => (BigInteger)n),
                Gen.Long[-9999, 9999].Select(n => (BigInteger)n),
                Gen.Select(Gen.Long, Gen.Long[0, 99_999_999_999_999_999])
                    .Select((a, b) => new BigInteger(a) * 100_000_000_000_000_000 + b)
            ),
            Gen.Int[0, 38]
        )
        .Select((digits, scale) => Decimal38.Of(digits, scale))
        .Where(d => d is not null)
        .Select(d => d!);

    static readonly BigInteger Limit = BigInteger.Pow(10, 38);

    // As a fraction.
    static (BigInteger Over, BigInteger Under) Fraction(Decimal38 d) => (d.Digits, BigInteger.Pow(10, d.Scale));

    static bool Same(Decimal38 d, BigInteger over, BigInteger under) =>
        d.Digits * under == over * BigInteger.Pow(10, d.Scale);

    // Whether a number has 38 digits at most, with as many behind the point as there may be.
    static bool Fits(BigInteger over, BigInteger under)
    {
        var scaled = BigInteger.DivRem(over * Limit, under, out var rest);
        if (!rest.IsZero)
            return false;
        var scale = 38;
        for (; scale > 0 && (scaled % 10).IsZero; scale--)
            scaled /= 10;
        return BigInteger.Abs(scaled) < Limit;
    }

    [Fact]
    public void SumsAndProductsAreExactOrErrors() =>
        Gen.Select(Any, Any)
            .Sample(
                (a, b) =>
                {
                    var ((p, q), (r, s)) = (Fraction(a), Fraction(b));
                    Check(Decimal38.Add(a, b), p * s + r * q, q * s);
                    Check(Decimal38.Multiply(a, b), p * r, q * s);

                    static void Check(Decimal38? result, BigInteger over, BigInteger under)
                    {
                        Assert.Equal(Fits(over, under), result is not null);
                        if (result is not null)
                            Assert.True(Same(result, over, under));
                    }
                }
            );

    [Fact]
    public void QuotientsAndRoundedOnesAreTheNearestAndHalvesAreEven() =>
        Gen.Select(Any, Any, Gen.Int[0, 38])
            .Sample(
                (a, b, scale) =>
                {
                    Near(a.Round(scale), a.Digits, BigInteger.Pow(10, a.Scale), scale);
                    if (!b.Digits.IsZero)
                    {
                        Near(
                            Decimal38.Divide(a, b, scale),
                            a.Digits * BigInteger.Pow(10, b.Scale),
                            b.Digits * BigInteger.Pow(10, a.Scale),
                            scale
                        );
                    }

                    static void Near(Decimal38? result, BigInteger over, BigInteger under, int scale)
                    {
                        if (result is null)
                        {
                            Assert.True(
                                BigInteger.Abs(over) * BigInteger.Pow(10, scale) >= (Limit - 1) * BigInteger.Abs(under)
                            );
                            return;
                        }
                        // Zeros at its end are left out where there would be too many digits.
                        Assert.True(result.Scale <= scale);
                        // Twice the distance to it is no more than a unit of the last digit; where it is just that, the
                        // digit is even.
                        var distance =
                            BigInteger.Abs(
                                over * BigInteger.Pow(10, scale)
                                    - result.Digits * BigInteger.Pow(10, scale - result.Scale) * under
                            ) * 2;
                        Assert.True(distance <= BigInteger.Abs(under));
                        if (distance == BigInteger.Abs(under))
                            Assert.True(result.Scale < scale || result.Digits.IsEven);
                    }
                }
            );

    [Fact]
    public void TextAndJournalGiveTheSameNumberWithTheSameDigits() =>
        Any.Sample(d =>
        {
            Assert.Equal(
                (d.Digits, d.Scale),
                (Decimal38.Parse(d.ToString())!.Digits, Decimal38.Parse(d.ToString())!.Scale)
            );
            var back = ValueJson.TryParse(ValueJson.ToText(Value.Decimal(d), plain: false))!.Value;
            Assert.Equal((ValueKind.Decimal, d.ToString()), (back.Kind, back.AsDecimal.ToString()));
            // For people and programs it is a number.
            Assert.Equal(d.ToString(), ValueJson.ToText(Value.Decimal(d)));
        });

    [Fact]
    public void OrderAndEqualityAreThoseOfTheNumbers() =>
        Gen.Select(Any, Any, Gen.Double)
            .Sample(
                (a, b, d) =>
                {
                    var ((p, q), (r, s)) = (Fraction(a), Fraction(b));
                    Assert.Equal((p * s).CompareTo(r * q), Math.Sign(a.CompareTo(b)));
                    Assert.Equal(Value.Decimal(a).Equals(Value.Decimal(b)), a.CompareTo(b) == 0);
                    // With zeros at its end it is the same number, and has the same place in a map.
                    if (Decimal38.Multiply(a, Decimal38.Parse("1.0")!) is { } longer)
                    {
                        Assert.Equal(
                            (Value.Decimal(a), Value.Decimal(a).GetHashCode()),
                            (Value.Decimal(longer), Value.Decimal(longer).GetHashCode())
                        );
                    }
                    // What lies between two neighbours of binary numbers is neither.
                    var near = a.ToDouble();
                    Assert.True(a.CompareTo(Math.BitIncrement(near)) < 0 && a.CompareTo(Math.BitDecrement(near)) > 0);
                    if (
                        double.IsFinite(d)
                        && Decimal38.Parse(d.ToString("R", CultureInfo.InvariantCulture)) is { } written
                    )
                    {
                        Assert.InRange(Math.Abs(written.CompareTo(d) ?? 9), 0, 1);
                    }
                }
            );

    [Theory]
    [InlineData("decimal('0.10') + decimal('0.20')", "0.30")]
    [InlineData("decimal('0.1') + decimal('0.2') == decimal('0.3')", "true")]
    [InlineData("decimal('19.90') * 3", "59.70")]
    [InlineData("3 - decimal('0.01')", "2.99")]
    [InlineData("-decimal('1.50')", "-1.50")]
    [InlineData("decimal('1.0') == 1 && decimal('2') > 1 && 1 <= decimal('1.00')", "true")]
    [InlineData("decimal('0.5') == 0.5 && decimal('0.1') != 0.1", "true")]
    [InlineData("math.round(decimal('2.345'), 2)", "2.34")]
    [InlineData("math.round(decimal('2.355'), 2)", "2.36")]
    [InlineData("math.round(decimal('-0.5'), 0)", "0")]
    [InlineData("math.divide(decimal('10.00'), 3, 2)", "3.33")]
    [InlineData("math.divide(1, decimal('8'), 3)", "0.125")]
    [InlineData("math.floor(decimal('-1.5'))", "-2")]
    [InlineData("math.ceil(decimal('-1.5'))", "-1")]
    [InlineData("math.ceil(decimal('1.01'))", "2")]
    [InlineData("math.trunc(decimal('-1.99'))", "-1")]
    [InlineData("math.abs(decimal('-1.10'))", "1.10")]
    [InlineData("math.sign(decimal('-1.10'))", "-1")]
    [InlineData("math.greatest(decimal('1.10'), decimal('1.9'))", "1.9")]
    [InlineData("math.least(decimal('1.10'), 1)", "1")]
    [InlineData("double(decimal('0.1')) + 0.2 > 0.3", "true")]
    [InlineData("int(decimal('12.99'))", "12")]
    [InlineData("string(decimal('012.30'))", "\"12.30\"")]
    [InlineData("decimal(' 1')", "error: \" 1\" is not a decimal of up to 38 digits")]
    [InlineData("decimal('1.')", "error: \"1.\" is not a decimal of up to 38 digits")]
    [InlineData("decimal('.5')", "0.5")]
    [InlineData("decimal('1e-3')", "0.001")]
    [InlineData(
        "decimal('99999999999999999999999999999999999999') + 1",
        "error: the decimal would have more than 38 digits"
    )]
    [InlineData(
        "decimal('0.00000000000000000001') * decimal('0.0000000000000000001')",
        "error: the decimal would have more than 38 digits"
    )]
    [InlineData(
        "decimal('10000000000000000000.0') * decimal('10000000000000000000.0') == decimal('1e38')",
        "error: the decimal would have more than 38 digits"
    )]
    [InlineData("math.divide(decimal('1'), 0, 2)", "error: division by zero")]
    [InlineData(
        "math.divide(decimal('1'), 3, 39)",
        "error: a decimal has 0 to 38 digits after the decimal point, not 39"
    )]
    [InlineData("type(decimal('1')) == decimal", "true")]
    [InlineData("[decimal('2'), decimal('1.5')].sort()[0]", "1.5")]
    [InlineData("{decimal('1.0'): 'x'}", "error: ")]
    [InlineData("decimal('1.0') in [1]", "true")]
    [InlineData("'%.2f'.format([decimal('12.345')])", "\"12.34\"")]
    [InlineData("'%s'.format([decimal('12.30')])", "\"12.30\"")]
    public void TheyCompute(string text, string expected)
    {
        var shown = EvaluatorTests.Eval(text).ToString();
        if (expected.EndsWith(": ", StringComparison.Ordinal))
            Assert.StartsWith(expected, shown, StringComparison.Ordinal);
        else
            Assert.Equal(expected, shown);
    }

    [Theory]
    [InlineData(
        "decimal('1') + 1.5",
        "“+” does not work between decimal and double",
        "a binary number is not exact: write it as decimal('…'), or make the decimal binary with double(…)"
    )]
    [InlineData(
        "decimal('1') / 2",
        "“/” does not work between decimal and int",
        "say math.divide(…, …, 2), with how many digits after the decimal point"
    )]
    [InlineData(
        "decimal(1.5)",
        "decimal() does not take (double)",
        "a binary number is not exact: write it as a text, decimal('…'), or say decimal(string(…)) where "
            + "its digits are meant"
    )]
    public void WhatWouldRoundIsRefusedWithTheWayToSayIt(string text, string problem, string? fix)
    {
        var found = Assert.Single(
            Expression.Parse(text).Expression!.Check(CelType.Object(new Dictionary<string, CelType>())).Problems
        );
        Assert.Equal((problem, fix), (found.Message, found.Fix));
    }

    [Theory]
    [InlineData("\"12.30\"", "12.30")]
    [InlineData("12.3", "12.3")]
    [InlineData("12", "12")]
    public void ParametersOfTheTypeAreExact(string json, string expected)
    {
        var value = Conversion.To(CelType.Decimal, ValueJson.TryParse(json)!.Value).Value!.Value;
        Assert.Equal((ValueKind.Decimal, expected), (value.Kind, value.ToString()));
    }

    [Fact]
    public void JsonIsReadExactlyWhereThatIsAskedFor()
    {
        var text = """{"a":[1.10,12345678901234567890,1,1e400]}""";
        Assert.Equal(
            """{"a": [1.10, 12345678901234567890, 1, +Inf]}""".Replace("\"a\"", "\"a\"", StringComparison.Ordinal),
            ValueJson.TryParse(text, exact: true)!.Value.ToString()
        );
        Assert.Equal(
            """{"a": [1.1, 12345678901234567000, 1, +Inf]}""",
            ValueJson
                .TryParse(text)!
                .Value.ToString()
                .Replace("1.2345678901234567e+19", "12345678901234567000", StringComparison.Ordinal)
        );
    }
}
