using System.Globalization;
using System.Text;

namespace GateChain.Core.Values;

/// <summary>Values as text: as people read them, and as CEL's <c>string()</c> writes them.</summary>
public static class ValueText
{
    /// <summary>
    /// The value as an expression would write it, cut to about <paramref name="limit"/> characters.
    /// </summary>
    /// <param name="value">Any value.</param>
    /// <param name="limit">The most characters to give; the default is 400.</param>
    public static string Show(Value value, int limit = 400)
    {
        var text = new StringBuilder();
        Write(text, value, limit);
        if (text.Length > limit)
        {
            text.Length = limit - 1;
            text.Append('…');
        }
        return text.ToString();
    }

    static void Write(StringBuilder text, Value value, int limit)
    {
        if (text.Length > limit)
            return;

        switch (value.Kind)
        {
            case ValueKind.Null:
                text.Append("null");
                break;
            case ValueKind.Uint:
                text.Append(value.AsUint).Append('u');
                break;
            case ValueKind.String:
                Quote(text, value.AsString, limit);
                break;
            case ValueKind.Bytes:
                text.Append("b\"")
                    .Append(Convert.ToHexString(value.AsBytes, 0, Math.Min(value.AsBytes.Length, 64)))
                    .Append('"');
                break;
            case ValueKind.List:
                text.Append('[');
                var index = 0;
                foreach (var item in value.AsList)
                {
                    if (index++ > 0)
                        text.Append(", ");
                    Write(text, item, limit);
                    if (text.Length > limit)
                        return;
                }
                text.Append(']');
                break;
            case ValueKind.Map:
                text.Append('{');
                var first = true;
                foreach (var (key, item) in value.AsMap.Entries)
                {
                    if (!first)
                        text.Append(", ");
                    first = false;
                    Write(text, key, limit);
                    text.Append(": ");
                    Write(text, item, limit);
                    if (text.Length > limit)
                        return;
                }
                text.Append('}');
                break;
            case ValueKind.Optional:
                text.Append(value.HasValue ? "optional.of(" : "optional.none(");
                if (value.HasValue)
                    Write(text, value.Inner, limit);
                text.Append(')');
                break;
            case ValueKind.Error:
                text.Append("error: ").Append(value.AsError.Message);
                break;
            default:
                text.Append(ToPlainString(value));
                break;
        }
    }

    static void Quote(StringBuilder text, string s, int limit)
    {
        text.Append('"');
        foreach (var c in s.Length > limit ? s.AsSpan(0, limit) : s)
        {
            _ = c switch
            {
                '"' => text.Append("\\\""),
                '\\' => text.Append("\\\\"),
                '\n' => text.Append("\\n"),
                '\r' => text.Append("\\r"),
                '\t' => text.Append("\\t"),
                _ => text.Append(c),
            };
        }
        text.Append('"');
    }

    /// <summary>
    /// What CEL's <c>string(value)</c> gives for scalars; for lists and maps the same as <see cref="Show"/>.
    /// </summary>
    public static string ToPlainString(Value value) =>
        value.Kind switch
        {
            ValueKind.Null => "null",
            ValueKind.Bool => value.AsBool ? "true" : "false",
            ValueKind.Int => value.AsInt.ToString(CultureInfo.InvariantCulture),
            ValueKind.Uint => value.AsUint.ToString(CultureInfo.InvariantCulture),
            ValueKind.Double => DoubleText(value.AsDouble),
            ValueKind.Decimal => value.AsDecimal.ToString(),
            ValueKind.String or ValueKind.Type => value.AsString,
            ValueKind.Timestamp => TimeText.Timestamp(value),
            ValueKind.Duration => TimeText.Duration(value),
            _ => Show(value, int.MaxValue / 2),
        };

    static string DoubleText(double d)
    {
        if (double.IsNaN(d))
            return "NaN";
        if (double.IsInfinity(d))
            return d > 0 ? "+Inf" : "-Inf";
        var text = d.ToString("R", CultureInfo.InvariantCulture);
        return text.Replace("E+", "e+", StringComparison.Ordinal).Replace("E-", "e-", StringComparison.Ordinal);
    }
}
