using System.Net;
using GateChain.Core.Expressions;
using GateChain.Core.Values;
using GateChain.Kinds.Contract;
using GateChain.Kinds.Settings;

namespace GateChain.Kinds.Notify;

/// <summary>
/// Texts of mails. What stands in the chain file is computed with the step's settings; what is an attachment is a
/// template of its own.
/// </summary>
static class MailText
{
    /// <summary>The text; null without a setting.</summary>
    /// <param name="setting">The text, or the attachment that holds it.</param>
    /// <param name="bind">What a template's expressions see as <c>bind</c>.</param>
    /// <param name="html">Whether values are escaped.</param>
    /// <exception cref="StepFailedException">The attachment is missing, or an expression in it fails.</exception>
    public static string? Of(
        TextOrFile? setting,
        IReadOnlyDictionary<string, Value> bind,
        bool html,
        AttemptContext context
    )
    {
        if (setting is null || setting.Text is not null)
            return setting?.Text;
        var text = context.Read(setting)
            ?? throw new StepFailedException(
                "no-file",
                $"the attachment “{setting.File}” is missing",
                "Push the workspace with the file beside the chain."
            );
        var (template, mistakes) = Template.Parse(text);
        if (mistakes.Count > 0)
            throw new StepFailedException("template", $"{setting.File}: {mistakes[0].Message}", "Nothing was sent.");
        var values = bind.Select(b => KeyValuePair.Create(b.Key, html ? Escaped(b.Value) : b.Value));
        var result = template.Evaluate(
            new DictionaryBindings(new Dictionary<string, Value> { ["bind"] = Value.Map(DictionaryMap.Of(values)) })
        );
        return result.IsError
            ? throw new StepFailedException(
                "template",
                $"{setting.File}: {result.AsError.Message}",
                "Nothing was sent. A template sees only what “bind” gives it."
            )
            : ValueText.ToPlainString(result);
    }

    static Value Escaped(Value value) =>
        value.Kind switch
        {
            ValueKind.String => Value.String(WebUtility.HtmlEncode(value.AsString)),
            ValueKind.List => Value.List([.. value.AsList.Select(Escaped)]),
            ValueKind.Map => Value.Map(
                DictionaryMap.Of(
                    value.AsMap.Entries.Select(e =>
                        KeyValuePair.Create(WebUtility.HtmlEncode(ValueText.ToPlainString(e.Key)), Escaped(e.Value))
                    )
                )
            ),
            _ => value,
        };
}
