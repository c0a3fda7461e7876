using GateChain.Core.Chains;
using GateChain.Core.Chains.Kinds;
using GateChain.Core.Chains.Reading;
using GateChain.Core.Chains.Source;
using GateChain.Core.Identity;
using GateChain.Core.Problems;
using GateChain.Core.Scheduling.Calendars;

namespace GateChain.Core.Triggers.Reading;

/// <summary>Reads <c>triggers.yaml</c>: what starts chains by itself. Never throws for bad input.</summary>
public static class TriggersFile
{
    static readonly string[] Sources = ["schedule", "arrival", "hook", "watch", "outcome"];

    /// <summary>The triggers of a file, as far as they can be read.</summary>
    /// <param name="text">Its content.</param>
    /// <param name="area">The folder that it lies in.</param>
    /// <param name="problems">Gets what is wrong.</param>
    /// <param name="kinds">The probes that there are.</param>
    /// <param name="calendars">The calendars that its folder sees.</param>
    /// <param name="attachment">The text of a file that lies beside it; null for none.</param>
    public static IReadOnlyList<TriggerDefinition> Read(
        string text,
        Area area,
        ProblemList problems,
        KindCatalogue kinds,
        CalendarsFile calendars,
        Func<string, string?> attachment
    )
    {
        var found = new List<TriggerDefinition>();
        if (MapReader.Of(NodeReader.Read(text, problems), problems, "a file of triggers") is not { } file)
            return found;
        foreach (var (name, node) in WorkspaceYaml.EntriesOf(file.Map, problems))
        {
            Names.Identifier(name, problems, "a trigger");
            if (MapReader.Of(node, problems, $"trigger “{name.Text}”") is not { } map)
                continue;
            if (Read(name, map, text, area, new SourceReader(kinds, attachment, problems), calendars) is { } trigger)
                found.Add(trigger);
        }
        return found;
    }

    /// <summary>The files that triggers name, whatever else is right or wrong in the text.</summary>
    public static IEnumerable<string> AttachmentsIn(string text) =>
        (NodeReader.Read(text, new("", text)) as MappingNode)
            ?.Entries.Select(e => (FileParts.Child(FileParts.Child(e.Value, "hook"), "accepts") as ScalarNode)?.Text)
            .OfType<string>()
            .ToList()
        ?? [];

    static TriggerDefinition? Read(
        ScalarNode name,
        MapReader map,
        string text,
        Area area,
        SourceReader sources,
        CalendarsFile calendars
    )
    {
        var problems = map.Problems;
        var chain = map.RequiredScalar("chain");
        var source = Source(map, sources, calendars, out var said);
        var when = map.Expression("when");
        var given = new List<NamedExpression>();
        foreach (var (parameter, node) in map.Inner("params")?.Map.Entries ?? [])
        {
            if (MapReader.ExpressionOf(node, problems) is { } at)
                given.Add(new(parameter.Text, at.Expression, parameter.Span, at));
        }
        var profile = map.Text("profile");
        var active = map.Take("active") is null || map.Flag("active");
        var renamed = map.Text("renamed");
        map.End();
        return chain is null || source is null
            ? null
            : new()
            {
                Name = name.Text,
                Span = name.Span,
                Chain = chain.Text,
                ChainSpan = chain.Span,
                Source = source,
                When = when,
                Params = given,
                Profile = profile,
                Active = active,
                Renamed = renamed,
                Area = area,
                Text = Cut(text, said!),
                Whole = Cut(text, map.Map),
            };
    }

    // A mapping by lines ends for the parser where the next thing begins.
    static string Cut(string text, Node node) => text[node.Span.Start..Math.Min(text.Length, node.Span.End)].Trim();

    static TriggerSource? Source(MapReader map, SourceReader sources, CalendarsFile calendars, out Node? said)
    {
        var keys = Sources.Where(s => map.Take(s) is not null).ToList();
        said = keys.Count == 1 ? map.Take(keys[0]) : null;
        if (keys is not [var key])
        {
            map.Problems.Add(
                keys.Count == 0 ? ProblemKinds.MissingKey : ProblemKinds.DoubleKey,
                keys.Count == 0 ? new(map.Map.Span.Start, map.Map.Span.Start) : map.KeySpan(keys[1]),
                $"{map.What} has one of {string.Join(", ", Sources)}: what it waits for"
            );
            return null;
        }
        return map.Inner(key) is not { } inner
            ? null
            : key switch
            {
                "schedule" => ScheduleReader.Read(inner, calendars),
                "arrival" => sources.Arrival(inner),
                "hook" => sources.Hook(inner),
                "watch" => sources.Watch(inner),
                _ => sources.Outcome(inner),
            };
    }
}
