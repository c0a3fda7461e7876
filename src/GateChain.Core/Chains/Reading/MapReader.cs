using GateChain.Core.Chains.Source;
using GateChain.Core.Expressions;
using GateChain.Core.Problems;
using GateChain.Core.Values;

namespace GateChain.Core.Chains.Reading;

/// <summary>
/// Takes the keys of one mapping, each once, says what is wrong with them, and at the end which are unknown.
/// </summary>
sealed class MapReader(MappingNode map, ProblemList problems, string what)
{
    readonly HashSet<string> _known = [];

    public MappingNode Map => map;
    public ProblemList Problems => problems;
    public string What => what;

    /// <summary>The mapping of a node; null with a problem when it is none.</summary>
    public static MapReader? Of(Node? node, ProblemList problems, string what)
    {
        if (node is MappingNode mapping)
            return new(mapping, problems, what);
        if (node is not null)
            problems.Add(ProblemKinds.WrongShape, node.Span, $"{what} is a mapping, and this is {node.Word}");
        return null;
    }

    public Node? Take(string key)
    {
        _known.Add(key);
        foreach (var (name, value) in map.Entries)
        {
            if (name.Text == key)
                return value;
        }
        return null;
    }

    public Span KeySpan(string key) => map.Entries.FirstOrDefault(e => e.Key.Text == key).Key?.Span ?? map.Span;

    public MapReader? Inner(string key) => Of(Take(key), problems, $"“{key}”");

    public SequenceNode? List(string key)
    {
        var node = Take(key);
        if (node is null or SequenceNode)
            return (SequenceNode?)node;
        Wrong(node, $"“{key}” is a list, and this is {node.Word}");
        return null;
    }

    public ScalarNode? Scalar(string key)
    {
        var node = Take(key);
        if (node is null or ScalarNode)
            return (ScalarNode?)node;
        Wrong(node, $"“{key}” is a text, and this is {node.Word}");
        return null;
    }

    /// <summary>The texts of a key that has one or a list of them; none when it is absent.</summary>
    public IReadOnlyList<ScalarNode> OneOrMore(string key)
    {
        switch (Take(key))
        {
            case null:
                return [];
            case ScalarNode { IsNull: false } one:
                return [one];
            case SequenceNode list:
                var found = new List<ScalarNode>();
                foreach (var item in list.Items)
                {
                    if (item is ScalarNode { IsNull: false } scalar)
                        found.Add(scalar);
                    else
                        Wrong(item, $"“{key}” holds texts, and this is {item.Word}");
                }
                return found;
            case var other:
                Wrong(other, $"“{key}” is a text or a list of texts, and this is {other.Word}");
                return [];
        }
    }

    public ScalarNode? RequiredScalar(string key)
    {
        if (Take(key) is null)
            problems.Add(ProblemKinds.MissingKey, new(map.Span.Start, map.Span.Start), $"{what} needs “{key}”");

        return Scalar(key);
    }

    public string? Text(string key) => Scalar(key)?.Text;

    public bool Flag(string key)
    {
        var node = Take(key);
        if (node is null)
            return false;
        if (PlainValues.Of(node) is { Kind: ValueKind.Bool } value)
            return value.AsBool;
        Wrong(node, $"“{key}” is true or false");
        return false;
    }

    public double Number(string key, double absent, double min, double max, bool whole)
    {
        var node = Take(key);
        if (node is null)
            return absent;
        var value = PlainValues.Of(node);
        if (
            value.IsNumber
            && value.ToDouble() >= min
            && value.ToDouble() <= max
            && (!whole || value.Kind == ValueKind.Int)
        )
        {
            return value.ToDouble();
        }
        Wrong(node, $"“{key}” is a {(whole ? "whole " : "")}number from {min} to {max}");
        return absent;
    }

    /// <summary>A time zone by its IANA name; UTC when it is absent, or there is none of that name.</summary>
    public TimeZoneInfo Zone(string key)
    {
        if (Scalar(key) is not { } named)
            return TimeZoneInfo.Utc;
        if (TimeZoneInfo.TryFindSystemTimeZoneById(named.Text, out var zone) && zone.HasIanaId)
            return zone;
        Problems.Add(
            ProblemKinds.WrongValue,
            named.Span,
            $"there is no time zone “{named.Text}”",
            "zones have IANA names, for example Europe/Dublin"
        );
        return TimeZoneInfo.Utc;
    }

    public TimeSpan? Duration(string key)
    {
        var node = Take(key);
        if (node is null)
            return null;
        if (node is ScalarNode scalar && TimeText.ParseSetting(scalar.Text) is { } span)
            return span;
        var given = (node as ScalarNode)?.Text;
        Wrong(
            node,
            $"“{key}” is a duration such as 300ms, 5s, 10m, 2h or 1d"
                + $"{(given is null ? $", and this is {node.Word}" : $"; “{given}” is none{DurationHint(given)}")}"
        );
        return null;
    }

    static string DurationHint(string given) =>
        given.StartsWith('P')
        && given.AsSpan().IndexOfAny('M', 'Y') > 0
        && !given.Contains('T', StringComparison.Ordinal)
            ? " (months and years have no fixed length; minutes are written PT5M, or 5m)"
        : given.All(char.IsAsciiDigit) && given.Length > 0 ? $" (write {given}s or {given}m)"
        : given.TrimEnd('n', 'i', 's', 'e', 'c', 'o', 'd', 'u', 't', 'r') is { Length: > 1 } stem
        && stem != given
        && TimeText.ParseSetting(stem) is not null
            ? $" (write {stem})"
        : "";

    /// <summary>One of the words, or the absent one.</summary>
    public T Choice<T>(string key, T absent, params ReadOnlySpan<(string Word, T Value)> choices)
    {
        if (Scalar(key) is not { } scalar)
            return absent;
        var words = new List<string>();
        foreach (var (word, value) in choices)
        {
            if (word == scalar.Text)
                return value;
            words.Add(word);
        }
        problems.Add(
            ProblemKinds.UnknownChoice,
            scalar.Span,
            $"“{key}” is one of {string.Join(", ", words)}, and this is “{scalar.Text}”",
            Nearest.Fix(scalar.Text, words)
        );
        return absent;
    }

    public SourceExpression? Expression(string key) => Take(key) is { } node ? ExpressionOf(node, problems) : null;

    /// <summary>Reads a node as an expression: bare text, or a number or bool that stands for itself.</summary>
    public static SourceExpression? ExpressionOf(Node node, ProblemList problems)
    {
        if (node is not ScalarNode scalar || scalar.IsNull)
        {
            problems.Add(ProblemKinds.WrongShape, node.Span, $"an expression is written here, and this is {node.Word}");
            return null;
        }
        var (expression, problem) = Expressions.Expression.Parse(scalar.Text);
        if (problem is not null)
            problems.Add(ProblemKinds.BadExpression, scalar.Within(problem.Span), problem.Said, problem.Fix);
        return expression is null ? null : new(expression, scalar.Within);
    }

    /// <summary>Whether anybody asked for the key.</summary>
    public bool Knows(string key) => _known.Contains(key);

    /// <summary>Adds a problem for each key nobody asked for.</summary>
    /// <param name="fix">Where a key belongs instead; null for no idea.</param>
    public void End(Func<string, string?>? fix = null)
    {
        foreach (var (key, _) in map.Entries)
        {
            if (!_known.Contains(key.Text))
            {
                problems.Add(
                    ProblemKinds.UnknownKey,
                    key.Span,
                    $"{what} has no key “{key.Text}”",
                    fix?.Invoke(key.Text) ?? Nearest.Fix(key.Text, _known) ?? $"known here: {string.Join(", ", _known)}"
                );
            }
        }
    }

    void Wrong(Node node, Sentence message) => problems.Add(ProblemKinds.WrongShape, node.Span, message);
}
