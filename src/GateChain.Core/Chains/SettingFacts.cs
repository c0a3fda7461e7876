using GateChain.Core.Values;

namespace GateChain.Core.Chains;

/// <summary>
/// What a step does, off its settings, in a few words. The twin of <c>tells.ts</c> in the console: both are held to
/// <c>tests/cases/labels.json</c>.
/// </summary>
static class SettingFacts
{
    // The rest has no room below a title.
    const int Most = 60;

    /// <summary>The fact; null when no setting that it tells of is there.</summary>
    /// <param name="template">As <see cref="Kinds.KindDescription.Tells"/> says.</param>
    /// <param name="settings">What stands under <c>set</c>.</param>
    public static string? Of(string template, MapSetting settings)
    {
        var parts = template
            .Split(" → ")
            .Select(part =>
                string.Join(
                    ' ',
                    part.Split(' ')
                        .Select(word => word.StartsWith('{') ? First(word[1..^1].Split('|'), settings) : word)
                        .Where(word => word.Length > 0)
                )
            )
            .Where(part => part.Length > 0);
        var text = string.Join(" → ", parts);
        return text.Length == 0 ? null
            : text.Length > Most ? $"{text[..(Most - 1)]}…"
            : text;
    }

    static string First(IEnumerable<string> paths, MapSetting settings) =>
        paths
            .Select(path => Words(path.Split('.').Aggregate((Setting?)settings, (at, key) => (at as MapSetting)?[key])))
            .FirstOrDefault(words => words.Length > 0)
        ?? "";

    // Of a text its first line, of a file its name, of a list its words.
    static string Words(Setting? setting) =>
        setting switch
        {
            LiteralSetting { Value: { Kind: ValueKind.Duration } value } => TimeText.Setting(value.AsTimeSpan),
            LiteralSetting literal => Line(ValueText.ToPlainString(literal.Value)),
            TemplateSetting template => Line(template.Template.Text),
            ExpressionSetting expression => Line(expression.At.Expression.Text),
            RowExpressionSetting row => Line(row.At.Expression.Text),
            ListSetting list => string.Join(' ', list.Items.Select(Words).Where(w => w.Length > 0)),
            MapSetting map => Words(map["file"]).Split('/')[^1],
            _ => "",
        };

    static string Line(string text) => text.Trim().Split('\n')[0].Trim();
}
