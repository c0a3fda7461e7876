using System.Globalization;
using System.Text;
using GateChain.Core.Values;

namespace GateChain.Core.Expressions;

/// <summary>
/// <c>"%s has %d rows".format([…])</c>: the clauses <c>%s %d %f %e %b %o %x %X</c>, a precision as in <c>%.3f</c>, and
/// <c>%%</c>.
/// </summary>
/// <remarks>Source: CEL strings extension, <c>format</c>.</remarks>
static class TextFormat
{
    const int MaxPrecision = 1000;

    public static Value Apply(string format, IReadOnlyList<Value> arguments)
    {
        var text = new StringBuilder();
        var next = 0;
        for (var at = 0; at < format.Length; at++)
        {
            if (format[at] != '%')
            {
                text.Append(format[at]);
                continue;
            }
            if (++at == format.Length)
                return Fail("the format ends in a single %");
            if (format[at] == '%')
            {
                text.Append('%');
                continue;
            }
            int? precision = null;
            if (format[at] == '.')
            {
                var digits = ++at;
                while (at < format.Length && char.IsAsciiDigit(format[at]))
                    at++;
                if (
                    at == format.Length
                    || !int.TryParse(format.AsSpan(digits, at - digits), CultureInfo.InvariantCulture, out var number)
                    || number > MaxPrecision
                )
                {
                    return Fail($"after “%.” stands a precision of at most {MaxPrecision} and a clause such as f");
                }

                precision = number;
            }
            if (next == arguments.Count)
                return Fail($"the format wants more than the {arguments.Count} values it is given");
            var (written, problem) = Write(format[at], precision, arguments[next++]);
            if (problem is not null)
                return Fail(problem);
            text.Append(written);
            if (text.Length > Functions.MaxSize)
                return Fail($"the text would have more than {Functions.MaxSize:N0} characters");
        }
        return Value.String(text.ToString());
    }

    static Value Fail(string message) => Value.Error(new(message));

    static (string?, string?) Write(char clause, int? precision, Value value) =>
        clause switch
        {
            's' => Text(value) is { } text ? (text, null) : Unfit("%s", value),
            'd' => value.Kind is ValueKind.Int or ValueKind.Uint or ValueKind.Double or ValueKind.Decimal
                ? (Number(value), null)
                : Unfit("%d", value),
            'f' when value.Kind == ValueKind.Decimal => value.AsDecimal.Round(
                Math.Min(precision ?? 6, Decimal38.MostDigits)
            )
                is { } rounded
                ? (rounded.ToString(), null)
                : Unfit("%f", value),
            'f' => value.IsNumber ? (Fixed(value.ToDouble(), precision ?? 6), null) : Unfit("%f", value),
            'e' => value.IsNumber ? (Scientific(value.ToDouble(), precision ?? 6), null) : Unfit("%e", value),
            'b' => value.Kind == ValueKind.Bool ? (value.AsBool ? "1" : "0", null) : Whole(value, 2, "%b"),
            'o' => Whole(value, 8, "%o"),
            'x' or 'X' => Hex(value) is { } hex
                ? (clause == 'x' ? hex : hex.ToUpperInvariant(), null)
                : Unfit("%" + clause, value),
            _ => (null, $"there is no clause “%{clause}”; there are %s %d %f %e %b %o %x %X and %%"),
        };

    static (string?, string?) Unfit(string clause, Value value) =>
        (null, $"“{clause}” can't write {Article.Of(value.KindWord)}");

    static (string?, string?) Whole(Value value, int radix, string clause) =>
        value.Kind switch
        {
            ValueKind.Int => ((value.AsInt < 0 ? "-" : "") + Digits(Magnitude(value.AsInt), (uint)radix), null),
            ValueKind.Uint => (Digits(value.AsUint, (uint)radix), null),
            _ => Unfit(clause, value),
        };

    static ulong Magnitude(long number) => number < 0 ? unchecked(0UL - (ulong)number) : (ulong)number;

    static string Digits(ulong number, uint radix)
    {
        var digits = new StringBuilder();
        do
        {
            digits.Insert(0, "0123456789abcdef"[(int)(number % radix)]);
            number /= radix;
        } while (number > 0);
        return digits.ToString();
    }

    static string? Hex(Value value) =>
        value.Kind switch
        {
            ValueKind.String => Convert.ToHexStringLower(Encoding.UTF8.GetBytes(value.AsString)),
            ValueKind.Bytes => Convert.ToHexStringLower(value.AsBytes),
            _ => Whole(value, 16, "").Item1,
        };

    static string Number(Value value) =>
        value.Kind == ValueKind.Double && !double.IsFinite(value.AsDouble)
            ? Special(value.AsDouble)
            : ValueText.ToPlainString(value);

    static string Special(double d) =>
        double.IsNaN(d) ? "NaN"
        : d > 0 ? "Infinity"
        : "-Infinity";

    static string? Text(Value value)
    {
        switch (value.Kind)
        {
            case ValueKind.Double:
                return Number(value);
            case ValueKind.Bytes:
                return Encoding.UTF8.GetString(value.AsBytes);
            case ValueKind.List:
                var items = value.AsList.Select(Text).ToList();
                return items.Contains(null) ? null : $"[{string.Join(", ", items)}]";
            case ValueKind.Map:
                var entries = value.AsMap.Entries.Select(e => (Key: Text(e.Key), Value: Text(e.Value))).ToList();
                return entries.Any(e => e.Key is null || e.Value is null)
                    ? null
                    : $"{{"
                        + string.Join(
                            ", ",
                            entries.OrderBy(e => e.Key, StringComparer.Ordinal).Select(e => $"{e.Key}: {e.Value}")
                        )
                        + $"}}";
            case ValueKind.Optional or ValueKind.Error:
                return null;
            default:
                return ValueText.ToPlainString(value);
        }
    }

    // A double has an exact decimal expansion; it is rounded half to even, as the format of IEEE 754 asks.
    static string Fixed(double d, int precision)
    {
        if (!double.IsFinite(d))
            return Special(d);
        var exact = Math.Abs(d).ToString("F1100", CultureInfo.InvariantCulture);
        var point = exact.IndexOf('.', StringComparison.Ordinal);
        var rounded = Round(exact.Remove(point, 1), point + precision, out var carried);
        var whole = point + (carried ? 1 : 0);
        return (d < 0 ? "-" : "") + rounded[..whole] + (precision > 0 ? "." + rounded[whole..] : "");
    }

    static string Scientific(double d, int precision)
    {
        if (!double.IsFinite(d))
            return Special(d);
        var exact = Math.Abs(d).ToString("E1100", CultureInfo.InvariantCulture);
        var split = exact.IndexOf('E', StringComparison.Ordinal);
        var exponent = int.Parse(exact.AsSpan(split + 1), CultureInfo.InvariantCulture);
        var digits = Round(exact[..split].Remove(1, 1), precision + 1, out var carried);
        if (carried)
            (digits, exponent) = (digits[..^1], exponent + 1);
        var sign = exponent < 0 ? "-" : "+";
        return $"{(d < 0 ? "-" : "")}{digits[0]}{(precision > 0 ? "." + digits[1..] : "")}e{sign}"
            + $"{Math.Abs(exponent):00}";
    }

    // The first `keep` of a row of digits, rounded; with a carry out of the first digit there is one more.
    static string Round(string digits, int keep, out bool carried)
    {
        carried = false;
        var kept = digits[..keep].ToCharArray();
        var rest = digits.AsSpan(keep).TrimEnd('0');
        var up =
            rest.Length > 0
            && (rest[0] > '5' || (rest[0] == '5' && (rest.Length > 1 || (keep > 0 && (kept[^1] - '0') % 2 == 1))));
        for (var i = keep - 1; up && i >= 0; i--)
        {
            up = kept[i] == '9';
            kept[i] = up ? '0' : (char)(kept[i] + 1);
        }
        carried = up;
        return (up ? "1" : "") + new string(kept);
    }
}
