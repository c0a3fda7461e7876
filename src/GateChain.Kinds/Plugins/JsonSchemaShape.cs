using GateChain.Core.Chains.Kinds;
using GateChain.Core.Values;

namespace GateChain.Kinds.Plugins;

/// <summary>Reads the part of JSON Schema that settings can be told in.</summary>
/// <remarks>Source: JSON Schema, draft 2020-12.</remarks>
static class JsonSchemaShape
{
    static readonly string[] Known =
    [
        "type",
        "properties",
        "required",
        "additionalProperties",
        "items",
        "enum",
        "default",
        "description",
        "format",
        "title",
        "$schema",
    ];

    /// <summary>The shape; a sentence when it can't be read.</summary>
    public static (SettingShape? Shape, string? Problem) Of(Value schema)
    {
        try
        {
            return (Shape(schema, "settings"), null);
        }
        catch (FormatException e)
        {
            return (null, e.Message);
        }
    }

    static SettingShape Shape(Value schema, string at)
    {
        if (schema.Kind != ValueKind.Map)
            throw new FormatException($"{at} is a JSON Schema: a mapping");
        var map = schema.AsMap;
        foreach (var (key, _) in map.Entries.Where(e => !Known.Contains(e.Key.AsString)))
        {
            throw new FormatException(
                $"{at}: “{key.AsString}” is not understood; known here: {string.Join(", ", Known)}"
            );
        }
        if (map.Find("enum") is { Kind: ValueKind.List } choices)
            return new(SettingForm.Choice) { Choices = [.. choices.AsList.Select(ValueText.ToPlainString)] };
        return Text(map, "type") switch
        {
            "string" => Text(map, "format") switch
            {
                "duration" => new(SettingForm.Duration),
                "date-time" or "date" => new(SettingForm.Timestamp),
                _ => SettingShape.Text,
            },
            "integer" => new(SettingForm.Int),
            "number" => new(SettingForm.Double),
            "boolean" => new(SettingForm.Bool),
            "array" => new(SettingForm.List)
            {
                Item = map.Find("items") is { } item ? Shape(item, $"{at}[]") : new(SettingForm.Any),
            },
            "object" when map.Find("properties") is { Kind: ValueKind.Map } properties => Record(
                map,
                properties.AsMap,
                at
            ),
            "object" => new(SettingForm.Map)
            {
                Item = map.Find("additionalProperties") is { Kind: ValueKind.Map } item
                    ? Shape(item, $"{at}.*")
                    : new(SettingForm.Any),
            },
            null => new(SettingForm.Any),
            var other => throw new FormatException(
                $"{at}: there is no type “{other}”; types: string, integer, number, boolean, array, object"
            ),
        };
    }

    static SettingShape Record(MapValue schema, MapValue properties, string at)
    {
        var required = schema.Find("required") is { Kind: ValueKind.List } names
            ? names.AsList.Select(ValueText.ToPlainString).ToHashSet()
            : [];
        if (required.FirstOrDefault(r => properties.Find(r) is null) is { } unknown)
            throw new FormatException($"{at}: “{unknown}” is required, and not among the properties");
        return SettingShape.Record([
            .. properties.Entries.Select(p => new SettingMember(
                p.Key.AsString,
                Referring(p.Key.AsString, Shape(p.Value, $"{at}.{p.Key.AsString}")),
                required.Contains(p.Key.AsString),
                p.Value.AsMap.Find("default"),
                Text(p.Value.AsMap, "description") ?? ""
            )),
        ]);
    }

    // A program's setting of this name holds the name of a connection; as a rule.
    static SettingShape Referring(string name, SettingShape shape) =>
        name == "connection" && shape.Form == SettingForm.Text
            ? shape with
            {
                Refers = SettingReference.Connection,
            }
            : shape;

    static string? Text(MapValue map, string key) =>
        map.Find(key) is { IsNull: false } value ? ValueText.ToPlainString(value) : null;
}
