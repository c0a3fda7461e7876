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

    /// <summary>The same, and where the text stops being YAML; null when it does not, or nowhere in particular.</summary>
    public static Node? Read(string text, ProblemList problems, out int? brokenAt)
    {
        brokenAt = null;
        if (text.Length > MaxLength)
        {
            problems.Add(ProblemKinds.TooBig, new(0, 0), "the file has more than 4 MiB");
            return null;
        }
        try
        {
            var parser = new YamlDotNet.Core.Parser(new StringReader(text));
            parser.Consume<StreamStart>();
            if (!parser.TryConsume<DocumentStart>(out _))
            {
                problems.Add(ProblemKinds.BadYaml, new(0, 0), "the file is empty");
                return null;
            }
            var root = ReadNode(parser, text, problems, 0);
            parser.Consume<DocumentEnd>();
            if (parser.TryConsume<DocumentStart>(out var second))
            {
                problems.Add(ProblemKinds.BadYaml, SpanOf(second), "a second document begins here; a file holds one");
            }
            return root;
        }
        catch (Exception e) when (e is YamlException or InvalidOperationException or ArgumentException or FormatException)
        {
            // The library gives other exceptions than its own for some broken texts.
            var start = (int)Math.Min((e as YamlException)?.Start.Index ?? 0, text.Length);
            brokenAt = start;
            problems.Add(ProblemKinds.BadYaml, new(start, start), "this is not YAML: " + Sentence(e));
            return null;
        }
    }

    static string Sentence(Exception e)
    {
        if (e is not YamlException) { return "it can't be read"; }
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
            throw new YamlException(parser.Current!.Start, parser.Current.End, "it is nested more than 100 levels deep");
        }
        if (parser.Current is Scalar or SequenceStart or MappingStart && parser.Current is NodeEvent { Anchor.IsEmpty: false } anchored)
        {
            problems.Add(ProblemKinds.Alias, SpanOf(anchored), "an anchor (&…) is not used in chain files", "write the content out");
        }
        switch (parser.Current)
        {
            case Scalar:
                return ReadScalar(parser.Consume<Scalar>(), text);
            case SequenceStart start:
                parser.MoveNext();
                var items = new List<Node>();
                while (parser.Current is not SequenceEnd) { items.Add(ReadNode(parser, text, problems, depth + 1)); }
                return new SequenceNode(new((int)start.Start.Index, (int)parser.Consume<SequenceEnd>().End.Index), items);
            case MappingStart start:
                parser.MoveNext();
                var entries = new List<KeyValuePair<ScalarNode, Node>>();
                var seen = new HashSet<string>();
                while (parser.Current is not MappingEnd)
                {
                    var key = ReadNode(parser, text, problems, depth + 1);
                    var value = ReadNode(parser, text, problems, depth + 1);
                    if (key is not ScalarNode name)
                    {
                        problems.Add(ProblemKinds.WrongShape, key.Span, $"a key is a text, and this is {key.Word}");
                    }
                    else if (!seen.Add(name.Text))
                    {
                        problems.Add(ProblemKinds.DoubleKey, name.Span, $"“{name.Text}” stands here a second time");
                    }
                    else
                    {
                        entries.Add(KeyValuePair.Create(name, value));
                    }
                }
                return new MappingNode(new((int)start.Start.Index, (int)parser.Consume<MappingEnd>().End.Index), entries);
            case AnchorAlias alias:
                problems.Add(ProblemKinds.Alias, SpanOf(alias), "an alias (*…) is not used in chain files", "write the content out");
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
        var verbatim = scalar.Style is ScalarStyle.Plain or ScalarStyle.SingleQuoted or ScalarStyle.DoubleQuoted
            && string.CompareOrdinal(text, start, scalar.Value, 0, scalar.Value.Length) == 0;
        return new(span, scalar.Value, scalar.Style == ScalarStyle.Plain, verbatim ? start : -1);
    }
}
