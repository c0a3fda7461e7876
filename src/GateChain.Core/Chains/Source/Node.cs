using GateChain.Core.Expressions;

namespace GateChain.Core.Chains.Source;

/// <summary>A piece of YAML with its place in the text. Immutable.</summary>
public abstract class Node(Span span)
{
    public Span Span { get; } = span;

    /// <summary>What it is, in a word for messages.</summary>
    public abstract string Word { get; }
}

/// <param name="span">Place, quotes included.</param>
/// <param name="text">The text it means.</param>
/// <param name="plain">Whether it stands without quotes and so may mean a number, a bool or null.</param>
/// <param name="inner">Offset of its first character, or -1 when offsets inside do not map to the source one to one
/// (escapes, blocks).</param>
public sealed class ScalarNode(Span span, string text, bool plain, int inner) : Node(span)
{
    readonly int[]? _offsets;

    /// <param name="span">Its place.</param>
    /// <param name="text">The text it means.</param>
    /// <param name="plain">Whether it stands without quotes.</param>
    /// <param name="offsets">Where each of its characters stands, and its end.</param>
    public ScalarNode(Span span, string text, bool plain, int[] offsets)
        : this(span, text, plain, -1) => _offsets = offsets;

    public string Text { get; } = text;
    public bool IsPlain { get; } = plain;
    public bool IsNull => IsPlain && Text is "" or "~" or "null";
    public override string Word => IsNull ? "nothing" : "a text";

    /// <summary>The place of a part of its text; the whole scalar when that can't be told.</summary>
    public Span Within(Span part) =>
        _offsets is { } at && part.Start >= 0 && part.Start < at.Length
            ? new(
                at[part.Start],
                part.End > part.Start ? at[Math.Min(part.End, at.Length - 1) - 1] + 1 : at[part.Start]
            )
        : inner < 0 ? Span
        : part.Shift(inner);
}

public sealed class SequenceNode(Span span, IReadOnlyList<Node> items) : Node(span)
{
    public IReadOnlyList<Node> Items { get; } = items;
    public override string Word => "a list";
}

public sealed class MappingNode(Span span, IReadOnlyList<KeyValuePair<ScalarNode, Node>> entries) : Node(span)
{
    public IReadOnlyList<KeyValuePair<ScalarNode, Node>> Entries { get; } = entries;
    public override string Word => "a mapping";
}
