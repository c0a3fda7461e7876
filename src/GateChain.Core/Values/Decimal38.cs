using System.Globalization;
using System.Numerics;

namespace GateChain.Core.Values;

/// <summary>
/// An exact decimal of up to 38 digits, with the digits after the decimal point that it was given: 1.10 is written
/// 1.10, and equals 1.1. What an operation would have to round is an error, unless it is told how many digits to keep;
/// then halves go to the even digit, as IEEE 754 and the banks have it. Immutable, thread-safe.
/// </summary>
public sealed class Decimal38 : IEquatable<Decimal38>
{
    /// <summary>The most digits, and the most of them behind the point.</summary>
    public const int MostDigits = 38;

    static readonly BigInteger Limit = BigInteger.Pow(10, MostDigits);

    Decimal38(BigInteger digits, int scale) => (Digits, Scale) = (digits, scale);

    /// <summary>The digits without the point, with the sign.</summary>
    public BigInteger Digits { get; }

    /// <summary>How many of them stand behind the point, 0 to 38.</summary>
    public int Scale { get; }

    /// <summary>
    /// The number of these digits; null when it has too many of them, though zeros at its end are left out.
    /// </summary>
    public static Decimal38? Of(BigInteger digits, int scale)
    {
        if (scale < 0)
        {
            if (scale < -MostDigits && !digits.IsZero)
                return null;
            (digits, scale) = (digits.IsZero ? digits : digits * BigInteger.Pow(10, -scale), 0);
        }
        while (scale > 0 && (scale > MostDigits || BigInteger.Abs(digits) >= Limit))
        {
            var (shorter, rest) = BigInteger.DivRem(digits, 10);
            if (!rest.IsZero)
                return null;
            (digits, scale) = (shorter, scale - 1);
        }
        return BigInteger.Abs(digits) >= Limit ? null : new(digits, scale);
    }

    public static Decimal38 Of(long number) => new(number, 0);

    public static Decimal38 Of(ulong number) => new(number, 0);

    /// <summary>Reads <c>-12.30</c> or <c>1.5e3</c>; null when it is no number or has too many digits.</summary>
    public static Decimal38? Parse(string text)
    {
        // No number of 38 digits needs more characters, zeros aside.
        if (text.Length > 200)
            return null;
        var e = text.AsSpan().IndexOfAny('e', 'E');
        var mantissa = e < 0 ? text : text[..e];
        var exponent = 0;
        if (
            e >= 0
            && (
                !int.TryParse(
                    text.AsSpan(e + 1),
                    NumberStyles.AllowLeadingSign,
                    CultureInfo.InvariantCulture,
                    out exponent
                )
                || Math.Abs(exponent) > 400
            )
        )
        {
            return null;
        }
        var point = mantissa.IndexOf('.', StringComparison.Ordinal);
        var plain = point < 0 ? mantissa : mantissa.Remove(point, 1);
        if (
            plain.Length == 0
            || !char.IsAsciiDigit(mantissa[^1])
            || !BigInteger.TryParse(plain, NumberStyles.AllowLeadingSign, CultureInfo.InvariantCulture, out var digits)
        )
        {
            return null;
        }
        return Of(digits, (point < 0 ? 0 : mantissa.Length - point - 1) - exponent);
    }

    public static Decimal38? Add(Decimal38 a, Decimal38 b)
    {
        var scale = Math.Max(a.Scale, b.Scale);
        return Of(a.At(scale) + b.At(scale), scale);
    }

    public static Decimal38? Multiply(Decimal38 a, Decimal38 b) => Of(a.Digits * b.Digits, a.Scale + b.Scale);

    public Decimal38 Negate() => new(-Digits, Scale);

    /// <summary>The quotient with so many digits after the decimal point; null when it has too many.</summary>
    /// <exception cref="DivideByZeroException">The divisor is zero.</exception>
    public static Decimal38? Divide(Decimal38 a, Decimal38 b, int scale) =>
        // a/10^p : b/10^q, times 10^scale
        Of(HalfEven(a.Digits * BigInteger.Pow(10, scale + b.Scale), b.Digits * BigInteger.Pow(10, a.Scale)), scale);

    /// <summary>With so many digits after the decimal point; null when it has too many.</summary>
    public Decimal38? Round(int scale) =>
        Of(HalfEven(Digits * BigInteger.Pow(10, scale), BigInteger.Pow(10, Scale)), scale);

    /// <summary>The whole number next to it towards zero.</summary>
    public BigInteger Whole => BigInteger.Divide(Digits, BigInteger.Pow(10, Scale));

    /// <summary>Whether it has nothing behind the point.</summary>
    public bool IsWhole => (Digits % BigInteger.Pow(10, Scale)).IsZero;

    static BigInteger HalfEven(BigInteger dividend, BigInteger divisor)
    {
        var (quotient, rest) = BigInteger.DivRem(dividend, divisor);
        var twice = BigInteger.Abs(rest) * 2;
        var order = twice.CompareTo(BigInteger.Abs(divisor));
        return order < 0 || (order == 0 && quotient.IsEven) ? quotient : quotient + dividend.Sign * divisor.Sign;
    }

    BigInteger At(int scale) => Digits * BigInteger.Pow(10, scale - Scale);

    /// <summary>Compares the numbers.</summary>
    public int CompareTo(Decimal38 other)
    {
        var scale = Math.Max(Scale, other.Scale);
        return At(scale).CompareTo(other.At(scale));
    }

    /// <summary>Compares with a binary number by what it denotes to its last bit; null for none.</summary>
    public int? CompareTo(double other)
    {
        if (double.IsNaN(other))
            return null;
        if (double.IsInfinity(other))
            return other > 0 ? -1 : 1;
        var bits = BitConverter.DoubleToInt64Bits(other);
        var exponent = (int)((bits >> 52) & 0x7FF);
        BigInteger mantissa = (bits & 0xFFFFFFFFFFFFF) | (exponent == 0 ? 0 : 1L << 52);
        exponent = Math.Max(exponent, 1) - 1075;
        if (bits < 0)
            mantissa = -mantissa;
        var (left, right) = (Digits, mantissa * BigInteger.Pow(10, Scale));
        return exponent < 0 ? (left << -exponent).CompareTo(right) : left.CompareTo(right << exponent);
    }

    public double ToDouble() => double.Parse(ToString(), CultureInfo.InvariantCulture);

    public bool Equals(Decimal38? other) => other is not null && CompareTo(other) == 0;

    public override bool Equals(object? obj) => obj is Decimal38 other && Equals(other);

    public override int GetHashCode() => ToDouble().GetHashCode();

    /// <summary>Its digits, with the point where it is.</summary>
    public override string ToString()
    {
        var digits = BigInteger.Abs(Digits).ToString(CultureInfo.InvariantCulture).PadLeft(Scale + 1, '0');
        return (Digits.Sign < 0 ? "-" : "") + (Scale == 0 ? digits : $"{digits[..^Scale]}.{digits[^Scale..]}");
    }
}
