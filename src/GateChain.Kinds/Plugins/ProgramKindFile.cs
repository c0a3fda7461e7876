using System.Text;
using GateChain.Core.Chains.Kinds;
using GateChain.Core.Chains.Source;
using GateChain.Core.Expressions;
using GateChain.Core.Problems;
using GateChain.Core.Values;

namespace GateChain.Kinds.Plugins;

/// <summary>Reads <c>kind.yaml</c>: a kind that is a program, with a JSON Schema of its settings.</summary>
static class ProgramKindFile
{
    public const string Name = "kind.yaml";

    static readonly string[] Keys = ["kind", "doc", "purpose", "run", "settings", "outputs", "sample"];

    /// <exception cref="PluginException">Something is wrong with it.</exception>
    public static ProgramKind Read(string path)
    {
        var text = File.ReadAllText(path, Encoding.UTF8);
        var problems = new ProblemList(path, text);
        if (WorkspaceYaml.Whole(text, problems) is not { Kind: ValueKind.Map } root || problems.HasErrors)
        {
            throw new PluginException(path, problems.Ordered is [var first, ..] ? first.Message : "it is a mapping");
        }
        var map = root.AsMap;
        if (map.Entries.Select(e => e.Key.AsString).FirstOrDefault(k => !Keys.Contains(k)) is { } unknown)
        {
            throw new PluginException(
                path,
                $"it has no key “{unknown}”"
                    + $"{(Nearest.Find(unknown, Keys) is { } near ? $" (did you mean “{near}”?)" : "")}"
            );
        }
        var name = Text(map, "kind", path);
        if (!name.All(c => char.IsAsciiLetterOrDigit(c) || c is '-' or '_'))
            throw new PluginException(path, $"“{name}” is no name: letters, digits, - and _");
        var (shape, problem) = map.Find("settings") is { } schema
            ? JsonSchemaShape.Of(schema)
            : (SettingShape.Record(), null);
        if (shape is not { Form: SettingForm.Record })
            throw new PluginException(path, problem ?? "settings is a JSON Schema of type object, with properties");
        if (map.Find("run") is not { Kind: ValueKind.List } run || run.AsList.Count == 0)
            throw new PluginException(path, "“run” is a list: the program and its arguments");
        var outputs = Outputs(map, path);
        var description = new KindDescription(name, Text(map, "doc", path), shape, outputs)
        {
            Purpose = map.Find("purpose") is { } purpose
                ? Enum.TryParse<KindPurpose>(ValueText.ToPlainString(purpose), ignoreCase: true, out var known)
                    ? known
                    : throw new PluginException(path, "“purpose” is one of work, data, ways, run")
                : KindPurpose.Work,
            Sample = map.Find("sample") is { Kind: ValueKind.Map } sample
                ? sample.AsMap.Entries.ToDictionary(e => e.Key.AsString, e => e.Value)
                : new Dictionary<string, Value>(),
        };
        foreach (var (output, type) in outputs)
        {
            if (!description.Sample.TryGetValue(output, out var value))
            {
                throw new PluginException(
                    path,
                    $"“sample” needs “{output}”: what a rehearsal gives when nobody chooses otherwise"
                );
            }
            if (Conversion.To(type, value).Problem is { } misfit)
                throw new PluginException(path, $"the sample of “{output}”: {misfit}");
        }
        return new(description, Path.GetDirectoryName(path)!, [.. run.AsList.Select(ValueText.ToPlainString)]);
    }

    static Dictionary<string, CelType> Outputs(MapValue map, string path)
    {
        var outputs = new Dictionary<string, CelType>();
        if (map.Find("outputs") is not { Kind: ValueKind.Map } given)
            return outputs;
        foreach (var (name, type) in given.AsMap.Entries)
        {
            outputs[name.AsString] = CelType.Parse(ValueText.ToPlainString(type))
                ?? throw new PluginException(
                    path,
                    $"output “{name.AsString}”: there is no type “{ValueText.ToPlainString(type)}”; "
                        + "types: bool, int, double, string, timestamp, duration, list<…>, map, any"
                );
        }

        return outputs;
    }

    static string Text(MapValue map, string key, string path) =>
        map.Find(key) is { IsNull: false } value && ValueText.ToPlainString(value) is { Length: > 0 } text
            ? text
            : throw new PluginException(path, $"“{key}” is missing");
}
