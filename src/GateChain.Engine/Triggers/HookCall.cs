using System.Text;
using GateChain.Core.Values;

namespace GateChain.Engine.Triggers;

/// <summary>A call of a hook, as it came.</summary>
/// <param name="Path">What stands behind <c>/hooks/</c>.</param>
/// <param name="Headers">By name in small letters; several of one name with a comma between.</param>
/// <param name="Query">By name.</param>
/// <param name="ContentType">The media type without parameters, in small letters; null for none.</param>
/// <param name="Body">The body.</param>
public sealed record HookCall(
    string Path,
    IReadOnlyDictionary<string, string> Headers,
    IReadOnlyDictionary<string, string> Query,
    string? ContentType,
    byte[] Body
)
{
    // Of no use to chains, and nobody's business.
    static readonly HashSet<string> Hidden =
    [
        "authorization",
        "proxy-authorization",
        "cookie",
        "webhook-signature",
        "x-api-key",
    ];

    const string CloudEvent = "application/cloudevents+json";

    /// <summary>The value of a header; null for none.</summary>
    public string? Header(string name) => Headers.GetValueOrDefault(name);

    /// <summary>Its headers without those that let somebody in.</summary>
    public Value ShownHeaders => Map(Headers.Where(h => !Hidden.Contains(h.Key)));

    /// <summary>What stands behind the question mark.</summary>
    public Value ShownQuery => Map(Query);

    static Value Map(IEnumerable<KeyValuePair<string, string>> texts) =>
        Value.Map(DictionaryMap.Of(texts.Select(t => KeyValuePair.Create(t.Key, Value.String(t.Value)))));

    /// <summary>
    /// The body as a value and the id of the call, null for none; or what is wrong with it, and whether it is its form.
    /// </summary>
    /// <remarks>Source: CloudEvents 1.0, HTTP protocol binding, structured and binary mode.</remarks>
    public (Value Body, string? Id, string? Problem, bool IsUnknown) Read()
    {
        string text;
        try
        {
            text = new UTF8Encoding(false, throwOnInvalidBytes: true).GetString(Body);
        }
        catch (DecoderFallbackException)
        {
            return (Value.Null, null, "the body is not UTF-8", false);
        }
        var id = Header("webhook-id") ?? Header("idempotency-key");
        if (ContentType == CloudEvent)
        {
            if (ValueJson.TryParse(text, unique: true) is not { Kind: ValueKind.Map } whole)
                return (Value.Null, null, "the body is no CloudEvent: no JSON object", false);
            if (Text(whole, "id") is not { } own || Text(whole, "source") is not { } source)
                return (Value.Null, null, "a CloudEvent has an id and a source", false);
            return (whole.AsMap.Find("data") ?? Value.Null, id ?? $"{source} {own}", null, false);
        }
        if (Header("ce-id") is { } eventId)
            id ??= $"{Header("ce-source")} {eventId}";
        if (Body.Length == 0)
            return (Value.Null, id, null, false);
        if (ContentType is null or "application/json" || ContentType.EndsWith("+json", StringComparison.Ordinal))
        {
            // Of two members with one name others might take the other one.
            return ValueJson.TryParse(text, unique: true) is { } value
                ? (value, id, null, false)
                : (Value.Null, null, "the body is no JSON, or has two members of one name", false);
        }
        return ContentType switch
        {
            "application/x-www-form-urlencoded" => (Form(text), id, null, false),
            "text/plain" => (Value.String(text), id, null, false),
            _ => (Value.Null, null, $"a body of type {ContentType} is not read: JSON, form or CloudEvents", true),
        };
    }

    static string? Text(Value map, string key) =>
        map.AsMap.Find(key) is { Kind: ValueKind.String, AsString: { Length: > 0 } text } ? text : null;

    static Value Form(string text)
    {
        var fields = new Dictionary<string, Value>();
        foreach (var pair in text.Split('&', StringSplitOptions.RemoveEmptyEntries))
        {
            var at = pair.IndexOf('=', StringComparison.Ordinal);
            static string Plain(string coded) => Uri.UnescapeDataString(coded.Replace('+', ' '));
            var name = Plain(at < 0 ? pair : pair[..at]);
            fields.TryAdd(name, Value.String(at < 0 ? "" : Plain(pair[(at + 1)..])));
        }
        return Value.Map(DictionaryMap.Of(fields));
    }
}
