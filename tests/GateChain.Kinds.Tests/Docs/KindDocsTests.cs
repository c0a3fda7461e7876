using System.Text;
using GateChain.Core.Chains.Kinds;
using GateChain.Core.Designing;
using GateChain.Core.Values;

namespace GateChain.Kinds.Tests.Docs;

/// <summary>
/// The parts of <c>docs/kinds</c> that are made from settings and catalogues. <c>make docs</c> writes them; otherwise a
/// difference fails.
/// </summary>
public class KindDocsTests
{
    public static TheoryData<string> Pages =>
        [
            .. KindDescriptions.Catalogue.All.Where(k => !k.IsControl).Select(k => k.Name),
            "control",
            "probes",
            "connections",
            "failures",
        ];

    [Theory]
    [MemberData(nameof(Pages))]
    public void ThePageIsWhatTheCatalogueSays(string page) =>
        MadeDocs.Hold(
            $"docs/kinds/{page}.md",
            page switch
            {
                "control" => string.Concat(KindDescriptions.Catalogue.All.Where(k => k.IsControl).Select(Control))
                    + Example(page),
                "probes" => string.Concat(
                    KindDescriptions
                        .Catalogue.Probes.OrderBy(p => p.Name, StringComparer.Ordinal)
                        .Select(p =>
                            $"\n## {p.Name}\n\n{p.Doc}\n{Settings("setting", p.Settings)}"
                            + $"{Outputs($"`probes.x` offers", p)}"
                        )
                ) + Example(page),
                "connections" => string.Concat(
                    AllConnections.Types.Select(t => $"\n## {t.Name}\n\n{t.Doc}\n{Settings("key", t.Settings)}")
                ),
                "failures" => Failures.Table(),
                _ => Settings("setting under `set`", KindDescriptions.Catalogue.Find(page)!.Settings)
                    + Outputs("`steps.x` offers", KindDescriptions.Catalogue.Find(page)!)
                    + Example(page),
            }
        );

    static string Control(KindDescription kind) =>
        $"\n## {kind.Name}\n\n{kind.Doc}\n"
        + $"{Settings("key of the step", SettingShape.Record([.. kind.StepKeys.Select(k => ChainShapes.OfKinds[k])]))}"
        + $"{Settings("setting under `set`", kind.Settings)}{Outputs("`steps.x` offers", kind)}";

    static string Settings(string head, SettingShape shape)
    {
        if (shape.Members.Count == 0)
            return "";
        var text = new StringBuilder($"\n| {head} | form | default | what it is |\n| --- | --- | --- | --- |\n");
        Rows(text, shape, "");
        return text.ToString();
    }

    static void Rows(StringBuilder text, SettingShape shape, string before)
    {
        foreach (var member in shape.Members)
        {
            var name = before + member.Name;
            var usual = member.Default is { } value ? ValueText.ToPlainString(value) : "";
            var wanted =
                member.Required ? "required"
                : usual.Length > 0 ? $"`{usual}`"
                : "";
            text.Append($"| `{name}` | {Form(member.Shape)} | {wanted} | {MadeDocs.Cell(member.Doc)} |\n");
            if (member.Shape.Form == SettingForm.Record && member.Shape.Name is null)
                Rows(text, member.Shape, name + ".");
            else if (member.Shape.Item is { Form: SettingForm.Record, Name: null } item)
                Rows(text, item, name + (member.Shape.Form == SettingForm.List ? "[]." : ".*."));
        }
    }

    static string Form(SettingShape shape) =>
        shape.Form switch
        {
            SettingForm.Choice => string.Join(", ", shape.Choices.Select(c => $"`{c}`"))
                + (shape.OrNumber ? ", a number" : ""),
            SettingForm.List => $"list of {Form(shape.Item ?? new(SettingForm.Any))}",
            SettingForm.Map => $"mapping to {Form(shape.Item ?? new(SettingForm.Any))}",
            SettingForm.Record => "mapping",
            SettingForm.TextOrFile => "text or `{file: name}`",
            SettingForm.RowExpression => "expression for each row",
            SettingForm.Any => "any",
            _ => shape.Form.ToString().ToLowerInvariant(),
        };

    static string Outputs(string head, KindDescription kind) =>
        kind.Outputs.Count == 0
            ? ""
            : $"\n{head} {string.Join(", ", kind.Outputs.Select(o => $"`{o.Key}` ({o.Value.WithParts})"))}.\n";

    static string Example(string name) =>
        $"\n## Example\n\n[`examples/{name}.chain.yaml`](examples/{name}.chain.yaml), "
        + "which the tests run:\n\n```yaml\n"
        + $"{File.ReadAllText(Path.Combine(MadeDocs.Root, $"docs/kinds/examples/{name}.chain.yaml")).Trim('\n')}"
        + "\n```\n";
}
