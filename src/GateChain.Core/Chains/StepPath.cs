using System.Globalization;

namespace GateChain.Core.Chains;

/// <summary>
/// Names a step or a scope: its own id behind those of all that it lies in, with <c>/</c> between them. An iteration,
/// a round or the number of a handler stands in brackets; a handler begins with <c>@</c>: <c>depots[2]/load</c>,
/// <c>@failure[1]/mail</c>. Without numbers it is an address, a place of the chain: <c>depots/load</c>. The empty one
/// is the chain's own scope. Any text can be looked at so; one that names nothing is found nowhere. Immutable.
/// </summary>
/// <param name="Text">As it is written.</param>
public readonly record struct StepPath(string Text)
{
    /// <summary>One part of a path.</summary>
    /// <param name="Text">As it is written.</param>
    /// <param name="Name">The id of a step; of a handler the word of its occasion, without the <c>@</c>.</param>
    /// <param name="IsHandler">Whether it is a handler.</param>
    /// <param name="Index">The number in brackets; null for none.</param>
    public readonly record struct Part(string Text, string Name, bool IsHandler, int? Index);

    /// <summary>The parts, outermost first; none for the chain's own scope.</summary>
    public IEnumerable<Part> Parts => Text.Length == 0 ? [] : Text.Split('/').Select(PartOf);

    static Part PartOf(string text)
    {
        var isHandler = text.StartsWith('@');
        var name = isHandler ? 1 : 0;
        var bracket = text.IndexOf('[', StringComparison.Ordinal);
        return
            bracket > name
            && text.EndsWith(']')
            && int.TryParse(
                text.AsSpan((bracket + 1)..^1),
                NumberStyles.None,
                CultureInfo.InvariantCulture,
                out var index
            )
            ? new(text, text[name..bracket], isHandler, index)
            : new(text, text[name..], isHandler, null);
    }

    /// <summary>What it lies in; empty for the chain's own scope.</summary>
    public StepPath Scope => new(Text.LastIndexOf('/') is >= 0 and var slash ? Text[..slash] : "");

    /// <summary>The last part, as it is written: for an address the id of the step.</summary>
    public string Last => Text[(Text.LastIndexOf('/') + 1)..];

    /// <summary>The number in brackets at its end; null for none.</summary>
    public int? Index => Text.Length == 0 ? null : PartOf(Last).Index;

    /// <summary>The same without the number at its end: of an iteration, the step that it is one of.</summary>
    public StepPath Owner => Index is null ? this : new(Text[..Text.LastIndexOf('[')]);

    /// <summary>The place in the chain: the same without any numbers.</summary>
    public StepPath Address =>
        Text.Contains('[', StringComparison.Ordinal)
            ? new(string.Join('/', Parts.Select(p => p.IsHandler ? $"@{p.Name}" : p.Name)))
            : this;

    /// <summary>The path of a step of this scope.</summary>
    /// <param name="id">The step's id.</param>
    public StepPath Then(string id) => new(Text.Length == 0 ? id : $"{Text}/{id}");

    /// <summary>Whether it lies in a step or scope, however deep; nothing lies in itself.</summary>
    public bool IsWithin(StepPath outer) =>
        outer.Text.Length == 0
            ? Text.Length > 0
            : Text.Length > outer.Text.Length
                && Text.StartsWith(outer.Text, StringComparison.Ordinal)
                && Text[outer.Text.Length] is '/' or '[';

    /// <summary>What is left of it behind a step or scope; null when it does not lie directly behind that.</summary>
    public StepPath? Behind(StepPath outer) =>
        outer.Text.Length == 0 ? this
        : Text.Length > outer.Text.Length
        && Text.StartsWith(outer.Text, StringComparison.Ordinal)
        && Text[outer.Text.Length] == '/'
            ? new(Text[(outer.Text.Length + 1)..])
        : null;

    /// <summary>All that it lies in but the chain's own scope, the innermost first.</summary>
    public IEnumerable<StepPath> Outer
    {
        get
        {
            for (var at = Scope; at.Text.Length > 0; at = at.Scope)
                yield return at;
        }
    }

    /// <summary>As it is written.</summary>
    public override string ToString() => Text;
}
