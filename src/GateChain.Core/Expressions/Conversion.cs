using System.Globalization;
using GateChain.Core.Values;

namespace GateChain.Core.Expressions;

/// <summary>Turns what people and programs hand in (text, JSON, YAML) into a value of a declared type.</summary>
public static class Conversion
{
    /// <summary>
    /// The value as <paramref name="type"/>, or null and a sentence that says what was expected. Text is read as the
    /// type asks (<c>"50"</c> as int 50, <c>"a,b"</c> as a list); whole numbers widen to double and decimal; nothing
    /// else changes its kind.
    /// </summary>
    public static (Value? Value, string? Problem) To(CelType type, Value value)
    {
        if (type.IsDyn || type.Name == value.KindWord && type.Arguments.Count == 0)
            return (value, null);
        if (value.Kind == ValueKind.String && type.Name != "string")
            return FromText(type, value.AsString);
        switch (type.Name)
        {
            case "double" when value.Kind == ValueKind.Int:
                return (Value.Double(value.AsInt), null);
            case "decimal" when value.Kind is ValueKind.Int or ValueKind.Uint:
                return (Value.Decimal(Numbers.Exact(value)), null);
            // A binary number is the decimal that it is written as: files and programs mean that one.
            case "decimal"
                when value.Kind == ValueKind.Double && Decimal38.Parse(ValueText.ToPlainString(value)) is { } exact:
                return (Value.Decimal(exact), null);
            case "uint" when value.Kind == ValueKind.Int && value.AsInt >= 0:
                return (Value.Uint((ulong)value.AsInt), null);
            case "int"
                when value.Kind == ValueKind.Double
                    && value.AsDouble == Math.Floor(value.AsDouble)
                    && Math.Abs(value.AsDouble) < 1e15:
                return (Value.Int((long)value.AsDouble), null);
            case "list" when value.Kind == ValueKind.List:
                return Items(type, value.AsList);
            case "map" when value.Kind == ValueKind.Map:
                var entries = new List<KeyValuePair<Value, Value>>();
                foreach (var (key, item) in value.AsMap.Entries)
                {
                    var name = ValueText.ToPlainString(key);
                    var (converted, problem) = To(type.Fields?.GetValueOrDefault(name) ?? type.Arguments[1], item);
                    if (converted is null)
                        return (null, $"in “{name}”: {problem}");
                    entries.Add(KeyValuePair.Create(key, converted.Value));
                }
                return (Value.Map(DictionaryMap.Of(entries)), null);
            default:
                return (null, $"expected {Article.Of(type)}, and this is {Article.Of(value.KindWord)}");
        }
    }

    static (Value?, string?) Items(CelType type, IReadOnlyList<Value> items)
    {
        var converted = new List<Value>(items.Count);
        for (var i = 0; i < items.Count; i++)
        {
            var (item, problem) = To(type.Arguments[0], items[i]);
            if (item is null)
                return (null, $"item {i + 1}: {problem}");
            converted.Add(item.Value);
        }
        return (Value.List(converted), null);
    }

    static (Value?, string?) FromText(CelType type, string text)
    {
        Value? value = type.Name switch
        {
            "bool" => text switch
            {
                "true" => Value.True,
                "false" => Value.False,
                _ => null,
            },
            "int" => long.TryParse(text, NumberStyles.AllowLeadingSign, CultureInfo.InvariantCulture, out var n)
                ? Value.Int(n)
                : null,
            "uint" => ulong.TryParse(text, NumberStyles.None, CultureInfo.InvariantCulture, out var u)
                ? Value.Uint(u)
                : null,
            "double" => double.TryParse(text, NumberStyles.Float, CultureInfo.InvariantCulture, out var d)
                ? Value.Double(d)
                : null,
            "decimal" => Decimal38.Parse(text) is { } exact ? Value.Decimal(exact) : null,
            "timestamp" => TimeText.ParseDateOrTimestamp(text),
            "duration" => TimeText.ParseSetting(text) is { } span ? Value.Duration(span) : TimeText.ParseDuration(text),
            "list" or "map" when ValueJson.TryParse(text) is { } json && json.Kind is ValueKind.List or ValueKind.Map =>
                json,
            "list" => Value.List([
                .. text.Split(',', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries)
                    .Select(Value.String),
            ]),
            _ => null,
        };
        if (value is null)
            return (null, $"expected {Article.Of(type)}{Example(type)}, and this is “{text}”");
        return type.Arguments.Count > 0 ? To(type, value.Value) : (value, null);
    }

    static string Example(CelType type) =>
        type.Name switch
        {
            "timestamp" => " such as 2026-11-22 or 2026-11-22T05:00:00Z",
            "duration" => " such as 90s or 1h30m",
            "bool" => " (true or false)",
            "map" => " as JSON",
            _ => "",
        };
}
