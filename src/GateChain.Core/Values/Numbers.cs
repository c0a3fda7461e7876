namespace GateChain.Core.Values;

/// <summary>Exact comparison across int, uint and double, as CEL asks for it.</summary>
static class Numbers
{
    /// <summary>Less than, equal to, greater than zero; null when one side is NaN.</summary>
    public static int? Compare(Value a, Value b)
    {
        if (a.Kind == ValueKind.Double || b.Kind == ValueKind.Double)
        {
            if (a.Kind == b.Kind)
            {
                return Doubles(a.AsDouble, b.AsDouble);
            }
            return a.Kind == ValueKind.Double ? -WholeToDouble(b, a.AsDouble) : WholeToDouble(a, b.AsDouble);
        }
        if (a.Kind == b.Kind)
        {
            return a.Kind == ValueKind.Int ? a.AsInt.CompareTo(b.AsInt) : a.AsUint.CompareTo(b.AsUint);
        }
        return a.Kind == ValueKind.Int ? IntToUint(a.AsInt, b.AsUint) : -IntToUint(b.AsInt, a.AsUint);
    }

    static int IntToUint(long a, ulong b) => a < 0 ? -1 : ((ulong)a).CompareTo(b);

    static int? Doubles(double a, double b) => double.IsNaN(a) || double.IsNaN(b) ? null : a.CompareTo(b);

    static int? WholeToDouble(Value whole, double d)
    {
        if (double.IsNaN(d))
        {
            return null;
        }
        if (d >= 18446744073709551616.0)
        {
            return -1;
        }
        if (d < -9223372036854775808.0)
        {
            return 1;
        }
        var floor = Math.Floor(d);
        int byFloor;
        if (floor < 0)
        {
            byFloor = whole.Kind == ValueKind.Uint ? 1 : whole.AsInt.CompareTo((long)floor);
        }
        else
        {
            byFloor = whole.Kind == ValueKind.Uint ? whole.AsUint.CompareTo((ulong)floor) : IntToUint(whole.AsInt, (ulong)floor);
        }
        return byFloor != 0 ? byFloor : floor < d ? -1 : 0;
    }
}
