using System.Text.Json.Nodes;
using GateChain.Core.Chains.Kinds;
using GateChain.Core.Values;

namespace GateChain.Core.Designing;

/// <summary>Writes JSON Schema of chain files and of the settings of kinds.</summary>
/// <remarks>
/// Source: JSON Schema, draft 2020-12. <c>x-form</c> and <c>x-pick</c> are ours: they tell a form which field to show.
/// </remarks>
public static class ChainSchema
{
    /// <summary>The schema of a whole chain file.</summary>
    public static JsonObject Of(KindCatalogue kinds)
    {
        var schema = new JsonObject
        {
            ["$schema"] = "https://json-schema.org/draft/2020-12/schema",
            ["title"] = "Chain file",
        };
        foreach (var (key, value) in OfShape(ChainShapes.Chain))
            schema[key] = value?.DeepClone();
        schema["$defs"] = new JsonObject
        {
            ["step"] = Choose(kinds.All, (kind, closed) => OfStep(kind, closed)),
            ["probe"] = Choose(kinds.Probes, OfProbe),
            ["gate"] = OfShape(ChainShapes.Gate),
            ["variable"] = OfShape(ChainShapes.Variable),
            ["parameter"] = OfShape(ChainShapes.Parameter),
        };
        return schema;
    }

    /// <summary>The schema of what a step of a kind may have.</summary>
    public static JsonObject OfStep(KindDescription kind, JsonNode kindSchema)
    {
        var members = ChainShapes.Step.Members.Concat(kind.StepKeys.Select(k => ChainShapes.OfKinds[k]));
        var step = OfShape(SettingShape.Record([.. members]));
        step["properties"]!["kind"] = kindSchema;
        step["properties"]!["set"] = Described(OfShape(kind.Settings), "The settings of its kind.");
        step["description"] = kind.Doc;
        return step;
    }

    static JsonObject OfProbe(KindDescription probe, JsonNode kindSchema)
    {
        var schema = OfShape(probe.Settings);
        schema["properties"]!["kind"] = kindSchema;
        schema["description"] = probe.Doc;
        return schema;
    }

    // Which keys there are depends on the kind.
    static JsonObject Choose(IEnumerable<KindDescription> kinds, Func<KindDescription, JsonNode, JsonObject> of)
    {
        var all = kinds.ToList();
        return new()
        {
            ["type"] = "object",
            ["required"] = new JsonArray("kind"),
            ["properties"] = new JsonObject
            {
                ["kind"] = new JsonObject { ["enum"] = new JsonArray([.. all.Select(k => (JsonNode)k.Name)]) },
            },
            ["oneOf"] = new JsonArray([.. all.Select(k => of(k, new JsonObject { ["const"] = k.Name }))]),
        };
    }

    /// <summary>The schema of a shape.</summary>
    public static JsonObject OfShape(SettingShape shape)
    {
        if (shape.Name is { } name && shape.Members.Count == 0)
            return name == "settings" ? new() { ["type"] = "object" } : new() { ["$ref"] = $"#/$defs/{name}" };
        return shape.Form switch
        {
            SettingForm.Bool => Computed("boolean", "bool"),
            SettingForm.Int => OfInt(shape),
            SettingForm.Double => Computed("number", "double"),
            SettingForm.Duration => new() { ["type"] = "string", ["x-form"] = "duration" },
            SettingForm.Timestamp => new() { ["type"] = "string", ["x-form"] = "timestamp" },
            SettingForm.Choice => OfChoice(shape),
            SettingForm.TextOrFile => new()
            {
                ["anyOf"] = new JsonArray(
                    new JsonObject { ["type"] = "string" },
                    OfShape(
                        SettingShape.Record(
                            new SettingMember("file", SettingShape.Text, true, null, "The name of an attachment.")
                        )
                    )
                ),
                ["x-form"] = "text-or-file",
            },
            SettingForm.Attachment => new() { ["type"] = "string", ["x-form"] = "attachment" },
            SettingForm.RowExpression => new()
            {
                ["type"] = new JsonArray("string", "number", "boolean"),
                ["x-form"] = "row-expression",
            },
            SettingForm.Expression => new()
            {
                ["type"] = new JsonArray("string", "number", "boolean"),
                ["x-form"] = "expression",
            },
            SettingForm.List => new() { ["type"] = "array", ["items"] = OfShape(shape.Item ?? new(SettingForm.Any)) },
            SettingForm.Map => new()
            {
                ["type"] = "object",
                ["additionalProperties"] = OfShape(shape.Item ?? new(SettingForm.Any)),
            },
            SettingForm.Record => OfRecord(shape),
            SettingForm.Any => new() { ["x-form"] = "any" },
            _ => new() { ["type"] = new JsonArray("string", "number", "boolean"), ["x-form"] = "text" },
        };
    }

    static JsonObject OfRecord(SettingShape shape)
    {
        var properties = new JsonObject();
        foreach (var member in shape.Members)
        {
            var property = Described(OfShape(member.Shape), member.Doc);
            if (member.Default is { } absent)
                property["default"] = JsonNode.Parse(ValueJson.ToText(absent));
            if (member.Shape.Refers != SettingReference.None)
                property["x-pick"] = member.Shape.Refers.Word();
            if (member.Shape.ConnectionTypes.Count > 0)
                property["x-pick-types"] = new JsonArray([.. member.Shape.ConnectionTypes.Select(t => (JsonNode)t)]);
            properties[member.Name] = property;
        }
        var schema = new JsonObject
        {
            ["type"] = "object",
            ["properties"] = properties,
            ["additionalProperties"] = false,
        };
        var required = shape.Members.Where(m => m.Required).Select(m => (JsonNode)m.Name).ToArray();
        if (required.Length > 0)
            schema["required"] = new JsonArray(required);
        return schema;
    }

    static JsonObject OfChoice(SettingShape shape)
    {
        var words = new JsonArray([.. shape.Choices.Select(c => (JsonNode)c)]);
        return shape.OrNumber
            ? new()
            {
                ["anyOf"] = new JsonArray(
                    new JsonObject { ["enum"] = words },
                    new JsonObject { ["type"] = "integer", ["minimum"] = 1 }
                ),
                ["x-form"] = "choice-or-number",
            }
            : new()
            {
                ["anyOf"] = new JsonArray(
                    new JsonObject { ["enum"] = words },
                    Template(),
                    new JsonObject
                    {
                        ["type"] = "array",
                        ["items"] = new JsonObject { ["enum"] = words.DeepClone() },
                    }
                ),
                ["x-form"] = "choice",
            };
    }

    // A value of any type may be computed by a text with an expression in it.
    static JsonObject OfInt(SettingShape shape)
    {
        var schema = Computed("integer", "int");
        // What a number of 32 bits can't hold is no bound that people need to see.
        if (shape.Least is { } least and > int.MinValue)
            schema["minimum"] = least;
        if (shape.Most is { } most and not int.MaxValue)
            schema["maximum"] = most;
        return schema;
    }

    static JsonObject Computed(string type, string form) =>
        new() { ["anyOf"] = new JsonArray(new JsonObject { ["type"] = type }, Template()), ["x-form"] = form };

    static JsonObject Template() => new() { ["type"] = "string", ["pattern"] = @"\$\{" };

    static JsonObject Described(JsonObject schema, string doc)
    {
        schema["description"] = doc;
        return schema;
    }
}
