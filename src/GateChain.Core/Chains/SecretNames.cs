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

    /// <summary>The sentence for a secret that nobody has set.</summary>
    public static string Unset(string name) => $"there is no secret “{name}”";

    /// <summary>The command that sets it.</summary>
    public static string HowToSet(string name) => $"set it: gatechain secret set {name}";
}
