using System.Collections.Concurrent;
using System.Text;
using System.Text.Json;
using GateChain.Core.Identity;
using GateChain.Engine.Workspaces;
using NJsonSchema;

namespace GateChain.Engine.Triggers;

/// <summary>Checks bodies against JSON Schemas of the workspace. Thread-safe.</summary>
sealed class BodySchemas(WorkspaceService workspace)
{
    /// <summary>The most that is told of one body.</summary>
    const int Most = 20;

    readonly ConcurrentDictionary<string, JsonSchema> _read = new();

    /// <summary>What does not fit, in words; empty when it all does.</summary>
    /// <param name="area">The folder that the schema is looked for from.</param>
    /// <param name="file">The schema's file.</param>
    /// <param name="body">The body.</param>
    public async Task<IReadOnlyList<string>> RefuseAsync(Area area, string file, byte[] body)
    {
        if (await workspace.FindTextUpwardAsync(area, file).ConfigureAwait(false) is not { } text)
            return [$"there is no file {file} in the workspace"];
        JsonSchema schema;
        try
        {
            if (!_read.TryGetValue(text, out schema!))
            {
                // Nothing is fetched from elsewhere: a schema stands for itself.
                if (Elsewhere(text) is { } address)
                    return [$"{file} refers to {address}, and a schema of a hook refers to parts of itself only"];
                schema = await JsonSchema.FromJsonAsync(text).ConfigureAwait(false);
                if (_read.Count < 100)
                    _read[text] = schema;
            }
        }
        catch (Exception e) when (e is not OutOfMemoryException)
        {
            return [$"{file} can't be read as JSON Schema: {e.Message}"];
        }
        try
        {
            return
            [
                .. schema
                    .Validate(Encoding.UTF8.GetString(body))
                    .Take(Most)
                    .Select(e => $"{(e.Path is { Length: > 0 } path ? path : "the body")}: {Words(e.Kind.ToString())}"),
            ];
        }
        catch (Exception e) when (e is not OutOfMemoryException)
        {
            // The library throws at numbers that are too large for it.
            return [$"the body can't be held to {file}: {e.Message}"];
        }
    }

    static string? Elsewhere(string text)
    {
        using var whole = JsonDocument.Parse(text);
        return In(whole.RootElement);

        static string? In(JsonElement at) =>
            at.ValueKind switch
            {
                JsonValueKind.Object => at.EnumerateObject()
                    .Select(p =>
                        p is { Name: "$ref", Value.ValueKind: JsonValueKind.String }
                        && p.Value.GetString() is { } address
                        && !address.StartsWith('#')
                            ? address
                            : In(p.Value)
                    )
                    .FirstOrDefault(a => a is not null),
                JsonValueKind.Array => at.EnumerateArray().Select(In).FirstOrDefault(a => a is not null),
                _ => null,
            };
    }

    // NumberTooBig -> number too big.
    static string Words(string name) =>
        string.Concat(
            name.Select((c, i) => char.IsUpper(c) ? $"{(i > 0 ? " " : "")}{char.ToLowerInvariant(c)}" : $"{c}")
        );
}
