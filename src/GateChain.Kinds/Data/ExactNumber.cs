using System.Globalization;
using System.Numerics;

namespace GateChain.Kinds.Data;

/// <summary>
/// A number as its source wrote it: whole ones beyond 64 bits, and decimals of any length with all of their digits. It
/// is never made a binary number on its way. Immutable.
/// </summary>
/// <param name="Text">Digits with a point, a sign or an exponent, in the form that JSON and SQL share.</param>
sealed record ExactNumber(string Text)
{
    /// <summary>A number of a text: an int where it is one of 64 bits; null when the text is no number.</summary>
    public static object? Read(string text)
    {
        if (
            long.TryParse(text, NumberStyles.AllowLeadingSign, CultureInfo.InvariantCulture, out var whole)
            && text[0] != '+'
        )
        {
            return whole;
        }
        return IsNumber(text) ? new ExactNumber(text) : null;
    }

    static bool IsNumber(string text)
    {
        var at = text.Length > 0 && text[0] == '-' ? 1 : 0;
        var digits = Digits(ref at);
        if (at < text.Length && text[at] == '.')
        {
            at++;
            digits += Digits(ref at);
        }
        if (digits == 0)
            return false;
        if (at < text.Length && text[at] is 'e' or 'E')
        {
            at++;
            if (at < text.Length && text[at] is '+' or '-')
                at++;
            if (Digits(ref at) == 0)
                return false;
        }
        return at == text.Length;

        int Digits(ref int from)
        {
            var start = from;
            while (from < text.Length && char.IsAsciiDigit(text[from]))
                from++;
            return from - start;
        }
    }

    /// <summary>
    /// The number itself when it is a whole one, however it is written; null when it has a part behind the point.
    /// </summary>
    public BigInteger? Whole
    {
        get
        {
            if (!IsParsed)
                return null;
            var (digits, exponent) = Parts;
            if (exponent >= 0)
                return exponent > 400 ? null : digits * BigInteger.Pow(10, exponent);
            if (exponent < -400)
                return digits.IsZero ? BigInteger.Zero : null;
            var (quotient, rest) = BigInteger.DivRem(digits, BigInteger.Pow(10, -exponent));
            return rest.IsZero ? quotient : null;
        }
    }

    /// <summary>The nearest binary number; infinite when it is beyond the largest one.</summary>
    public double Double => double.Parse(Text, NumberStyles.Float, CultureInfo.InvariantCulture);

    /// <summary>The number as .NET's decimal, when it has all digits there.</summary>
    public decimal? Decimal =>
        SignificantDigits <= 28
        && Scale <= 28
        && decimal.TryParse(Text, NumberStyles.Float, CultureInfo.InvariantCulture, out var value)
            ? value
            : null;

    /// <summary>How many digits it has, without zeros before the first other one.</summary>
    public int SignificantDigits =>
        Text.AsSpan(0, Text.IndexOfAny(['e', 'E']) is var e && e < 0 ? Text.Length : e)
            .Trim("-0.")
            .ToString()
            .Count(char.IsAsciiDigit);

    /// <summary>
    /// How many digits stand behind the point, zeros at the end left out. Counted in the text: it may be very long.
    /// </summary>
    public int Scale
    {
        get
        {
            var mantissa = Mantissa(out var exponent);
            var point = mantissa.IndexOf('.');
            var fraction = point < 0 ? [] : mantissa[(point + 1)..].TrimEnd('0');
            if (fraction.Length > 0)
                return (int)Math.Clamp((long)fraction.Length - exponent, 0, int.MaxValue);
            var whole = (point < 0 ? mantissa : mantissa[..point]).TrimStart("-0");
            var zeros = whole.Length - whole.TrimEnd('0').Length;
            return whole.Length == 0 ? 0 : (int)Math.Clamp(-(long)exponent - zeros, 0, int.MaxValue);
        }
    }

    /// <summary>Whether a number has no more digits than a decimal of some precision and scale holds.</summary>
    public static bool Fits(object number, int precision, int scale)
    {
        var exact = number as ExactNumber ?? (number is long n ? new(n.ToString(CultureInfo.InvariantCulture)) : null);
        if (exact is not { IsParsed: true } || exact.Scale > scale)
            return false;
        var (digits, exponent) = exact.Parts;
        return exponent < precision
            && BigInteger.Abs(digits) < BigInteger.Pow(10, Math.Max(0, precision - scale - exponent));
    }

    // No type that asks has so many digits; to make a number of a very long text would take very long.
    const int MostParsed = 2_000;

    bool IsParsed => Text.Length <= MostParsed;

    (BigInteger Digits, int Exponent) Parts
    {
        get
        {
            var mantissa = Mantissa(out var exponent);
            var point = mantissa.IndexOf('.');
            var digits = point < 0 ? mantissa : string.Concat(mantissa[..point], mantissa[(point + 1)..]);
            return (
                BigInteger.Parse(digits, NumberStyles.AllowLeadingSign, CultureInfo.InvariantCulture),
                exponent - (point < 0 ? 0 : mantissa.Length - point - 1)
            );
        }
    }

    ReadOnlySpan<char> Mantissa(out int exponent)
    {
        var text = Text.AsSpan();
        var e = text.IndexOfAny('e', 'E');
        exponent =
            e < 0 ? 0
            : int.TryParse(text[(e + 1)..], NumberStyles.AllowLeadingSign, CultureInfo.InvariantCulture, out var n) ? n
            : int.MaxValue / 2;
        return e < 0 ? text : text[..e];
    }

    public override string ToString() => Text;
}

/// <summary>Lists and maps, as JSON.</summary>
/// <param name="Text">The JSON.</param>
/// <param name="Literal">How the database it comes from writes it; null for none.</param>
sealed record JsonText(string Text, string? Literal = null)
{
    public override string ToString() => Text;
}
