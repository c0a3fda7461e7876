using GateChain.Core.Chains;

namespace GateChain.Kinds.Connections;

/// <summary>Values that are never shown. Thread-safe.</summary>
public interface ISecrets
{
    /// <summary>What begins a value that stands for a secret: <c>secret:warehouse</c>.</summary>
    const string Prefix = SecretNames.Prefix;

    /// <summary>The value, or null when there is none of that name.</summary>
    string? Find(string name);

    /// <summary>
    /// Has a value hidden that was only got while working, such as a token: from here on it is shown nowhere.
    /// </summary>
    void Hide(string value) { }
}

/// <summary>A value names a secret that nobody has set.</summary>
public sealed class MissingSecretException(string name) : Exception(SecretNames.Unset(name))
{
    public string Name { get; } = name;
}

/// <summary>Puts secrets in the place of their names.</summary>
public static class SecretText
{
    /// <summary>The text itself, or the secret that it names.</summary>
    /// <exception cref="MissingSecretException">It names one that is not there.</exception>
    public static string Resolve(string text, ISecrets secrets) =>
        NameIn(text) is { } name ? secrets.Find(name) ?? throw new MissingSecretException(name) : text;

    /// <summary>The secret that a text names; null for a plain text.</summary>
    public static string? NameIn(string text) => SecretNames.In(text);
}
