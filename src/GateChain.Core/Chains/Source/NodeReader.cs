using GateChain.Core.Expressions;
using GateChain.Core.Problems;
using YamlDotNet.Core;
using YamlDotNet.Core.Events;

namespace GateChain.Core.Chains.Source;

/// <summary>Reads YAML (and so JSON) into nodes that know their places. Never throws for bad input.</summary>
static class NodeReader
{
    internal const int MaxLength = 4 * 1024 * 1024;
    const int MaxDepth = 100;

    /// <summary>The root, or null after a problem has been added.</summary>
    public static Node? Read(string text, ProblemList problems) => Read(text, problems, out _);

    /// <summary>
    /// The same, and where the text stops being YAML; null when it does not, or nowhere in particular.
    /// </summary>
    public static Node? Read(string text, ProblemList problems, out int? brokenAt)
    {
        brokenAt = null;
        if (text.Length > MaxLength)
        {
            problems.Add(ProblemKinds.TooBig, new(0, 0), $"the file has more than 4 MiB");
            return null;
        }
        // Whoever decodes a file reads it over; in a text that comes otherwise it would become part of the first key.
        if (text.StartsWith('\uFEFF'))
        {
            problems.Add(
                ProblemKinds.BadYaml,
                new(0, 1),
                $"the text begins with a byte order mark; save it as UTF-8 without one",
                new Fix("remove it", "")
            );
            return null;
        }
        // What can't be in a YAML file, wherever it stands, and what texts of another encoding turn into.
        if (text.AsSpan().IndexOfAny('\0', '\uFFFD') is >= 0 and var strange)
        {
            Sentence message =
                text[strange] == '\0'
                    ? (Sentence)$"a NUL character stands here; the file is not a text"
                    : $"this character is not UTF-8; save the file as UTF-8";
            problems.Add(ProblemKinds.BadYaml, new(strange, strange + 1), message);
            brokenAt = strange;
            return null;
        }
        try
        {
            var parser = new YamlDotNet.Core.Parser(new StringReader(text));
            parser.Consume<StreamStart>();
            if (!parser.TryConsume<DocumentStart>(out _))
            {
                problems.Add(ProblemKinds.BadYaml, new(0, 0), $"the file is empty");
                return null;
            }
            var root = ReadNode(parser, text, problems, 0);
            parser.Consume<DocumentEnd>();
            if (parser.TryConsume<DocumentStart>(out var second))
                problems.Add(ProblemKinds.BadYaml, SpanOf(second), $"a second document begins here; a file holds one");

            return root;
        }
        catch (Exception e)
            when (e is YamlException or InvalidOperationException or ArgumentException or FormatException)
        {
            // The library gives other exceptions than its own for some broken texts.
            var start = (int)Math.Min((e as YamlException)?.Start.Index ?? 0, text.Length);
            if (TabIn(text, start) is { } tab)
            {
                brokenAt = tab;
                problems.Add(
                    ProblemKinds.BadYaml,
                    new(tab, tab + 1),
                    $"a tab stands at the beginning of the line; YAML indents with spaces"
                );
                return null;
            }
            brokenAt = start;
            problems.Add(ProblemKinds.BadYaml, new(start, start), $"this is not YAML: {InWords(e)}");
            return null;
        }
    }

    // The library tells where the block began, not where the tab is.
    static int? TabIn(string text, int from)
    {
        for (
            var line = from;
            line >= 0 && line < text.Length;
            line = text.IndexOf('\n', line) is >= 0 and var end ? end + 1 : text.Length
        )
        {
            var at = line;
            while (at < text.Length && text[at] == ' ')
                at++;
            if (at < text.Length && text[at] == '\t' && (line == 0 || text[line - 1] == '\n' || at > line))
                return at;
        }
        return null;
    }

    static string InWords(Exception e)
    {
        if (e is not YamlException)
            return "it can't be read";
        var message = (e.InnerException ?? e).Message;
        var colon = message.IndexOf("): ", StringComparison.Ordinal);
        message = (colon >= 0 ? message[(colon + 3)..] : message).TrimEnd('.');
        return message.Length > 0 ? char.ToLowerInvariant(message[0]) + message[1..] : "it can't be read";
    }

    static Span SpanOf(ParsingEvent e) => new((int)e.Start.Index, (int)e.End.Index);

    static Node ReadNode(IParser parser, string text, ProblemList problems, int depth)
    {
        if (depth > MaxDepth)
        {
            throw new YamlException(
                parser.Current!.Start,
                parser.Current.End,
                "it is nested more than 100 levels deep"
            );
        }

        if (
            parser.Current is Scalar or SequenceStart or MappingStart
            && parser.Current is NodeEvent { Anchor.IsEmpty: false } anchored
        )
        {
            problems.Add(
                ProblemKinds.Alias,
                SpanOf(anchored),
                $"an anchor (&…) is not used in chain files",
                "say once what steps have in common with defaults: { … }, at the chain or a container; "
                    + "else write the content out"
            );
        }

        switch (parser.Current)
        {
            case Scalar:
                return ReadScalar(parser.Consume<Scalar>(), text);
            case SequenceStart start:
                parser.MoveNext();
                var items = new List<Node>();
                while (parser.Current is not SequenceEnd)
                    items.Add(ReadNode(parser, text, problems, depth + 1));
                return new SequenceNode(
                    new((int)start.Start.Index, (int)parser.Consume<SequenceEnd>().End.Index),
                    items
                );
            case MappingStart start:
                parser.MoveNext();
                var entries = new List<KeyValuePair<ScalarNode, Node>>();
                var seen = new HashSet<string>();
                while (parser.Current is not MappingEnd)
                {
                    var key = ReadNode(parser, text, problems, depth + 1);
                    var value = ReadNode(parser, text, problems, depth + 1);
                    if (key is not ScalarNode name)
                        problems.Add(ProblemKinds.WrongShape, key.Span, $"a key is a text, and this is {key.Word}");
                    else if (!seen.Add(name.Text))
                        problems.Add(ProblemKinds.DoubleKey, name.Span, $"“{name.Text}” stands here a second time");
                    else
                        entries.Add(KeyValuePair.Create(name, value));
                }
                return new MappingNode(
                    new((int)start.Start.Index, (int)parser.Consume<MappingEnd>().End.Index),
                    entries
                );
            case AnchorAlias alias:
                problems.Add(
                    ProblemKinds.Alias,
                    SpanOf(alias),
                    $"an alias (*…) is not used in chain files",
                    "say once what steps have in common with defaults: { … }, "
                        + "at the chain or a container; else write the content out"
                );
                parser.MoveNext();
                return new ScalarNode(SpanOf(alias), "", true, -1);
            default:
                throw new YamlException(parser.Current!.Start, parser.Current.End, "something unexpected stands here");
        }
    }

    static ScalarNode ReadScalar(Scalar scalar, string text)
    {
        var span = SpanOf(scalar);
        var start = span.Start + (scalar.Style is ScalarStyle.SingleQuoted or ScalarStyle.DoubleQuoted ? 1 : 0);
        var verbatim =
            scalar.Style is ScalarStyle.Plain or ScalarStyle.SingleQuoted or ScalarStyle.DoubleQuoted
            && string.CompareOrdinal(text, start, scalar.Value, 0, scalar.Value.Length) == 0;
        if (
            scalar.Style is ScalarStyle.Literal or ScalarStyle.Folded
            && BlockOffsets(text, span, scalar.Value) is { } offsets
        )
        {
            return new(span, scalar.Value, false, offsets);
        }
        return new(span, scalar.Value, scalar.Style == ScalarStyle.Plain, verbatim ? start : -1);
    }

    // Where each character of a block scalar stands: line by line, the indentation left out; null when they do not
    // follow each other so.
    static int[]? BlockOffsets(string text, Span span, string value)
    {
        var offsets = new int[value.Length + 1];
        var at = text.IndexOf('\n', span.Start) + 1;
        for (var i = 0; i < value.Length; i++)
        {
            if (at >= text.Length)
                return null;
            // Folding makes blanks of line ends, and drops some; what does not stand there itself is taken for the line
            // end.
            while (at < text.Length && text[at] != value[i])
            {
                if (text[at] is not (' ' or '\r' or '\n' or '\t'))
                    return null;
                if (value[i] is ' ' && text[at] == '\n')
                    break;
                at++;
            }
            offsets[i] = at;
            if (at < text.Length)
                at++;
        }
        offsets[value.Length] = Math.Min(at, text.Length);
        return offsets;
    }
}
