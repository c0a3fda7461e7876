using System.Text.Json;
using GateChain.Core.Expressions;
using GateChain.Core.Values;

namespace GateChain.Core.Tests.Conformance;

/// <summary>Reads the values and types of the conformance suite, which are protobuf JSON.</summary>
static class CelValue
{
    public static Value Read(JsonElement json)
    {
        if (!json.EnumerateObject().MoveNext())
            return Value.Null;
        var (kind, content) = json.EnumerateObject().First() is var p ? (p.Name, p.Value) : default;
        return kind switch
        {
            "nullValue" => Value.Null,
            "boolValue" => Value.Bool(content.GetBoolean()),
            "int64Value" => Value.Int(long.Parse(content.ToString())),
            "uint64Value" => Value.Uint(ulong.Parse(content.ToString())),
            "doubleValue" => Value.Double(
                content.ValueKind == JsonValueKind.Number
                    ? content.GetDouble()
                    : content.GetString() switch
                    {
                        "NaN" => double.NaN,
                        "Infinity" => double.PositiveInfinity,
                        _ => double.NegativeInfinity,
                    }
            ),
            "stringValue" => Value.String(content.GetString()!),
            "bytesValue" => Value.Bytes(Convert.FromBase64String(content.GetString()!)),
            "typeValue" => Value.Type(content.GetString()!),
            "listValue" => Value.List(
                content.TryGetProperty("values", out var items) ? [.. items.EnumerateArray().Select(Read)] : []
            ),
            "mapValue" => Value.Map(
                DictionaryMap.Of(
                    content.TryGetProperty("entries", out var entries)
                        ? entries
                            .EnumerateArray()
                            .Select(e => KeyValuePair.Create(Read(e.GetProperty("key")), Read(e.GetProperty("value"))))
                        : []
                )
            ),
            "objectValue"
                when content.GetProperty("@type").GetString()!.EndsWith("Timestamp", StringComparison.Ordinal) =>
                TimeText.ParseTimestamp(content.GetProperty("value").GetString()!)!.Value,
            "objectValue"
                when content.GetProperty("@type").GetString()!.EndsWith("Duration", StringComparison.Ordinal) =>
                TimeText.ParseDuration(content.GetProperty("value").GetString()!)!.Value,
            _ => throw new NotSupportedException(kind),
        };
    }

    public static CelType ReadType(JsonElement json)
    {
        var (kind, content) = json.EnumerateObject().First() is var p ? (p.Name, p.Value) : default;
        switch (kind)
        {
            case "dyn":
                return CelType.Dyn;
            case "null":
                return CelType.Null;
            case "primitive":
                return CelType.Parse(
                    content.GetString()! switch
                    {
                        "INT64" => "int",
                        "UINT64" => "uint",
                        var other => other.ToLowerInvariant(),
                    }
                )!;
            case "wellKnown" or "messageType":
                return content.GetString()!.EndsWith("uration", StringComparison.OrdinalIgnoreCase)
                    ? CelType.Duration
                    : CelType.Timestamp;
            case "listType":
                return CelType.List(ReadType(content.GetProperty("elemType")));
            case "mapType":
                return CelType.Map(
                    ReadType(content.GetProperty("keyType")),
                    ReadType(content.GetProperty("valueType"))
                );
            case "typeParam":
                return CelType.Parse(content.GetString()!)!;
            case "abstractType":
                var arguments = content.TryGetProperty("parameterTypes", out var types)
                    ? types.EnumerateArray().Select(ReadType).ToList()
                    : [];
                return content.GetProperty("name").GetString() == "optional_type"
                    ? CelType.Optional(arguments[0])
                    : CelType.Opaque(content.GetProperty("name").GetString()!, arguments);
            default:
                throw new NotSupportedException(kind);
        }
    }

    public static FunctionGroup ReadFunction(string name, JsonElement json)
    {
        var group = new FunctionGroup(name);
        foreach (var overload in json.GetProperty("overloads").EnumerateArray())
        {
            var parameters = overload.TryGetProperty("params", out var types)
                ? types.EnumerateArray().Select(ReadType).ToList()
                : [];
            group.Add(new(false, parameters, ReadType(overload.GetProperty("resultType")), _ => Value.Null));
        }
        return group;
    }

    /// <summary>Whether two values are the same in kind too, and NaN is NaN.</summary>
    public static bool Same(Value a, Value b) =>
        a.Kind == b.Kind
        && a.Kind switch
        {
            ValueKind.Double => a.AsDouble.Equals(b.AsDouble),
            ValueKind.List => a.AsList.Count == b.AsList.Count
                && a.AsList.Zip(b.AsList).All(p => Same(p.First, p.Second)),
            ValueKind.Map => a.AsMap.Count == b.AsMap.Count
                && a.AsMap.Entries.All(e => b.AsMap.TryGet(e.Key, out var other) && Same(e.Value, other)),
            _ => a.Equals(b),
        };

    /// <summary>A type in the words of the reference checker.</summary>
    public static string Words(CelType type) =>
        type.Name switch
        {
            "any" => "dyn",
            "null_type" => "null",
            "list" => $"list({Words(type.Arguments[0])})",
            "map" => $"map({Words(type.Arguments[0])}, {Words(type.Arguments[1])})",
            "optional" => $"optional_type({Words(type.Arguments[0])})",
            _ when type.Arguments.Count > 0 => $"{type.Name}({string.Join(", ", type.Arguments.Select(Words))})",
            _ => type.Name,
        };
}
