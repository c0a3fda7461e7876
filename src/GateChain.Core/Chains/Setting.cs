using System.Text.Encodings.Web;
using System.Text.Unicode;
using GateChain.Core.Expressions;
using GateChain.Core.Values;

namespace GateChain.Core.Chains;

/// <summary>A setting as the chain file has it, ready to be computed. Immutable.</summary>
public abstract class Setting(Span span)
{
    public Span Span { get; } = span;

    /// <summary>Its value, or an error that names the setting.</summary>
    public abstract Value Evaluate(IBindings names);

    /// <summary>Its value when no expression is in it; null otherwise.</summary>
    public virtual Value? Constant => null;
}

public sealed class LiteralSetting(Span span, Value value) : Setting(span)
{
    public Value Value { get; } = value;

    public override Value Evaluate(IBindings names) => Value;

    public override Value? Constant => Value;
}

/// <summary>Text with <c>${…}</c> in it.</summary>
/// <param name="span">Where it stands.</param>
/// <param name="template">The text.</param>
/// <param name="place">Where a part of the text stands in the file.</param>
/// <param name="isHtml">Whether what its expressions give is escaped.</param>
public sealed class TemplateSetting(Span span, Template template, Func<Span, Span> place, bool isHtml = false)
    : Setting(span)
{
    // Letters of all languages stay as they are: mails are UTF-8.
    static readonly HtmlEncoder Html = HtmlEncoder.Create(UnicodeRanges.All);

    public Template Template { get; } = template;

    /// <summary>The expressions in it, with their places in the file.</summary>
    public IEnumerable<SourceExpression> Expressions =>
        Template.Expressions.Select(e => new SourceExpression(e.Expression, part => place(part.Shift(e.Start))));

    public override Value Evaluate(IBindings names) => Template.Evaluate(names, isHtml ? Html.Encode : null);
}

/// <summary>An expression that stands bare.</summary>
public sealed class ExpressionSetting(Span span, SourceExpression at) : Setting(span)
{
    public SourceExpression At { get; } = at;

    public override Value Evaluate(IBindings names) => At.Expression.Evaluate(names);
}

/// <summary>
/// An expression that is not computed with the step's settings: the kind does it for each row. Its value is its text.
/// </summary>
public sealed class RowExpressionSetting(Span span, SourceExpression at, string text) : Setting(span)
{
    public SourceExpression At { get; } = at;

    public override Value Evaluate(IBindings names) => Value.String(text);

    public override Value? Constant { get; } = Value.String(text);
}

public sealed class ListSetting(Span span, IReadOnlyList<Setting> items) : Setting(span)
{
    public IReadOnlyList<Setting> Items { get; } = items;

    public override Value? Constant { get; } =
        items.All(i => i.Constant is not null) ? Value.List([.. items.Select(i => i.Constant!.Value)]) : null;

    public override Value Evaluate(IBindings names)
    {
        var values = new List<Value>(Items.Count);
        foreach (var item in Items)
        {
            var value = item.Evaluate(names);
            if (value.IsError)
                return value;
            values.Add(value);
        }
        return Value.List(values);
    }
}

public sealed class MapSetting(Span span, IReadOnlyList<KeyValuePair<string, Setting>> entries) : Setting(span)
{
    public IReadOnlyList<KeyValuePair<string, Setting>> Entries { get; } = entries;

    public static MapSetting Empty { get; } = new(default, []);

    public Setting? this[string name] => Entries.FirstOrDefault(e => e.Key == name).Value;

    /// <summary>Computed once: most settings of most steps hold no expression.</summary>
    public override Value? Constant { get; } =
        entries.All(e => e.Value.Constant is not null)
            ? MapOf(entries.Select(e => (e.Key, e.Value.Constant!.Value)).ToArray())
            : null;

    static Value MapOf((string, Value)[] values) => values.Length == 0 ? Value.EmptyMap : Value.Map(values);

    public override Value Evaluate(IBindings names)
    {
        if (Constant is { } constant)
            return constant;
        var values = new (string, Value)[Entries.Count];
        for (var i = 0; i < values.Length; i++)
        {
            var value = Entries[i].Value.Evaluate(names);
            if (value.IsError)
            {
                return Value.Error(
                    value.AsError with
                    {
                        Message = $"setting “{Entries[i].Key}”: {value.AsError.Message}",
                    }
                );
            }

            values[i] = (Entries[i].Key, value);
        }
        return MapOf(values);
    }
}
