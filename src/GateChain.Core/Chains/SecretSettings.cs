using System.Text.RegularExpressions;
using GateChain.Core.Chains.Kinds;
using GateChain.Core.Expressions;
using GateChain.Core.Values;

namespace GateChain.Core.Chains;

/// <summary>
/// Finds what nobody should read in settings: passwords, tokens and keys, headers that say who asks, and passwords
/// within addresses. Texts of the form <c>secret:name</c> only name one, and are shown.
/// </summary>
public static partial class SecretSettings
{
    /// <summary>The value with <c>••••••</c> in the place of what is secret in it.</summary>
    /// <param name="shape">The value's shape.</param>
    /// <param name="value">The value.</param>
    public static Value Hide(SettingShape shape, Value value) =>
        value.Kind switch
        {
            ValueKind.Map => Value.Map([
                .. value.AsMap.Entries.Select(e =>
                {
                    var key = ValueText.ToPlainString(e.Key);
                    return (key, Hide(Inner(shape, key), e.Value));
                }),
            ]),
            ValueKind.List => Value.List([.. value.AsList.Select(i => Hide(shape.Each, i))]),
            ValueKind.String when SecretNames.In(value.AsString) is not null => value,
            ValueKind.Null => value,
            _ when shape.IsSecret => Value.String(SecretNames.Hidden),
            ValueKind.String => Value.String(PasswordInAddress().Replace(value.AsString, $"$1{SecretNames.Hidden}@")),
            _ => value,
        };

    /// <summary>The settings that stand plainly though nobody should read them, with their places.</summary>
    public static IEnumerable<(string Key, Span Span)> In(Step step) => In("set", step.Settings, step.Kind.Settings);

    static IEnumerable<(string Key, Span Span)> In(string key, Setting setting, SettingShape shape) =>
        setting switch
        {
            MapSetting map => map.Entries.SelectMany(e => In(e.Key, e.Value, Inner(shape, e.Key))),
            ListSetting list => list.Items.SelectMany(i => In(key, i, shape.Each)),
            LiteralSetting literal when !Hide(shape, literal.Value).Equals(literal.Value) => [(key, literal.Span)],
            _ => [],
        };

    /// <summary>
    /// The expressions of a step that are a whole entry where a secret may stand, and so may be a secret parameter.
    /// </summary>
    public static IEnumerable<Expression> Places(Step step) =>
        step
            .Settings.Entries.Where(e => step.Kind.Settings.Under(e.Key).TakesSecrets)
            .SelectMany(e => e.Value is MapSetting map ? map.Entries.Select(i => i.Value) : [])
            .OfType<TemplateSetting>()
            .Select(t => t.Template.Single)
            .OfType<Expression>();

    static SettingShape Inner(SettingShape shape, string key)
    {
        var inner = shape.Under(key);
        // Of a map that may hold credentials, those that are called so.
        return shape is { IsSecret: true, Form: SettingForm.Map }
            ? inner with
            {
                IsSecret = CredentialName().IsMatch(key),
            }
            : inner;
    }

    [GeneratedRegex(
        "auth|cookie|token|secret|passw|signature|api-?key|(?<!idempotency)[-_]key$",
        RegexOptions.IgnoreCase | RegexOptions.CultureInvariant
    )]
    private static partial Regex CredentialName();

    [GeneratedRegex(@"(://[^/?#\s:@]*:)[^/?#\s]+@")]
    private static partial Regex PasswordInAddress();
}
