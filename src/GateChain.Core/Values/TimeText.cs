using System.Globalization;
using System.Text;

namespace GateChain.Core.Values;

/// <summary>
/// Timestamps as RFC 3339, durations as CEL (<c>1h30m</c>, <c>1.5s</c>) and as chain files write them.
/// </summary>
public static class TimeText
{
    // The span of CEL timestamps: 0001-01-01T00:00:00Z to 9999-12-31T23:59:59.999999999Z.
    internal const long MinSeconds = -62135596800;
    internal const long MaxSeconds = 253402300799;

    /// <summary>RFC 3339 in UTC, with as many fraction digits as needed.</summary>
    public static string Timestamp(Value value)
    {
        var whole = DateTimeOffset
            .FromUnixTimeSeconds(value.Seconds)
            .ToString("yyyy-MM-ddTHH:mm:ss", CultureInfo.InvariantCulture);
        return whole + Fraction(value.Nanos) + "Z";
    }

    /// <summary>Seconds with a unit, for example <c>90s</c> or <c>-0.25s</c>.</summary>
    public static string Duration(Value value)
    {
        var negative = value.Seconds < 0 || value.Nanos < 0;
        return (negative ? "-" : "")
            + Math.Abs(value.Seconds).ToString(CultureInfo.InvariantCulture)
            + Fraction(Math.Abs(value.Nanos))
            + "s";
    }

    static string Fraction(int nanos) =>
        nanos == 0 ? "" : "." + nanos.ToString("D9", CultureInfo.InvariantCulture).TrimEnd('0');

    /// <summary>Reads RFC 3339 (a zone is required). Null when the text is not one or out of range.</summary>
    public static Value? ParseTimestamp(string text)
    {
        // date T time [.fraction] (Z | ±hh:mm)
        if (
            text.Length < 20
            || text[4] != '-'
            || text[7] != '-'
            || text[10] is not ('T' or 't')
            || text[13] != ':'
            || text[16] != ':'
        )
        {
            return null;
        }

        if (
            !DateTime.TryParseExact(
                text.AsSpan(0, 19),
                "yyyy-MM-dd'T'HH:mm:ss",
                CultureInfo.InvariantCulture,
                DateTimeStyles.None,
                out var whole
            )
        )
        {
            return null;
        }

        var at = 19;
        var nanos = 0;
        if (text[at] == '.')
        {
            var start = ++at;
            while (at < text.Length && char.IsAsciiDigit(text[at]))
                at++;
            if (at == start || at - start > 9)
                return null;
            nanos = int.Parse(text[start..at].PadRight(9, '0'), CultureInfo.InvariantCulture);
        }
        var zone = text.AsSpan(at);
        long offset = 0;
        if (zone is not ("Z" or "z"))
        {
            if (
                zone.Length != 6
                || zone[0] is not ('+' or '-')
                || zone[3] != ':'
                || !int.TryParse(zone.Slice(1, 2), NumberStyles.None, CultureInfo.InvariantCulture, out var hours)
                || !int.TryParse(zone.Slice(4, 2), NumberStyles.None, CultureInfo.InvariantCulture, out var minutes)
                || hours > 23
                || minutes > 59
            )
            {
                return null;
            }

            offset = (zone[0] == '-' ? -1 : 1) * (hours * 3600 + minutes * 60);
        }
        var seconds = (whole.Ticks - DateTime.UnixEpoch.Ticks) / TimeSpan.TicksPerSecond - offset;
        return seconds is < MinSeconds or > MaxSeconds ? null : Value.Timestamp(seconds, nanos);
    }

    /// <summary>
    /// A date alone (<c>2026-11-22</c>), taken as midnight UTC, or RFC 3339: what people type for a parameter.
    /// </summary>
    public static Value? ParseDateOrTimestamp(string text) =>
        text.Length == 10 ? ParseTimestamp(text + "T00:00:00Z") : ParseTimestamp(text);

    /// <summary>
    /// Reads CEL's duration text: signed decimal numbers with the units h, m, s, ms, us, ns. Null when it is not one.
    /// </summary>
    public static Value? ParseDuration(string text) => Parse(text, days: false);

    /// <summary>
    /// Reads a duration as chain files write it: <c>300ms 5s 10m 2h 1d 1h30m</c> or ISO 8601 (<c>PT5M</c>); never
    /// negative.
    /// </summary>
    public static TimeSpan? ParseSetting(string text)
    {
        if (text.StartsWith('P'))
        {
            // Months and years have no length; weeks do.
            if (
                text.Length > 2
                && text[^1] == 'W'
                && int.TryParse(
                    text.AsSpan(1, text.Length - 2),
                    NumberStyles.None,
                    CultureInfo.InvariantCulture,
                    out var weeks
                )
                && weeks < 100_000
            )
            {
                return TimeSpan.FromDays(7 * weeks);
            }
            if (text.Split('T')[0].AsSpan().IndexOfAny('Y', 'M') >= 0)
                return null;
            try
            {
                var iso = System.Xml.XmlConvert.ToTimeSpan(text);
                return iso < TimeSpan.Zero ? null : iso;
            }
            catch (Exception e) when (e is FormatException or OverflowException)
            {
                return null;
            }
        }
        return Parse(text, days: true) is { } value && value.AsTimeSpan >= TimeSpan.Zero ? value.AsTimeSpan : null;
    }

    /// <summary>The shortest way to write a duration in a chain file.</summary>
    public static string Setting(TimeSpan span)
    {
        if (span == TimeSpan.Zero)
            return "0s";
        var text = new StringBuilder();
        void Unit(long amount, string unit)
        {
            if (amount != 0)
                text.Append(amount).Append(unit);
        }
        Unit(span.Days, "d");
        Unit(span.Hours, "h");
        Unit(span.Minutes, "m");
        Unit(span.Seconds, "s");
        Unit(span.Milliseconds, "ms");
        return text.Length == 0 ? "0s" : text.ToString();
    }

    /// <summary>
    /// A span as people read it: <c>350 ms</c>, <c>3.2 s</c>, <c>4 min 05 s</c>, <c>3 h 10 min</c>, <c>2 d 4 h</c>.
    /// </summary>
    public static string Brief(TimeSpan span) =>
        string.Create(
            CultureInfo.InvariantCulture,
            $"{span switch
    {
        { TotalMilliseconds: < 1000 } => $"{Math.Max(0, span.TotalMilliseconds):0} ms",
        { TotalSeconds: < 60 } => $"{span.TotalSeconds:0.0} s",
        { TotalHours: < 1 } => $"{(int)span.TotalMinutes} min {span.Seconds:00} s",
        { TotalDays: < 2 } => $"{(int)span.TotalHours} h {span.Minutes:00} min",
        _ => $"{(int)span.TotalDays} d {span.Hours} h",
    }}"
        );

    static Value? Parse(string text, bool days)
    {
        var at = 0;
        var negative = false;
        if (at < text.Length && text[at] is '+' or '-')
        {
            negative = text[at] == '-';
            at++;
        }
        if (text.AsSpan(at) is "0")
            return Value.Duration(0, 0);
        if (at == text.Length)
            return null;
        decimal total = 0;
        while (at < text.Length)
        {
            var start = at;
            while (at < text.Length && (char.IsAsciiDigit(text[at]) || text[at] == '.'))
                at++;
            if (
                at == start
                || at - start > 28
                || !decimal.TryParse(
                    text.AsSpan(start, at - start),
                    NumberStyles.AllowDecimalPoint,
                    CultureInfo.InvariantCulture,
                    out var number
                )
            )
            {
                return null;
            }

            var unit = at;
            while (at < text.Length && char.IsAsciiLetter(text[at]))
                at++;
            decimal? scale = text.AsSpan(unit, at - unit) switch
            {
                "d" when days => 86400m,
                "h" => 3600m,
                "m" => 60m,
                "s" => 1m,
                "ms" => 0.001m,
                "us" => 0.000001m,
                "ns" => 0.000000001m,
                _ => null,
            };
            if (scale is null)
                return null;
            total += number * scale.Value;
        }
        if (total > 315576000000m)
            return null;
        if (negative)
            total = -total;
        var seconds = decimal.Truncate(total);
        return Value.Duration((long)seconds, (int)((total - seconds) * 1_000_000_000m));
    }
}
