using System.Globalization;
using System.Text;
using System.Text.Json.Nodes;

namespace GateChain.Kinds.Data;

/// <summary>
/// Reads values as PostgreSQL writes them. A load has the server write all of them as texts: numbers of a thousand
/// digits, endless times, lists with nothing in them arrive as they are, and go into another PostgreSQL as they came.
/// </summary>
/// <remarks>
/// Source: PostgreSQL documentation, chapter 8, with <c>datestyle ISO</c>, <c>timezone UTC</c>, <c>bytea_output
/// hex</c>.
/// </remarks>
static class PostgreSqlText
{
    /// <summary>What the session has to say first.</summary>
    public const string Settings =
        "SET datestyle = ISO; SET timezone = 'UTC'; SET bytea_output = hex; SET extra_float_digits = 1; "
        + "SET intervalstyle = postgres";

    /// <summary>The value; what no type of ours can hold stays the text that it is.</summary>
    /// <param name="type">The server's name of its type.</param>
    /// <param name="text">What the server wrote.</param>
    public static object Read(string type, string text)
    {
        if (type.EndsWith("[]", StringComparison.Ordinal))
        {
            return ListOf(type[..^2], text) is { } list ? new JsonText(list.ToJsonString(), text) : text;
        }
        // The name comes with its precision: numeric(12,2).
        return (type.IndexOf('(', StringComparison.Ordinal) is > 0 and var open ? type[..open] : type) switch
        {
            "boolean" or "bool" => text == "t",
            "smallint" or "integer" or "bigint" or "int2" or "int4" or "int8" or "oid" => long.Parse(
                text,
                CultureInfo.InvariantCulture
            ),
            "numeric" => ExactNumber.Read(text) ?? text,
            "real" or "double precision" or "float4" or "float8" => double.Parse(text, CultureInfo.InvariantCulture),
            "date" => DateOnly.TryParseExact(
                text,
                "yyyy-MM-dd",
                CultureInfo.InvariantCulture,
                DateTimeStyles.None,
                out var date
            )
                ? date
                : text,
            "time without time zone" or "time" => TimeOnly.TryParseExact(
                text,
                "HH:mm:ss.FFFFFF",
                CultureInfo.InvariantCulture,
                DateTimeStyles.None,
                out var time
            )
                ? time
                : text,
            "timestamp without time zone" or "timestamp" => DateTime.TryParseExact(
                text,
                "yyyy-MM-dd HH:mm:ss.FFFFFF",
                CultureInfo.InvariantCulture,
                DateTimeStyles.None,
                out var at
            )
                ? at
                : text,
            "timestamp with time zone" or "timestamptz" => text.EndsWith("+00", StringComparison.Ordinal)
            && DateTime.TryParseExact(
                text[..^3],
                "yyyy-MM-dd HH:mm:ss.FFFFFF",
                CultureInfo.InvariantCulture,
                DateTimeStyles.AssumeUniversal | DateTimeStyles.AdjustToUniversal,
                out var at
            )
                ? at
                : text,
            "bytea" => text.StartsWith("\\x", StringComparison.Ordinal) ? Convert.FromHexString(text.AsSpan(2)) : text,
            "uuid" => Guid.Parse(text),
            "json" or "jsonb" => new JsonText(text, text),
            _ => text,
        };
    }

    /// <summary>
    /// A list literal as JSON; null when it is written in a way that JSON has no place for, such as bounds of its own.
    /// </summary>
    static JsonArray? ListOf(string item, string literal)
    {
        var at = 0;
        return literal.StartsWith('{') && List(literal, ref at, item) is { } list && at == literal.Length ? list : null;
    }

    static JsonArray? List(string text, ref int at, string item)
    {
        var list = new JsonArray();
        at++;
        if (at < text.Length && text[at] == '}')
        {
            at++;
            return list;
        }
        while (at < text.Length)
        {
            if (text[at] == '{')
            {
                if (List(text, ref at, item) is not { } inner)
                    return null;
                list.Add((JsonNode)inner);
            }
            else
            {
                var (value, quoted) = Element(text, ref at);
                list.Add(!quoted && value == "NULL" ? null : Node(item, value));
            }
            if (at >= text.Length)
                return null;
            if (text[at++] == '}')
                return list;
        }
        return null;
    }

    static (string Value, bool Quoted) Element(string text, ref int at)
    {
        var value = new StringBuilder();
        var quoted = text[at] == '"';
        if (quoted)
            at++;
        while (at < text.Length && (quoted ? text[at] != '"' : text[at] is not (',' or '}')))
        {
            if (text[at] == '\\' && at + 1 < text.Length)
                at++;
            value.Append(text[at++]);
        }
        if (quoted)
            at++;
        return (value.ToString(), quoted);
    }

    static JsonNode? Node(string type, string text) =>
        Read(type, text) switch
        {
            bool b => JsonValue.Create(b),
            long n => JsonValue.Create(n),
            double d when double.IsFinite(d) => JsonValue.Create(d),
            ExactNumber n => JsonNode.Parse(n.Text),
            JsonText json => JsonNode.Parse(json.Text),
            var other => JsonValue.Create(Cells.Text(other)),
        };
}
