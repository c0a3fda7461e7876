using System.Globalization;
using System.Text.Json;
using GateChain.Core.Values;
using GateChain.Kinds.Data;
using GateChain.Kinds.Databases;

namespace GateChain.Kinds.Load;

/// <summary>
/// Reads values as the type that a column has. Exact, or null: nothing is rounded, cut or replaced by the nearest value
/// there is.
/// </summary>
static class ColumnConversion
{
    /// <summary>The value; null when it is none of the type.</summary>
    /// <param name="value">What the source has; not nothing.</param>
    /// <param name="type">The type.</param>
    /// <param name="rule">What else is said of the column.</param>
    /// <param name="zone">Where its times are told when they bear no zone; null for UTC.</param>
    public static object? Convert(object value, ColumnType type, LoadColumn rule, TimeZoneInfo? zone) =>
        type switch
        {
            ColumnType.Int => Int(value),
            ColumnType.Double => Double(value),
            ColumnType.Decimal => Decimal(value, rule.Scale),
            ColumnType.Bool => Bool(value),
            ColumnType.Timestamp => Timestamp(value, rule.Format, zone),
            ColumnType.Date => Date(value, rule.Format),
            ColumnType.Time => Time(value, rule.Format),
            ColumnType.Bytes => Bytes(value),
            ColumnType.Uuid => value is Guid ? value
            : value is string text && Guid.TryParseExact(text, "D", out var id) ? id
            : null,
            ColumnType.Json => Json(value),
            _ => Cells.Text(value),
        };

    static object? Int(object value) =>
        value switch
        {
            string text => long.TryParse(text, NumberStyles.AllowLeadingSign, CultureInfo.InvariantCulture, out var n)
                ? n
                : null,
            long => value,
            double d => double.IsInteger(d) && d is >= -9223372036854775808.0 and < 9223372036854775808.0
                ? (long)d
                : null,
            ExactNumber n => n.Whole is { } whole && whole >= long.MinValue && whole <= long.MaxValue
                ? (long)whole
                : null,
            bool b => b ? 1L : 0L,
            _ => null,
        };

    static object? Double(object value) =>
        value switch
        {
            string text => double.TryParse(
                text,
                NumberStyles.AllowLeadingSign | NumberStyles.AllowDecimalPoint | NumberStyles.AllowExponent,
                CultureInfo.InvariantCulture,
                out var d
            )
                ? d
                : null,
            double => value,
            long n => (double)n,
            ExactNumber n => double.IsFinite(n.Double) ? n.Double : null,
            _ => null,
        };

    // A binary number is the decimal that it is written as.
    static object? Decimal(object value, int? scale) =>
        value switch
        {
            string text => ExactNumber.Read(text) is { } number ? Fits(number, scale) : null,
            long or ExactNumber => Fits(value, scale),
            double d when double.IsFinite(d) => Fits(ExactNumber.Read(Cells.Double(d))!, scale),
            _ => null,
        };

    static object? Fits(object number, int? scale)
    {
        if (number is not ExactNumber exact)
            return number;
        if (Decimal38.Parse(exact.Text) is not { } parsed || (scale is not null && exact.Scale > scale))
            return null;
        // An exponent is a way of writing it: a table without decimals of its own takes digits.
        return exact.Text.AsSpan().ContainsAny('e', 'E') ? ExactNumber.Read(parsed.ToString()) : exact;
    }

    static object? Bool(object value) =>
        value switch
        {
            bool => value,
            1L => true,
            0L => false,
            string text => text.ToLowerInvariant() switch
            {
                "true" or "t" or "yes" or "y" or "1" => true,
                "false" or "f" or "no" or "n" or "0" => false,
                _ => null,
            },
            _ => null,
        };

    static readonly string[] Local =
    [
        "yyyy-MM-dd'T'HH:mm:ss.FFFFFFF",
        "yyyy-MM-dd HH:mm:ss.FFFFFFF",
        "yyyy-MM-dd'T'HH:mm",
        "yyyy-MM-dd HH:mm",
        "yyyy-MM-dd",
    ];

    static object? Timestamp(object value, string? format, TimeZoneInfo? zone) =>
        value switch
        {
            DateTime t => t.Kind == DateTimeKind.Utc || zone is null ? t : Utc(t, zone),
            DateOnly d => Utc(d.ToDateTime(TimeOnly.MinValue), zone),
            string text when format is not null => DateTime.TryParseExact(
                text,
                format,
                CultureInfo.InvariantCulture,
                DateTimeStyles.None,
                out var t
            )
                ? t.Kind == DateTimeKind.Local
                    ? t.ToUniversalTime()
                    : Utc(t, zone)
                : null,
            string text
                when zone is not null
                    && DateTime.TryParseExact(
                        text,
                        Local,
                        CultureInfo.InvariantCulture,
                        DateTimeStyles.None,
                        out var t
                    ) => Utc(t, zone),
            string text => TimeText.ParseDateOrTimestamp(text) is { } at ? at.AsDateTimeOffset.UtcDateTime : null,
            _ => null,
        };

    // An hour that is there twice is the first of them; one that is left out is none.
    static object? Utc(DateTime local, TimeZoneInfo? zone)
    {
        if (zone is null)
            return DateTime.SpecifyKind(local, DateTimeKind.Utc);
        local = DateTime.SpecifyKind(local, DateTimeKind.Unspecified);
        if (zone.IsInvalidTime(local))
            return null;
        var offset = zone.IsAmbiguousTime(local) ? zone.GetAmbiguousTimeOffsets(local).Max() : zone.GetUtcOffset(local);
        return new DateTimeOffset(local, offset).UtcDateTime;
    }

    static object? Date(object value, string? format) =>
        value switch
        {
            DateOnly => value,
            DateTime { TimeOfDay.Ticks: 0 } t => DateOnly.FromDateTime(t),
            string text => DateOnly.TryParseExact(
                text,
                format ?? "yyyy-MM-dd",
                CultureInfo.InvariantCulture,
                DateTimeStyles.None,
                out var d
            )
                ? d
                : null,
            _ => null,
        };

    static readonly string[] Clock = ["HH:mm:ss.FFFFFFF", "HH:mm"];

    static object? Time(object value, string? format) =>
        value switch
        {
            TimeOnly => value,
            TimeSpan { Ticks: >= 0 and < TimeSpan.TicksPerDay } t => TimeOnly.FromTimeSpan(t),
            string text => TimeOnly.TryParseExact(
                text,
                format is null ? Clock : [format],
                CultureInfo.InvariantCulture,
                DateTimeStyles.None,
                out var t
            )
                ? t
                : null,
            _ => null,
        };

    static object? Bytes(object value)
    {
        if (value is not string text)
            return value as byte[];
        var bytes = new byte[text.Length];
        return System.Convert.TryFromBase64String(text, bytes, out var written) ? bytes[..written] : null;
    }

    static object? Json(object value)
    {
        if (value is not string text)
        {
            return value is JsonText ? value
                : value is long or ExactNumber or bool ? new JsonText(Cells.Text(value))
                : null;
        }
        try
        {
            using var document = JsonDocument.Parse(text);
            return new JsonText(text);
        }
        catch (JsonException)
        {
            return null;
        }
    }
}
