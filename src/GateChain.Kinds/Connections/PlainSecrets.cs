using System.Text.RegularExpressions;
using GateChain.Core.Values;

namespace GateChain.Kinds.Connections;

/// <summary>
/// Finds what nobody should read in the settings of a connection: passwords, tokens and keys, headers that say who
/// asks, and passwords within addresses. Texts of the form <c>secret:name</c> only name one, and are shown.
/// </summary>
public static partial class PlainSecrets
{
    static readonly string[] Keys = ["password", "token", "clientSecret", "privateKey", "passphrase"];

    /// <summary>Whether the whole value of a key is secret.</summary>
    public static bool IsKey(string key) => Keys.Contains(key);

    /// <summary>The value with <c>••••••</c> in the place of what is secret in it.</summary>
    public static Value Hide(string key, Value value)
    {
        if (value.Kind == ValueKind.Map && key == "headers")
        {
            return Value.Map([
                .. value.AsMap.Entries.Select(e =>
                    (
                        ValueText.ToPlainString(e.Key),
                        Hidable(SecretHeader().IsMatch(ValueText.ToPlainString(e.Key)), e.Value)
                    )
                ),
            ]);
        }

        return Hidable(IsKey(key), value);
    }

    static Value Hidable(bool isSecret, Value value)
    {
        if (value.Kind is ValueKind.Map or ValueKind.List && !isSecret)
            return value;
        var text = ValueText.ToPlainString(value);
        if (SecretText.NameIn(text) is not null)
            return value;
        if (isSecret)
            return Value.String(SecretText.Hidden);
        return PasswordInAddress().IsMatch(text)
            ? Value.String(PasswordInAddress().Replace(text, $"$1{SecretText.Hidden}@"))
            : value;
    }

    [GeneratedRegex(
        "auth|cookie|key|token|secret|password|signature",
        RegexOptions.IgnoreCase | RegexOptions.CultureInvariant
    )]
    private static partial Regex SecretHeader();

    [GeneratedRegex(@"(://[^/?#\s:@]*:)[^/?#\s]+@")]
    private static partial Regex PasswordInAddress();
}
