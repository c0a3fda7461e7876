using System.Collections;
using System.Globalization;
using System.Numerics;
using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;

namespace GateChain.Kinds.Data;

/// <summary>
/// Converts what a source gives to the closed set of types that every target takes:
/// <c>string bool long ExactNumber double DateOnly TimeOnly TimeSpan DateTime byte[] Guid JsonText</c>, and null for
/// nothing. Each has one text, which no culture changes.
/// </summary>
static class Cells
{
    /// <summary>
    /// A driver's value as one of the set. A type outside the set becomes its text, never the name of its class.
    /// </summary>
    public static object? Of(object? value) =>
        value switch
        {
            null or DBNull => null,
            string
            or bool
            or long
            or double
            or DateOnly
            or TimeOnly
            or TimeSpan
            or byte[]
            or Guid
            or ExactNumber
            or JsonText => value,
            int or short or sbyte or byte or ushort or uint => Convert.ToInt64(value, CultureInfo.InvariantCulture),
            ulong n => n <= long.MaxValue ? (long)n : new ExactNumber(n.ToString(CultureInfo.InvariantCulture)),
            BigInteger n => n >= long.MinValue && n <= long.MaxValue
                ? (long)n
                : new ExactNumber(n.ToString(CultureInfo.InvariantCulture)),
            decimal m => m.Scale == 0 && m >= long.MinValue && m <= long.MaxValue
                ? (long)m
                : new ExactNumber(m.ToString(CultureInfo.InvariantCulture)),
            // The shortest text of a float is what was meant; its digits as a double are noise.
            float f => double.Parse(f.ToString("R", CultureInfo.InvariantCulture), CultureInfo.InvariantCulture),
            DateTime t => t.Kind == DateTimeKind.Local ? t.ToUniversalTime() : t,
            DateTimeOffset t => t.UtcDateTime,
            Stream stream => BytesOf(stream),
            IDictionary or IEnumerable => new JsonText(Json(value)!.ToJsonString(Relaxed)),
            IFormattable f => f.ToString(null, CultureInfo.InvariantCulture),
            _ => value.ToString(),
        };

    static readonly JsonSerializerOptions Relaxed = new()
    {
        Encoder = System.Text.Encodings.Web.JavaScriptEncoder.UnsafeRelaxedJsonEscaping,
    };

    static byte[] BytesOf(Stream stream)
    {
        using var copy = new MemoryStream();
        stream.CopyTo(copy);
        return copy.ToArray();
    }

    static JsonNode? Json(object? value) =>
        value switch
        {
            IDictionary map => new JsonObject(
                map.Keys.Cast<object>().Select(k => KeyValuePair.Create(Text(Of(k) ?? ""), Json(map[k])))
            ),
            string text => JsonValue.Create(text),
            byte[] bytes => JsonValue.Create(Convert.ToBase64String(bytes)),
            IEnumerable list and not string => new JsonArray([.. list.Cast<object?>().Select(Json)]),
            _ => Of(value) switch
            {
                null => null,
                bool b => JsonValue.Create(b),
                long n => JsonValue.Create(n),
                double d when double.IsFinite(d) => JsonValue.Create(d),
                ExactNumber n => JsonNode.Parse(n.Text),
                JsonText json => JsonNode.Parse(json.Text),
                var other => JsonValue.Create(Text(other)),
            },
        };

    /// <summary>The one text of a value; of nothing the empty one.</summary>
    public static string Text(object? cell) =>
        cell switch
        {
            null => "",
            string s => s,
            bool b => b ? "true" : "false",
            long n => n.ToString(CultureInfo.InvariantCulture),
            double d => Double(d),
            DateOnly d => d.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture),
            TimeOnly t => t.ToString("HH:mm:ss.FFFFFFF", CultureInfo.InvariantCulture),
            TimeSpan t => Span(t),
            DateTime t => t.ToString("yyyy-MM-ddTHH:mm:ss.FFFFFFF'Z'", CultureInfo.InvariantCulture),
            byte[] bytes => Convert.ToBase64String(bytes),
            Guid id => id.ToString("D"),
            ExactNumber n => n.Text,
            JsonText json => json.Text,
            _ => Text(Of(cell)),
        };

    /// <summary>A binary number as databases and files take it.</summary>
    public static string Double(double d) =>
        double.IsNaN(d) ? "NaN"
        : double.IsInfinity(d)
            ? d > 0 ? "Infinity"
                : "-Infinity"
        : d.ToString("R", CultureInfo.InvariantCulture);

    // Hours continue beyond a day, as SQL has them.
    static string Span(TimeSpan t)
    {
        var positive = t.Duration();
        var text = new StringBuilder(t < TimeSpan.Zero ? "-" : "").Append(
            CultureInfo.InvariantCulture,
            $"{(long)positive.TotalHours:00}:{positive.Minutes:00}:{positive.Seconds:00}"
        );
        var fraction = positive.Ticks % TimeSpan.TicksPerSecond;
        return fraction == 0
            ? text.ToString()
            : text.Append('.')
                .Append(fraction.ToString("0000000", CultureInfo.InvariantCulture).TrimEnd('0'))
                .ToString();
    }
}
