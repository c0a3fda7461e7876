using System.Numerics;
using GateChain.Core.Values;

namespace GateChain.Core.Expressions;

/// <remarks>
/// Exact decimals are ours; CEL has none. With whole numbers they mix, with binary ones only by <c>double()</c>.
/// </remarks>
public static partial class Functions
{
    static void AddDecimals()
    {
        Add("decimal(decimal) -> decimal", a => a[0]);
        Add("decimal(int) -> decimal", a => Value.Decimal(Numbers.Exact(a[0])));
        Add("decimal(uint) -> decimal", a => Value.Decimal(Numbers.Exact(a[0])));
        Add("decimal(string) -> decimal", a =>
            Decimal38.Parse(a[0].AsString) is { } d
                ? Value.Decimal(d)
                : Fail($"{a[0]} is not a decimal of up to {Decimal38.MostDigits} digits")
        );
        Add("double(decimal) -> double", a => Value.Double(a[0].AsDecimal.ToDouble()));
        Add("int(decimal) -> int", a =>
            a[0].AsDecimal.Whole is var whole && whole >= long.MinValue && whole <= long.MaxValue
                ? Value.Int((long)whole)
                : Fail("the number is out of range for int")
        );
        Add("string(decimal) -> string", a => Value.String(ValueText.ToPlainString(a[0])));

        Add("-_(decimal) -> decimal", a => Value.Decimal(a[0].AsDecimal.Negate()));
        Add("math.abs(decimal) -> decimal", a =>
            a[0].AsDecimal.Digits.Sign < 0 ? Value.Decimal(a[0].AsDecimal.Negate()) : a[0]
        );
        Add("math.sign(decimal) -> int", a => Value.Int(a[0].AsDecimal.Digits.Sign));
        Add("math.round(decimal, int) -> decimal", a => Scaled(a[1], scale => a[0].AsDecimal.Round(scale)));
        Add("math.floor(decimal) -> decimal", a => WholeNear(a[0], down: true));
        Add("math.ceil(decimal) -> decimal", a => WholeNear(a[0], down: false));
        Add("math.trunc(decimal) -> decimal", a => Fitting(Decimal38.Of(a[0].AsDecimal.Whole, 0)));
        foreach (
            var (left, right) in (ReadOnlySpan<(string, string)>)
                [("decimal", "decimal"), ("decimal", "int"), ("int", "decimal")]
        )
        {
            Add($"_+_({left}, {right}) -> decimal", a =>
                Fitting(Decimal38.Add(Numbers.Exact(a[0]), Numbers.Exact(a[1])))
            );
            Add($"_-_({left}, {right}) -> decimal", a =>
                Fitting(Decimal38.Add(Numbers.Exact(a[0]), Numbers.Exact(a[1]).Negate()))
            );
            Add($"_*_({left}, {right}) -> decimal", a =>
                Fitting(Decimal38.Multiply(Numbers.Exact(a[0]), Numbers.Exact(a[1])))
            );
            Add($"math.divide({left}, {right}, int) -> decimal", a =>
                Numbers.Exact(a[1]).Digits.IsZero
                    ? Fail("division by zero")
                    : Scaled(a[2], scale => Decimal38.Divide(Numbers.Exact(a[0]), Numbers.Exact(a[1]), scale))
            );
            foreach (
                var (sign, holds) in (ReadOnlySpan<(string, Func<int, bool>)>)
                    [("_<_", c => c < 0), ("_<=_", c => c <= 0), ("_>_", c => c > 0), ("_>=_", c => c >= 0)]
            )
            {
                Add($"{sign}({left}, {right}) -> bool", a => Ordered(a[0], a[1], holds));
            }
        }
    }

    static Value Fitting(Decimal38? result) =>
        result is null
            ? Fail($"the decimal would have more than {Decimal38.MostDigits} digits")
            : Value.Decimal(result);

    static Value Scaled(Value scale, Func<int, Decimal38?> body) =>
        scale.AsInt is >= 0 and <= Decimal38.MostDigits
            ? Fitting(body((int)scale.AsInt))
            : Fail($"a decimal has 0 to {Decimal38.MostDigits} digits after the decimal point, not {scale}");

    static Value WholeNear(Value value, bool down)
    {
        var d = value.AsDecimal;
        BigInteger step =
            d.IsWhole || d.Digits.Sign < 0 != down ? 0
            : down ? -1
            : 1;
        return Fitting(Decimal38.Of(d.Whole + step, 0));
    }
}
