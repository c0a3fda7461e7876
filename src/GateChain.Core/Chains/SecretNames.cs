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

    /// <summary>The command that sets it.</summary>
    public static string HowToSet(string name) => $"set it: gatechain secret set {name}";
}
