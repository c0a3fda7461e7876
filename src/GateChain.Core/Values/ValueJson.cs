using System.Text.Json;
using System.Text.Json.Serialization;

namespace GateChain.Core.Values;

/// <summary>
/// Values as JSON without loss, for the journal: what JSON lacks is written as an object with one key that
/// begins with <c>$</c>. <see cref="WritePlain"/> writes what programs and people outside expect instead.
/// </summary>
public static class ValueJson
{
    /// <summary>
    /// How deep JSON may be nested where it is read: far deeper than values may be where they come in
    /// (<see cref="Bounds.Levels"/>), with room for what stands around them, so that what is stored can always be read.
    /// </summary>
    public const int MaxDepth = 1024;

    /// <summary>How documents that hold values are parsed.</summary>
    public static JsonDocumentOptions Options { get; } = new() { MaxDepth = MaxDepth };

    public static void Write(Utf8JsonWriter json, Value value) => Write(json, value, exact: true);

    /// <summary>
    /// Timestamps and durations as text, uint and decimal as numbers, bytes as base64, type and optional by their text.
    /// </summary>
    public static void WritePlain(Utf8JsonWriter json, Value value) => Write(json, value, exact: false);

    static void Write(Utf8JsonWriter json, Value value, bool exact)
    {
        switch (value.Kind)
        {
            case ValueKind.Null:
                json.WriteNullValue();
                break;
            case ValueKind.Bool:
                json.WriteBooleanValue(value.AsBool);
                break;
            case ValueKind.Int:
                json.WriteNumberValue(value.AsInt);
                break;
            case ValueKind.Double:
                WriteDouble(json, value.AsDouble, exact);
                break;
            case ValueKind.String:
                json.WriteStringValue(value.AsString);
                break;
            case ValueKind.List:
                json.WriteStartArray();
                foreach (var item in value.AsList)
                    Write(json, item, exact);
                json.WriteEndArray();
                break;
            case ValueKind.Map:
                WriteMap(json, value.AsMap, exact);
                break;
            case ValueKind.Uint when !exact:
                json.WriteNumberValue(value.AsUint);
                break;
            case ValueKind.Decimal when !exact:
                json.WriteRawValue(value.AsDecimal.ToString());
                break;
            case ValueKind.Decimal:
                Tagged(json, "$decimal", value.AsDecimal.ToString());
                break;
            case ValueKind.Optional when !exact:
                Write(json, value.Inner, exact);
                break;
            case ValueKind.Bytes when !exact:
                json.WriteBase64StringValue(value.AsBytes);
                break;
            case var _ when !exact:
                json.WriteStringValue(ValueText.ToPlainString(value));
                break;
            case ValueKind.Uint:
                Tagged(json, "$uint", ValueText.ToPlainString(value));
                break;
            case ValueKind.Timestamp:
                Tagged(json, "$time", ValueText.ToPlainString(value));
                break;
            case ValueKind.Duration:
                Tagged(json, "$span", ValueText.ToPlainString(value));
                break;
            case ValueKind.Type:
                Tagged(json, "$type", value.AsString);
                break;
            case ValueKind.Bytes:
                Tagged(json, "$bytes", Convert.ToBase64String(value.AsBytes));
                break;
            case ValueKind.Optional:
                json.WriteStartObject();
                json.WriteStartArray("$optional");
                if (value.HasValue)
                    Write(json, value.Inner, exact);
                json.WriteEndArray();
                json.WriteEndObject();
                break;
            default:
                throw new InvalidOperationException("an error is not a value to be stored");
        }
    }

    static void Tagged(Utf8JsonWriter json, string tag, string text)
    {
        json.WriteStartObject();
        json.WriteString(tag, text);
        json.WriteEndObject();
    }

    static void WriteDouble(Utf8JsonWriter json, double d, bool exact)
    {
        if (!double.IsFinite(d))
        {
            if (exact)
                Tagged(json, "$double", ValueText.ToPlainString(Value.Double(d)));
            else
                json.WriteStringValue(ValueText.ToPlainString(Value.Double(d)));
        }
        else if (exact && d.ToString("R") is var text && text.AsSpan().IndexOfAny('.', 'E') < 0)
        {
            json.WriteRawValue(text + ".0", skipInputValidation: true); // keeps it apart from an int
        }
        else
        {
            json.WriteNumberValue(d);
        }
    }

    static void WriteMap(Utf8JsonWriter json, MapValue map, bool exact)
    {
        var plain = true;
        foreach (var (key, _) in map.Entries)
            plain &= key.Kind == ValueKind.String && (!exact || !key.AsString.StartsWith('$'));

        if (plain || !exact)
        {
            json.WriteStartObject();
            foreach (var (key, item) in map.Entries)
            {
                json.WritePropertyName(ValueText.ToPlainString(key));
                Write(json, item, exact);
            }
            json.WriteEndObject();
            return;
        }
        json.WriteStartObject();
        json.WriteStartArray("$map");
        foreach (var (key, item) in map.Entries)
        {
            Write(json, key, exact);
            Write(json, item, exact);
        }
        json.WriteEndArray();
        json.WriteEndObject();
    }

    /// <summary>
    /// Reads what <see cref="Write(Utf8JsonWriter, Value)"/> wrote; ordinary JSON reads as its natural values.
    /// </summary>
    public static Value Read(JsonElement json) => Read(json, exact: false);

    static Value Read(JsonElement json, bool exact)
    {
        switch (json.ValueKind)
        {
            case JsonValueKind.True:
                return Value.True;
            case JsonValueKind.False:
                return Value.False;
            case JsonValueKind.String:
                return Value.String(json.GetString()!);
            case JsonValueKind.Number:
                var raw = json.GetRawText();
                return raw.AsSpan().IndexOfAny('.', 'e', 'E') < 0 && json.TryGetInt64(out var whole) ? Value.Int(whole)
                    : exact && Decimal38.Parse(raw) is { } number ? Value.Decimal(number)
                    : Value.Double(json.GetDouble());
            case JsonValueKind.Array:
                var items = new List<Value>(json.GetArrayLength());
                foreach (var item in json.EnumerateArray())
                    items.Add(Read(item, exact));
                return Value.List(items);
            case JsonValueKind.Object:
                return ReadObject(json, exact);
            default:
                return Value.Null;
        }
    }

    static Value ReadObject(JsonElement json, bool exact)
    {
        var entries = new List<KeyValuePair<Value, Value>>();
        foreach (var property in json.EnumerateObject())
        {
            if (entries.Count == 0 && property.Name.StartsWith('$') && Untag(property) is { } special)
                return special;

            entries.Add(KeyValuePair.Create(Value.String(property.Name), Read(property.Value, exact)));
        }
        return Value.Map(DictionaryMap.Of(entries));
    }

    static Value? Untag(JsonProperty property)
    {
        var text = property.Value.ValueKind == JsonValueKind.String ? property.Value.GetString()! : "";
        switch (property.Name)
        {
            case "$uint" when ulong.TryParse(text, out var u):
                return Value.Uint(u);
            case "$decimal" when Decimal38.Parse(text) is { } d:
                return Value.Decimal(d);
            case "$time":
                return TimeText.ParseTimestamp(text);
            case "$span":
                return TimeText.ParseDuration(text);
            case "$type":
                return Value.Type(text);
            case "$bytes":
                var bytes = new byte[text.Length];
                return Convert.TryFromBase64String(text, bytes, out var length) ? Value.Bytes(bytes[..length]) : null;
            case "$double":
                return text switch
                {
                    "NaN" => Value.Double(double.NaN),
                    "-Inf" => Value.Double(double.NegativeInfinity),
                    "+Inf" => Value.Double(double.PositiveInfinity),
                    _ => null,
                };
            case "$optional" when property.Value.ValueKind == JsonValueKind.Array:
                return property.Value.GetArrayLength() == 0 ? Value.None : Value.Some(Read(property.Value[0]));
            case "$map" when property.Value.ValueKind == JsonValueKind.Array:
                var list = Read(property.Value).AsList;
                if (
                    list.Count % 2 != 0
                    || list.Where((_, i) => i % 2 == 0)
                        .Any(k => k.Kind is not (ValueKind.Bool or ValueKind.Int or ValueKind.Uint or ValueKind.String))
                )
                {
                    return null;
                }
                var entries = new List<KeyValuePair<Value, Value>>();
                for (var i = 0; i + 1 < list.Count; i += 2)
                    entries.Add(KeyValuePair.Create(list[i], list[i + 1]));
                return Value.Map(DictionaryMap.Of(entries));
            default:
                return null;
        }
    }

    /// <summary>Reads JSON text; null and no exception when it is not JSON.</summary>
    /// <param name="text">The text.</param>
    /// <param name="exact">Whether numbers that are no ints become decimals where they have up to 38 digits; else they
    /// are doubles.</param>
    /// <param name="unique">Whether an object with two members of one name is none.</param>
    public static Value? TryParse(string text, bool exact = false, bool unique = false)
    {
        try
        {
            using var document = JsonDocument.Parse(
                text,
                unique ? Options with { AllowDuplicateProperties = false } : Options
            );
            return Read(document.RootElement, exact);
        }
        catch (JsonException)
        {
            return null;
        }
    }

    public static string ToText(Value value, bool plain = true, bool indented = false)
    {
        using var stream = new MemoryStream();
        using (
            var json = new Utf8JsonWriter(
                stream,
                new()
                {
                    Indented = indented,
                    Encoder = System.Text.Encodings.Web.JavaScriptEncoder.UnsafeRelaxedJsonEscaping,
                }
            )
        )
        {
            Write(json, value, exact: !plain);
        }
        return System.Text.Encoding.UTF8.GetString(stream.GetBuffer(), 0, (int)stream.Length);
    }
}

/// <summary>Lets System.Text.Json carry values inside journal events.</summary>
public sealed class ValueJsonConverter : JsonConverter<Value>
{
    public override bool HandleNull => true;

    public override Value Read(ref Utf8JsonReader reader, Type typeToConvert, JsonSerializerOptions options)
    {
        using var document = JsonDocument.ParseValue(ref reader);
        return ValueJson.Read(document.RootElement);
    }

    public override void Write(Utf8JsonWriter writer, Value value, JsonSerializerOptions options) =>
        ValueJson.Write(writer, value);
}
