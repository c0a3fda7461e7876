using GateChain.Core.Chains.Kinds;
using GateChain.Core.Chains.Source;
using GateChain.Core.Expressions;
using GateChain.Core.Problems;
using GateChain.Core.Values;

namespace GateChain.Core.Chains.Reading;

/// <summary>Reads what stands under <c>set:</c> after the shape its kind gives.</summary>
static class SettingReader
{
    /// <param name="elsewhere">Where a key belongs that is no setting; null for no idea.</param>
    public static MapSetting Record(
        MappingNode map,
        SettingShape shape,
        ProblemList problems,
        string what,
        Func<string, string?>? elsewhere = null
    )
    {
        var entries = new List<KeyValuePair<string, Setting>>();
        foreach (var (key, node) in map.Entries)
        {
            if (shape.Members.FirstOrDefault(m => m.Name == key.Text) is not { } member)
            {
                problems.Add(
                    ProblemKinds.UnknownKey,
                    key.Span,
                    $"{what} has no setting “{key.Text}”",
                    elsewhere?.Invoke(key.Text)
                        ?? Nearest.Fix(key.Text, shape.Members.Select(m => m.Name))
                        ?? (
                            shape.Members.Count == 0
                                ? null
                                : "known here: " + string.Join(", ", shape.Members.Select(m => m.Name))
                        )
                );
            }
            else if (Read(node, member.Shape, problems, $"“{member.Name}”") is { } setting)
            {
                entries.Add(KeyValuePair.Create(member.Name, setting));
            }
        }
        foreach (var member in shape.Members.Where(m => m.Required && !map.Entries.Any(e => e.Key.Text == m.Name)))
        {
            problems.Add(
                ProblemKinds.MissingKey,
                new(map.Span.Start, map.Span.Start),
                $"{what} needs “{member.Name}”: {member.Doc}"
            );
        }

        var given = shape.OneOf.Where(name => map.Entries.Any(e => e.Key.Text == name)).ToList();
        if (shape.OneOf.Count > 0 && given.Count != 1)
        {
            problems.Add(
                ProblemKinds.MissingKey,
                new(map.Span.Start, map.Span.Start),
                $"{what} needs exactly one of {string.Join(", ", shape.OneOf)}, and has "
                    + $"{(given.Count == 0 ? "none" : string.Join(" and ", given))}"
            );
        }

        // A choice that is computed is only known when the step runs.
        foreach (
            var member in shape.Members.Where(m =>
                m.RequiredFor is not null && !map.Entries.Any(e => e.Key.Text == m.Name)
            )
        )
        {
            var (by, choices) = member.RequiredFor!.Value;
            if (
                entries.Find(e => e.Key == by).Value?.Constant is { Kind: ValueKind.String, AsString: var choice }
                && choices.Contains(choice)
            )
            {
                problems.Add(
                    ProblemKinds.MissingKey,
                    new(map.Span.Start, map.Span.Start),
                    $"{what} needs “{member.Name}” for {by}: {choice}: {member.Doc}"
                );
            }
        }
        return new(map.Span, entries);
    }

    public static Setting? Read(Node node, SettingShape shape, ProblemList problems, string what)
    {
        switch (shape.Form, node)
        {
            case (SettingForm.Expression, _):
                return MapReader.ExpressionOf(node, problems) is { } at ? new ExpressionSetting(node.Span, at) : null;
            case (SettingForm.RowExpression, _):
                return MapReader.ExpressionOf(node, problems) is { } perRow
                    ? new RowExpressionSetting(node.Span, perRow, ((ScalarNode)node).Text)
                    : null;
            case (SettingForm.Record, MappingNode map):
                return Record(map, shape, problems, what);
            case (SettingForm.TextOrFile, MappingNode map):
                return Record(
                    map,
                    SettingShape.Record(
                        new SettingMember("file", SettingShape.Text, true, null, "The name of an attachment.")
                    ),
                    problems,
                    what
                );
            case (SettingForm.Map, MappingNode map):
                return Entries(map, shape.Item!, problems);
            case (SettingForm.List, SequenceNode list):
                var items = list
                    .Items.Select(i => Read(i, shape.Item!, problems, $"an item of {what}"))
                    .OfType<Setting>()
                    .ToList();
                return new ListSetting(node.Span, items);
            case (SettingForm.Any, MappingNode map):
                return Entries(map, shape, problems);
            case (SettingForm.Any, SequenceNode list):
                return new ListSetting(
                    node.Span,
                    [.. list.Items.Select(i => Read(i, shape, problems, what)).OfType<Setting>()]
                );
            case (_, ScalarNode scalar):
                return Scalar(scalar, shape, problems, what);
            default:
                problems.Add(ProblemKinds.WrongShape, node.Span, $"{what} is {Words(shape)}, and this is {node.Word}");
                return null;
        }
    }

    static MapSetting Entries(MappingNode map, SettingShape item, ProblemList problems)
    {
        var entries = new List<KeyValuePair<string, Setting>>();
        foreach (var (key, value) in map.Entries)
        {
            if (Read(value, item, problems, $"“{key.Text}”") is { } setting)
                entries.Add(KeyValuePair.Create(key.Text, setting));
        }
        return new(map.Span, entries);
    }

    static Setting? Scalar(ScalarNode scalar, SettingShape shape, ProblemList problems, string what)
    {
        if (scalar.Text.Contains("${", StringComparison.Ordinal))
        {
            var (template, mistakes) = Template.Parse(scalar.Text);
            foreach (var mistake in mistakes)
                problems.Add(ProblemKinds.BadExpression, scalar.Within(mistake.Span), mistake.Said, mistake.Fix);
            return mistakes.Count > 0 ? null
                : template.IsLiteral ? new LiteralSetting(scalar.Span, Value.String(template.Literal))
                : new TemplateSetting(scalar.Span, template, scalar.Within, shape.IsHtml);
        }
        if (shape.Form is SettingForm.Text or SettingForm.TextOrFile or SettingForm.Attachment)
            return new LiteralSetting(scalar.Span, Value.String(scalar.Text));
        var (value, problem) = Conversion.To(shape.Type, PlainValues.Scalar(scalar));
        if (shape.Form == SettingForm.Choice && !shape.Choices.Contains(scalar.Text))
        {
            problems.Add(
                ProblemKinds.UnknownChoice,
                scalar.Span,
                $"{what} is one of {string.Join(", ", shape.Choices)}, and this is “{scalar.Text}”",
                Nearest.Fix(scalar.Text, shape.Choices)
            );
            return null;
        }
        if (value is null || shape.Form is SettingForm.Record)
        {
            problems.Add(ProblemKinds.WrongValue, scalar.Span, $"{what}: {problem ?? $"expected {Words(shape)}"}");
            return null;
        }
        // The setting stays: a release that had it before there was a bound can still be read.
        if (value.Value.Kind == ValueKind.Int && shape.RangeProblem(value.Value.AsInt) is { } misfit)
            problems.Add(ProblemKinds.WrongValue, scalar.Span, $"{what}: {misfit}");
        return new LiteralSetting(scalar.Span, value.Value);
    }

    static string Words(SettingShape shape) =>
        shape.Form switch
        {
            SettingForm.List => "a list",
            SettingForm.Map or SettingForm.Record => "a mapping",
            SettingForm.TextOrFile => "a text or {file: name}",
            _ => "a " + shape.Form.Word(),
        };
}
