using GateChain.Core.Expressions;
using GateChain.Core.Values;

namespace GateChain.Core.Chains;

/// <summary>Texts that stand for a secret: <c>secret:warehouse</c>.</summary>
public static class SecretNames
{
    /// <summary>What such a text begins with.</summary>
    public const string Prefix = "secret:";

    /// <summary>What is shown in the place of a secret.</summary>
    public const string Hidden = "••••••";

    /// <summary>The secret that a text names; null for a plain text.</summary>
    public static string? In(string text) =>
        text.StartsWith(Prefix, StringComparison.Ordinal) ? text[Prefix.Length..] : null;

    /// <summary>The secrets that the settings of a step name, with the setting.</summary>
    public static IEnumerable<(string Name, LiteralSetting Setting)> In(Step step) =>
        Literals(step.Settings)
            .Select(s => (Name: s.Value.Kind == ValueKind.String ? In(s.Value.AsString) : null, Setting: s))
            .Where(s => s.Name is not null)
            .Select(s => (s.Name!, s.Setting));

    /// <summary>
    /// The secrets that a chain names, each with the place of one mention: in settings, as what is given to a child's
    /// parameter, and as defaults of its own.
    /// </summary>
    public static IEnumerable<(string Name, Span Span)> In(Chain chain) =>
        chain
            .AllSteps.SelectMany(s => In(s).Select(n => (n.Name, n.Setting.Span)).Concat(Given(s)))
            .Concat(
                chain
                    .Parameters.Where(p => p.IsSecret && p.Default is { Kind: ValueKind.String })
                    .Select(p => (Name: In(p.Default!.Value.AsString), p.Span))
                    .Where(p => p.Name is not null)
                    .Select(p => (p.Name!, p.Span))
            );

    static IEnumerable<(string Name, Span Span)> Given(Step step) =>
        (step.Call?.Inputs ?? [])
            .Select(i => (Name: i.Expression.Tree is LiteralExpr literal ? In(literal) : null, i.ExpressionAt.All))
            .Where(i => i.Name is not null)
            .Select(i => (i.Name!, i.All));

    /// <summary>The secret that a literal of an expression names; null for any other.</summary>
    internal static string? In(LiteralExpr literal) =>
        literal.Value.Kind == ValueKind.String ? In(literal.Value.AsString) : null;

    static IEnumerable<LiteralSetting> Literals(Setting setting) =>
        setting switch
        {
            LiteralSetting literal => [literal],
            ListSetting list => list.Items.SelectMany(Literals),
            MapSetting map => map.Entries.SelectMany(e => Literals(e.Value)),
            _ => [],
        };

    /// <summary>The sentence for a secret that nobody has set.</summary>
    public static string Unset(string name) => $"there is no secret “{name}”";

    /// <summary>What a name begins with whose secret stands in a file of the machine: <c>file:warehouse</c>.</summary>
    public const string FilePrefix = "file:";

    /// <summary>How it is set.</summary>
    public static string HowToSet(string name) =>
        name.StartsWith(FilePrefix, StringComparison.Ordinal)
            ? $"put it into the file {name[FilePrefix.Length..]} of the folder that serve --secrets names"
            : $"set it: gatechain secret set {name}";
}
