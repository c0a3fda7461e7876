using GateChain.Core.Chains;
using GateChain.Core.Chains.Source;
using GateChain.Core.Problems;
using GateChain.Core.Values;

namespace GateChain.Core.Designing;

/// <summary>One setting that differs.</summary>
/// <param name="Setting">Its path inside the step or gate: <c>set.batch</c>.</param>
/// <param name="Before">As it was; null when it was not there.</param>
/// <param name="After">As it is; null when it is not there.</param>
public sealed record SettingChange(string Setting, string? Before, string? After);

/// <summary>One part of a chain that differs.</summary>
/// <param name="Part"><c>chain</c>, <c>step</c> or <c>gate</c>.</param>
/// <param name="Change"><c>added</c>, <c>removed</c>, <c>changed</c> or <c>renamed</c>.</param>
/// <param name="Address">A step's address; for a gate <c>scope/from → to</c>; empty for the chain itself.</param>
/// <param name="Was">The former address of a step that was renamed.</param>
/// <param name="Settings">What differs in it.</param>
public sealed record PartChange(
    string Part,
    string Change,
    string Address,
    string? Was,
    IReadOnlyList<SettingChange> Settings
)
{
    /// <summary>
    /// Which gate: by its place in the newer version, or in the older one when it is not there any more.
    /// </summary>
    public GatePlace? Gate { get; init; }
}

/// <summary>
/// Compares two versions of a chain by what they say, not by how it is written: order, comments and quotes do not
/// count.
/// </summary>
public static class ChainComparison
{
    static readonly string[] Scoped = ["steps", "gates"];

    /// <summary>What differs; files that are no YAML count as empty.</summary>
    /// <param name="before">A chain file.</param>
    /// <param name="after">Another one.</param>
    public static IReadOnlyList<PartChange> Compare(string before, string after)
    {
        var (old, now) = (Parts(before), Parts(after));
        var changes = new List<PartChange>();
        var chain = Differences(old.Chain, now.Chain);
        if (chain.Count > 0)
            changes.Add(new("chain", "changed", "", null, chain));
        AddParts("step", old.Steps, now.Steps, changes);
        FoldRenames(changes, old.Steps, now.Steps);
        AddParts("gate", old.Gates, now.Gates, changes);
        return
        [
            .. changes.Select(c =>
                c.Part == "gate" ? c with { Gate = (c.Change == "removed" ? old : now).Places[c.Address] } : c
            ),
        ];
    }

    static void AddParts(
        string part,
        Dictionary<string, Node> old,
        Dictionary<string, Node> now,
        List<PartChange> changes
    )
    {
        foreach (var (address, node) in now)
        {
            if (!old.TryGetValue(address, out var was))
                changes.Add(new(part, "added", address, null, Differences(null, node)));
            else if (Differences(was, node) is { Count: > 0 } different)
                changes.Add(new(part, "changed", address, null, different));
        }
        changes.AddRange(
            old.Where(o => !now.ContainsKey(o.Key))
                .Select(o => new PartChange(part, "removed", o.Key, null, Differences(o.Value, null)))
        );
    }

    // A step that went and one that came in the same scope with the same content are one that was renamed.
    static void FoldRenames(List<PartChange> changes, Dictionary<string, Node> old, Dictionary<string, Node> now)
    {
        foreach (var gone in changes.Where(c => c is { Part: "step", Change: "removed" }).ToList())
        {
            var come = changes.Find(c =>
                c is { Part: "step", Change: "added" }
                && new StepPath(c.Address).Scope.Text == new StepPath(gone.Address).Scope.Text
                && Differences(old[gone.Address], now[c.Address]).Count == 0
            );
            if (come is null)
                continue;
            changes[changes.IndexOf(come)] = new("step", "renamed", come.Address, gone.Address, []);
            changes.Remove(gone);
        }
    }

    sealed record ChainParts(Node Chain, Dictionary<string, Node> Steps, Dictionary<string, Node> Gates)
    {
        public Dictionary<string, GatePlace> Places { get; } = [];
    }

    static ChainParts Parts(string text)
    {
        var file = NodeReader.Read(text, new ProblemList("", text)) as MappingNode ?? new MappingNode(default, []);
        var parts = new ChainParts(Without(file, [.. Scoped, "layout", "handlers"]), [], []);
        var all = FileParts.Of(file);
        foreach (var step in all.Steps)
            parts.Steps[step.Address] = step.Content is MappingNode map ? Without(map, Scoped) : step.Content;
        foreach (var gate in all.Gates)
        {
            var (scope, _, from, to) = gate.Place;
            var name = $"{new StepPath(scope).Then(from)} → {to}";
            // Two gates between the same steps are told apart by their number.
            var one = name;
            for (var again = 2; !parts.Places.TryAdd(name, gate.Place); again++)
                name = $"{one} ({again})";
            parts.Gates[name] = Without(gate.Content, ["from", "to"]);
        }
        return parts;
    }

    static MappingNode Without(MappingNode map, IReadOnlyList<string> keys) =>
        new(map.Span, [.. map.Entries.Where(e => !keys.Contains(e.Key.Text))]);

    static List<SettingChange> Differences(Node? before, Node? after)
    {
        var (old, now) = (Flat(before), Flat(after));
        return
        [
            .. old
                .Keys.Union(now.Keys)
                .Where(k => old.GetValueOrDefault(k) != now.GetValueOrDefault(k))
                .Select(k => new SettingChange(k, old.GetValueOrDefault(k), now.GetValueOrDefault(k))),
        ];
    }

    static Dictionary<string, string> Flat(Node? node)
    {
        var flat = new Dictionary<string, string>();
        if (node is not null)
            Add(node, "");
        return flat;

        void Add(Node at, string path)
        {
            switch (at)
            {
                case MappingNode { Entries.Count: > 0 } map:
                    foreach (var (key, value) in map.Entries)
                        Add(value, path.Length == 0 ? key.Text : $"{path}.{key.Text}");
                    break;
                case SequenceNode { Items.Count: > 0 } list when list.Items.Any(i => i is not ScalarNode):
                    for (var i = 0; i < list.Items.Count; i++)
                        Add(list.Items[i], $"{path}[{i + 1}]");
                    break;
                default:
                    if (path.Length > 0 || at is not MappingNode)
                        flat[path] = ValueText.ToPlainString(PlainValues.Of(at));
                    break;
            }
        }
    }
}
