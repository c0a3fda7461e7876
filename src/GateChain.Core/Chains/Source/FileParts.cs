using GateChain.Core.Expressions;
using GateChain.Core.Problems;

namespace GateChain.Core.Chains.Source;

/// <summary>The steps and gates of a chain file, as it is written, with their places. Immutable.</summary>
sealed class FileParts
{
    /// <summary>A step.</summary>
    /// <param name="Address">Its address.</param>
    /// <param name="Span">From its id to the end of what it says.</param>
    /// <param name="Content">What it says.</param>
    public sealed record StepPart(string Address, Span Span, Node Content);

    /// <summary>A gate.</summary>
    public sealed record GatePart(GatePlace Place, Span Span, MappingNode Content);

    readonly List<StepPart> _steps = [];
    readonly List<GatePart> _gates = [];

    FileParts(Node? file)
    {
        Scope(file, "");
        foreach (var (occasion, handler) in (Child(file, "handlers") as MappingNode)?.Entries ?? [])
            Scope(handler, "@" + occasion.Text);
    }

    /// <summary>The parts of a file; of one that is no chain there are none.</summary>
    public static FileParts Of(Node? file) => new(file);

    /// <summary>All steps; outer ones come before what is inside of them.</summary>
    public IReadOnlyList<StepPart> Steps => _steps;

    /// <summary>All gates, by scope.</summary>
    public IReadOnlyList<GatePart> Gates => _gates;

    /// <summary>The innermost step or gate that an offset is in; null for none.</summary>
    public PartPlace? At(int offset)
    {
        var step = _steps.LastOrDefault(s => s.Span.Start <= offset && offset <= s.Span.End);
        return _gates.Find(g =>
                g.Span.Start <= offset && offset <= g.Span.End && (step is null || g.Span.Start >= step.Span.Start)
            )
                is { } gate
                ? new(null, gate.Place)
            : step is null ? null
            : new(step.Address, null);
    }

    void Scope(Node? node, string address)
    {
        var prefix = address.Length == 0 ? "" : address + "/";
        foreach (var (id, step) in (Child(node, "steps") as MappingNode)?.Entries ?? [])
        {
            _steps.Add(new(prefix + id.Text, new(id.Span.Start, Math.Max(id.Span.End, EndOf(step))), step));
            Scope(step, prefix + id.Text);
        }
        var index = 0;
        foreach (var item in (Child(node, "gates") as SequenceNode)?.Items ?? [])
        {
            if (item is MappingNode gate)
            {
                var place = new GatePlace(address, index, Text(gate, "from"), Text(gate, "to"));
                _gates.Add(new(place, new(gate.Span.Start, EndOf(gate)), gate));
            }
            index++;
        }
    }

    // A mapping by lines ends for the parser where the next thing begins.
    static int EndOf(Node node) =>
        node switch
        {
            MappingNode { Entries: [.., var (key, value)] } => Math.Max(key.Span.End, EndOf(value)),
            SequenceNode { Items: [.., var item] } => EndOf(item),
            _ => node.Span.End,
        };

    static string Text(Node node, string key) => (Child(node, key) as ScalarNode)?.Text ?? "";

    /// <summary>What stands under a key of a mapping; null for nothing.</summary>
    public static Node? Child(Node? node, string key) =>
        (node as MappingNode)?.Entries.FirstOrDefault(e => e.Key.Text == key).Value;
}
