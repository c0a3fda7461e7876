using System.Net;
using System.Text;
using System.Text.Json;
using GateChain.Core.Chains;
using GateChain.Core.Running;
using GateChain.Core.Running.Events;
using GateChain.Core.Values;

namespace GateChain.Engine.Secrets;

/// <summary>
/// Puts <c>••••••</c> in the place of secrets, plain or as they stand in addresses, JSON or base64. Immutable.
/// </summary>
public sealed class SecretMask
{
    /// <summary>Shorter values are not taken for secrets.</summary>
    public const int Shortest = 6;

    readonly string[] _forms;

    /// <param name="secrets">What is hidden.</param>
    public SecretMask(IEnumerable<string> secrets) =>
        // A secret of several lines shows line by line in a log. Longer ones first: one may hold another.
        _forms = [
            .. secrets
                .SelectMany(s => s.Split('\n', StringSplitOptions.TrimEntries).Append(s))
                .Where(s => s.Length >= Shortest)
                .SelectMany(s =>
                    (string[])
                        [
                            s,
                            Uri.EscapeDataString(s),
                            WebUtility.UrlEncode(s),
                            WebUtility.HtmlEncode(s),
                            s.Replace("/", "\\/", StringComparison.Ordinal),
                            .. Base64(s),
                            JsonSerializer.Serialize(s)[1..^1],
                            s.Replace("\\", "\\\\", StringComparison.Ordinal)
                                .Replace("\"", "\\\"", StringComparison.Ordinal),
                        ]
                )
                .Distinct()
                .OrderByDescending(s => s.Length),
        ];

    // Within a longer text, as “user:password” is, base64 shifts by up to two characters; what surely stands for the
    // secret itself is hidden.
    static IEnumerable<string> Base64(string secret)
    {
        var bytes = Encoding.UTF8.GetBytes(secret);
        for (var shift = 0; shift < 3; shift++)
        {
            var coded = Convert.ToBase64String([.. new byte[shift], .. bytes]);
            // The first characters mix with what stands before, the last ones with what follows.
            var (from, to) = (shift == 0 ? 0 : shift + 1, (shift + bytes.Length) * 8 / 6);
            if (shift == 0)
                yield return coded;
            if (to - from >= Shortest)
                yield return coded[from..to];
        }
    }

    /// <summary>The text with <c>••••••</c> in the place of every secret.</summary>
    public string Text(string text)
    {
        foreach (var form in _forms)
        {
            if (text.Contains(form, StringComparison.Ordinal))
                text = text.Replace(form, SecretNames.Hidden, StringComparison.Ordinal);
        }
        return text;
    }

    string? Maybe(string? text) => text is null ? null : Text(text);

    /// <summary>The value with <c>••••••</c> in the place of every secret.</summary>
    public Value Of(Value value) =>
        _forms.Length == 0
            ? value
            : value.Kind switch
            {
                ValueKind.String => Value.String(Text(value.AsString)),
                ValueKind.List => Value.List([.. value.AsList.Select(Of)]),
                ValueKind.Map => Value.Map(
                    DictionaryMap.Of(
                        value.AsMap.Entries.Select(e =>
                            KeyValuePair.Create(ValueText.ToPlainString(Of(e.Key)), Of(e.Value))
                        )
                    )
                ),
                _ => value,
            };

    /// <summary>The result with <c>••••••</c> in the place of every secret.</summary>
    public AttemptResult Of(AttemptResult result) =>
        _forms.Length == 0
            ? result
            : result with
            {
                Outputs = Of(result.Outputs),
                Error = result.Error is { } e ? new StepError(e.Code, Text(e.Message), Maybe(e.Detail)) : null,
                Warnings = result.Warnings?.Select(Text).ToList(),
            };
}
