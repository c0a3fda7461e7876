namespace GateChain.Core.Values;

/// <summary>Comparison across int, uint, double and decimal by the number they denote.</summary>
static class Numbers
{
    /// <summary>Less than, equal to, greater than zero; null when one side is NaN.</summary>
    public static int? Compare(Value a, Value b)
    {
        if (a.Kind == ValueKind.Decimal)
            return b.Kind == ValueKind.Double ? a.AsDecimal.CompareTo(b.AsDouble) : a.AsDecimal.CompareTo(Exact(b));
        if (b.Kind == ValueKind.Decimal)
            return -Compare(b, a);
        if (a.Kind == ValueKind.Double || b.Kind == ValueKind.Double)
        {
            if (a.Kind == b.Kind)
                return Doubles(a.AsDouble, b.AsDouble);

            return a.Kind == ValueKind.Double ? -WholeToDouble(b, a.AsDouble) : WholeToDouble(a, b.AsDouble);
        }
        if (a.Kind == b.Kind)
            return a.Kind == ValueKind.Int ? a.AsInt.CompareTo(b.AsInt) : a.AsUint.CompareTo(b.AsUint);

        return a.Kind == ValueKind.Int ? IntToUint(a.AsInt, b.AsUint) : -IntToUint(b.AsInt, a.AsUint);
    }

    /// <summary>An int, a uint or a decimal as a decimal.</summary>
    public static Decimal38 Exact(Value number) =>
        number.Kind switch
        {
            ValueKind.Int => Decimal38.Of(number.AsInt),
            ValueKind.Uint => Decimal38.Of(number.AsUint),
            _ => number.AsDecimal,
        };

    static int IntToUint(long a, ulong b) => a < 0 ? -1 : ((ulong)a).CompareTo(b);

    static int? Doubles(double a, double b) => double.IsNaN(a) || double.IsNaN(b) ? null : a.CompareTo(b);

    static int? WholeToDouble(Value whole, double d)
    {
        if (double.IsNaN(d))
            return null;

        // As CEL asks: beyond 53 bits a whole number is compared as the double next to it.
        var (least, most) =
            whole.Kind == ValueKind.Int
                ? (-9223372036854775808.0, 9223372036854775808.0)
                : (0.0, 18446744073709551616.0);
        return d < least ? 1
            : d > most ? -1
            : whole.ToDouble().CompareTo(d);
    }
}
