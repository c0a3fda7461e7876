using GateChain.Core.Values;

namespace GateChain.Core.Expressions;

/// <remarks>Source: CEL math extension.</remarks>
public static partial class Functions
{
    static void AddMaths()
    {
        foreach (
            var (name, better) in new (string, Func<int, bool>)[]
            {
                ("math.greatest", c => c > 0),
                ("math.least", c => c < 0),
            }
        )
        {
            string[] numbers = ["int", "uint", "double", "decimal"];
            foreach (var type in numbers)
            {
                Add($"{name}({type}) -> {type}", a => a[0]);
                Add($"{name}({type}, {type}) -> {type}", a => Best(a, better));
                Add($"{name}(list<{type}>) -> {type}", a => Best(a[0].AsList, better));
                foreach (var other in numbers.Where(n => n != type))
                    Add($"{name}({type}, {other}) -> any", a => Best(a, better));
            }
            Add($"{name}(list<any>) -> any", a => Best(a[0].AsList, better));
        }
        AddReal("ceil", Math.Ceiling);
        AddReal("floor", Math.Floor);
        AddReal("round", d => Math.Round(d, MidpointRounding.AwayFromZero));
        AddReal("trunc", Math.Truncate);
        foreach (var type in (string[])["int", "uint", "double"])
            Add($"math.sqrt({type}) -> double", a => Value.Double(Math.Sqrt(a[0].ToDouble())));
        Add("math.abs(double) -> double", a => Value.Double(Math.Abs(a[0].AsDouble)));
        Add("math.abs(int) -> int", a =>
            a[0].AsInt == long.MinValue ? Fail("return error for overflow") : Value.Int(Math.Abs(a[0].AsInt))
        );
        Add("math.abs(uint) -> uint", a => a[0]);
        Add("math.sign(double) -> double", a =>
            Value.Double(double.IsNaN(a[0].AsDouble) ? double.NaN : Math.Sign(a[0].AsDouble))
        );
        Add("math.sign(int) -> int", a => Value.Int(Math.Sign(a[0].AsInt)));
        Add("math.sign(uint) -> uint", a => Value.Uint(a[0].AsUint == 0 ? 0UL : 1));
        Add("math.isNaN(double) -> bool", a => Value.Bool(double.IsNaN(a[0].AsDouble)));
        Add("math.isInf(double) -> bool", a => Value.Bool(double.IsInfinity(a[0].AsDouble)));
        Add("math.isFinite(double) -> bool", a => Value.Bool(double.IsFinite(a[0].AsDouble)));
        AddBits("bitAnd", (a, b) => a & b);
        AddBits("bitOr", (a, b) => a | b);
        AddBits("bitXor", (a, b) => a ^ b);
        Add("math.bitNot(int) -> int", a => Value.Int(~a[0].AsInt));
        Add("math.bitNot(uint) -> uint", a => Value.Uint(~a[0].AsUint));
        AddShift("bitShiftLeft", (bits, by) => bits << by);
        AddShift("bitShiftRight", (bits, by) => bits >>> by);
    }

    static void AddReal(string name, Func<double, double> body) =>
        Add($"math.{name}(double) -> double", a => Value.Double(body(a[0].AsDouble)));

    static void AddBits(string name, Func<ulong, ulong, ulong> body)
    {
        Add($"math.{name}(int, int) -> int", a =>
            Value.Int(unchecked((long)body((ulong)a[0].AsInt, (ulong)a[1].AsInt)))
        );
        Add($"math.{name}(uint, uint) -> uint", a => Value.Uint(body(a[0].AsUint, a[1].AsUint)));
    }

    // Shifting right fills with zeros, whatever the sign; shifting by 64 and more leaves nothing.
    static void AddShift(string name, Func<ulong, int, ulong> body)
    {
        ulong Shift(ulong bits, long by) => by >= 64 ? 0 : body(bits, (int)by);
        Add($"math.{name}(int, int) -> int", a =>
            a[1].AsInt < 0
                ? Fail("a shift by less than nothing")
                : Value.Int(unchecked((long)Shift((ulong)a[0].AsInt, a[1].AsInt)))
        );
        Add($"math.{name}(uint, int) -> uint", a =>
            a[1].AsInt < 0 ? Fail("a shift by less than nothing") : Value.Uint(Shift(a[0].AsUint, a[1].AsInt))
        );
    }

    static Value Best(IReadOnlyList<Value> numbers, Func<int, bool> better)
    {
        if (numbers.Count == 0)
            return Fail("of an empty list there is no greatest or least");
        var best = numbers[0];
        foreach (var number in numbers)
        {
            if (!number.IsNumber)
                return Fail($"no such overload: {Article.Of(number.KindWord)} among numbers");
            if (Numbers.Compare(number, best) is { } order && better(order))
                best = number;
        }
        return best;
    }
}
