using GateChain.Core.Values;

namespace GateChain.Core.Expressions;

public static partial class Functions
{
    static void AddOperators()
    {
        foreach (
            var (sign, onInt, onUint, onDouble) in new (
                string,
                Func<long, long, long>,
                Func<ulong, ulong, ulong>,
                Func<double, double, double>
            )[]
            {
                ("_+_", (a, b) => checked(a + b), (a, b) => checked(a + b), (a, b) => a + b),
                ("_-_", (a, b) => checked(a - b), (a, b) => checked(a - b), (a, b) => a - b),
                ("_*_", (a, b) => checked(a * b), (a, b) => checked(a * b), (a, b) => a * b),
            }
        )
        {
            Add($"{sign}(int, int) -> int", a => Checked(() => Value.Int(onInt(a[0].AsInt, a[1].AsInt))));
            Add($"{sign}(uint, uint) -> uint", a => Checked(() => Value.Uint(onUint(a[0].AsUint, a[1].AsUint))));
            Add($"{sign}(double, double) -> double", a => Value.Double(onDouble(a[0].AsDouble, a[1].AsDouble)));
        }
        Add("_/_(int, int) -> int", a => a[1].AsInt == 0 ? Fail("division by zero")
            : a[0].AsInt == long.MinValue && a[1].AsInt == -1 ? Fail("return error for overflow")
            : Value.Int(a[0].AsInt / a[1].AsInt));
        Add("_/_(uint, uint) -> uint", a =>
            a[1].AsUint == 0 ? Fail("division by zero") : Value.Uint(a[0].AsUint / a[1].AsUint)
        );
        Add("_/_(double, double) -> double", a => Value.Double(a[0].AsDouble / a[1].AsDouble));
        Add("_%_(int, int) -> int", a => a[1].AsInt == 0 ? Fail("modulus by zero")
            : a[1].AsInt == -1 ? Value.Int(0)
            : Value.Int(a[0].AsInt % a[1].AsInt));
        Add("_%_(uint, uint) -> uint", a =>
            a[1].AsUint == 0 ? Fail("modulus by zero") : Value.Uint(a[0].AsUint % a[1].AsUint)
        );
        Add("-_(int) -> int", a =>
            a[0].AsInt == long.MinValue ? Fail("return error for overflow") : Value.Int(-a[0].AsInt)
        );
        Add("-_(double) -> double", a => Value.Double(-a[0].AsDouble));
        Add("!_(bool) -> bool", a => Value.Bool(!a[0].AsBool));
        Add("_+_(string, string) -> string", a =>
            a[0].AsString.Length + (long)a[1].AsString.Length > MaxSize
                ? TooBig()
                : Value.String(a[0].AsString + a[1].AsString)
        );
        Add("_+_(bytes, bytes) -> bytes", a =>
            a[0].AsBytes.Length + (long)a[1].AsBytes.Length > MaxSize
                ? TooBig()
                : Value.Bytes([.. a[0].AsBytes, .. a[1].AsBytes])
        );
        Add("_+_(list<A>, list<A>) -> list<A>", a =>
            a[0].AsList.Count + (long)a[1].AsList.Count > MaxItems
                ? TooBig()
                : Value.List([.. a[0].AsList, .. a[1].AsList])
        );
        Add("_+_(timestamp, duration) -> timestamp", a => Moment(a[0], a[1], 1));
        Add("_+_(duration, timestamp) -> timestamp", a => Moment(a[1], a[0], 1));
        Add("_+_(duration, duration) -> duration", a =>
            Length((Int128)a[0].Seconds + a[1].Seconds, (long)a[0].Nanos + a[1].Nanos)
        );
        Add("_-_(timestamp, duration) -> timestamp", a => Moment(a[0], a[1], -1));
        Add("_-_(timestamp, timestamp) -> duration", a =>
            Length((Int128)a[0].Seconds - a[1].Seconds, (long)a[0].Nanos - a[1].Nanos)
        );
        Add("_-_(duration, duration) -> duration", a =>
            Length((Int128)a[0].Seconds - a[1].Seconds, (long)a[0].Nanos - a[1].Nanos)
        );

        Add("_==_(A, A) -> bool", a => Value.Bool(a[0].Equals(a[1])));
        Add("_!=_(A, A) -> bool", a => Value.Bool(!a[0].Equals(a[1])));
        AddOrder("_<_", c => c < 0);
        AddOrder("_<=_", c => c <= 0);
        AddOrder("_>_", c => c > 0);
        AddOrder("_>=_", c => c >= 0);

        Add("@in(A, list<A>) -> bool", a => Value.Bool(Contains(a[1].AsList, a[0])));
        Add("@in(A, map<A, B>) -> bool", a => Value.Bool(a[1].AsMap.TryGet(a[0], out _)));
        Add("_[_](list<A>, int) -> A", a => At(a[0].AsList, a[1]));
        Add("_[_](list<A>, any) -> A", a => At(a[0].AsList, a[1]));
        Add("_[_](map<A, B>, A) -> B", a =>
            a[0].AsMap.TryGet(a[1], out var found) ? found : Value.Error(a[0].AsMap.Missing(a[1]))
        );
        Add("_[?_](list<A>, int) -> optional<A>", a =>
            At(a[0].AsList, a[1]) is { IsError: false } found ? Value.Some(found) : Value.None
        );
        Add("_[?_](map<A, B>, A) -> optional<B>", a =>
            a[0].AsMap.TryGet(a[1], out var found) ? Value.Some(found) : Value.None
        );
        Add("_[?_](optional<any>, any) -> optional<any>", a =>
            !a[0].HasValue ? Value.None : Find("_[?_]")!.Invoke([a[0].Inner, a[1]], member: false)
        );
        Add("_[_](optional<any>, any) -> optional<any>", a =>
            !a[0].HasValue ? Value.None : Find("_[?_]")!.Invoke([a[0].Inner, a[1]], member: false)
        );
    }

    static void AddOrder(string sign, Func<int, bool> holds)
    {
        foreach (var type in (string[])["bool", "int", "uint", "double", "string", "bytes", "timestamp", "duration"])
            Add($"{sign}({type}, {type}) -> bool", a => Ordered(a[0], a[1], holds));

        foreach (
            var (left, right) in (ReadOnlySpan<(string, string)>)
                [
                    ("int", "uint"),
                    ("uint", "int"),
                    ("int", "double"),
                    ("double", "int"),
                    ("uint", "double"),
                    ("double", "uint"),
                ]
        )
        {
            Add($"{sign}({left}, {right}) -> bool", a => Ordered(a[0], a[1], holds));
        }
    }

    static Value Ordered(Value a, Value b, Func<int, bool> holds) =>
        Value.Bool(Order(a, b) is { } order && holds(order));

    // Null where one side is not a number that has a place among the others.
    static int? Order(Value a, Value b) =>
        a.Kind switch
        {
            ValueKind.Bool => a.AsBool.CompareTo(b.AsBool),
            ValueKind.String => CompareTexts(a.AsString, b.AsString),
            ValueKind.Bytes => a.AsBytes.AsSpan().SequenceCompareTo(b.AsBytes),
            ValueKind.Timestamp or ValueKind.Duration => a.Seconds != b.Seconds
                ? a.Seconds.CompareTo(b.Seconds)
                : a.Nanos.CompareTo(b.Nanos),
            _ => Numbers.Compare(a, b),
        };

    // By code points, not UTF-16 units: surrogates sort behind everything else.
    static int CompareTexts(string a, string b)
    {
        for (var i = 0; i < a.Length && i < b.Length; i++)
        {
            if (a[i] != b[i])
            {
                var (x, y) = (char.IsSurrogate(a[i]), char.IsSurrogate(b[i]));
                return x == y ? a[i].CompareTo(b[i])
                    : x ? 1
                    : -1;
            }
        }
        return a.Length.CompareTo(b.Length);
    }

    static bool Contains(IReadOnlyList<Value> list, Value wanted)
    {
        for (var i = 0; i < list.Count; i++)
        {
            if (list[i].Equals(wanted))
                return true;
        }
        return false;
    }

    static Value At(IReadOnlyList<Value> list, Value index)
    {
        if (!index.IsNumber || Numbers.Compare(index, Value.Double(Math.Floor(index.ToDouble()))) != 0)
            return Fail($"a list's index is a whole number, not {index}");

        var i = index.ToDouble();
        return i < 0 || i >= list.Count ? Fail($"index {index} is outside of a list of {list.Count}") : list[(int)i];
    }

    static Value Checked(Func<Value> body)
    {
        try
        {
            return body();
        }
        catch (OverflowException)
        {
            return Fail("return error for overflow");
        }
    }

    static Value Moment(Value at, Value by, int sign)
    {
        var nanos = at.Nanos + sign * by.Nanos;
        var seconds = (Int128)at.Seconds + sign * (Int128)by.Seconds;
        if (nanos < 0)
        {
            nanos += 1_000_000_000;
            seconds--;
        }
        if (nanos >= 1_000_000_000)
        {
            nanos -= 1_000_000_000;
            seconds++;
        }
        return seconds < TimeText.MinSeconds || seconds > TimeText.MaxSeconds
            ? Fail("the timestamp is out of range")
            : Value.Timestamp((long)seconds, nanos);
    }

    static Value Length(Int128 seconds, long nanos)
    {
        var total = seconds * 1_000_000_000 + nanos;
        var whole = total / 1_000_000_000;
        return total < long.MinValue || total > long.MaxValue
            ? Fail("the duration is out of range: it is longer than 292 years")
            : Value.Duration((long)whole, (int)(total % 1_000_000_000));
    }
}
