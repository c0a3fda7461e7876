using GateChain.Core.Expressions;
using GateChain.Core.Problems;
using GateChain.Core.Values;

namespace GateChain.Core.Chains.Source;

/// <summary>Reads the plain files that stand beside chains: a mapping of named mappings of values.</summary>
public static class WorkspaceYaml
{
    /// <summary>The most entries of a file; what is beyond is told and left out.</summary>
    public const int MostEntries = 5000;

    /// <summary>The entries of a file that are read; tells when there are more.</summary>
    internal static IEnumerable<KeyValuePair<ScalarNode, Node>> EntriesOf(MappingNode file, ProblemList problems)
    {
        if (file.Entries.Count > MostEntries)
        {
            problems.Add(
                ProblemKinds.WrongShape,
                file.Span,
                $"the file has {file.Entries.Count:N0} entries, and at most {MostEntries:N0} are read"
            );
        }
        return file.Entries.Take(MostEntries);
    }

    public static IEnumerable<(
        string Name,
        Span Span,
        IReadOnlyDictionary<string, (Value Value, Span Span)> Entries
    )> Sections(string text, ProblemList problems)
    {
        if (Mapping(NodeReader.Read(text, problems), problems, "the file") is not { } file)
            yield break;
        foreach (var (name, node) in EntriesOf(file, problems))
        {
            if (Mapping(node, problems, $"“{name.Text}”") is not { } section)
                continue;
            yield return (
                name.Text,
                name.Span,
                section.Entries.ToDictionary(e => e.Key.Text, e => (PlainValues.Of(e.Value), e.Key.Span))
            );
        }
    }

    /// <summary>A whole file as a value; null when it is no YAML.</summary>
    public static Value? Whole(string text, ProblemList problems) =>
        NodeReader.Read(text, problems) is { } root ? PlainValues.Of(root) : null;

    static MappingNode? Mapping(Node? node, ProblemList problems, string what)
    {
        if (node is not null and not MappingNode)
            problems.Add(ProblemKinds.WrongShape, node.Span, $"{what} is a mapping, and this is {node.Word}");
        return node as MappingNode;
    }
}
