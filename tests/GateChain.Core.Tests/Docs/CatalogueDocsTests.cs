using System.Text;
using GateChain.Core.Expressions;
using GateChain.Core.Problems;
using GateChain.Core.Tests.Chains;
using GateChain.Core.Values;
using GateChain.Tests;
using static GateChain.Tests.MadeDocs;

namespace GateChain.Core.Tests.Docs;

/// <summary>
/// The parts of <c>docs/expressions.md</c> and <c>docs/problems.md</c> that are made from the catalogues, each entry
/// with a worked example. <c>make docs</c> writes them; otherwise a difference fails.
/// </summary>
public class CatalogueDocsTests
{
    [Fact]
    public void EveryFunctionHasAnExampleThatWorks()
    {
        string[] parsed =
        [
            "&&, ||",
            "? :",
            "has",
            "all",
            "exists",
            "exists_one",
            "filter",
            "map",
            "transformList",
            "transformMap",
            "transformMapEntry",
            "sortBy",
            "optMap",
            "optFlatMap",
            "cel.bind",
        ];
        var documented = FunctionDocs.All.Select(d => d.Name).ToList();
        Assert.Equal(
            Functions.Names.Order(StringComparer.Ordinal),
            documented.Except(parsed).Order(StringComparer.Ordinal)
        );
        Assert.Equal(documented.Count, documented.Distinct().Count());
        foreach (var doc in FunctionDocs.All)
            Assert.False(Evaluate(doc.Example).IsError, $"{doc.Example}: {Evaluate(doc.Example)}");
    }

    [Fact]
    public void TheDocsAreWhatTheCatalogueSays()
    {
        MadeDocs.Hold("docs/expressions.md", Expressions());
        MadeDocs.Hold("docs/problems.md", Problems());
    }

    static Value Evaluate(string text) =>
        Expression.Parse(text).Expression!.Evaluate(new DictionaryBindings(new Dictionary<string, Value>()));

    static string Expressions()
    {
        var text = new StringBuilder();
        foreach (var group in FunctionDocs.All.GroupBy(d => d.Group))
        {
            text.Append($"\n### {group.Key}\n\n| name | what it does | example | gives |\n| --- | --- | --- | --- |\n");
            foreach (var doc in group)
            {
                var name =
                    Functions.Find(doc.Name) is { } function && !char.IsLetter(doc.Name[0])
                        ? function.Display
                        : doc.Name;
                text.Append(
                    $"| `{Cell(name)}` | {Cell(doc.Doc)} | `{Cell(doc.Example)}` | `"
                        + $"{Cell(ValueText.Show(Evaluate(doc.Example)))}` |\n"
                );
            }
        }
        return text.ToString();
    }

    static string Problems()
    {
        var text = new StringBuilder("\n| code | severity | what | what to do |\n| --- | --- | --- | --- |\n");
        foreach (var kind in ProblemKinds.All)
            text.Append($"| {kind.Code} | {kind.Severity.Word()} | {Cell(kind.Title)} | {Cell(kind.Help)} |\n");
        foreach (var kind in ProblemKinds.All)
        {
            text.Append($"\n### {kind.Code}\n\n{kind.Title}. {kind.Help}\n");
            if (ProblemTests.Example(kind) is not { } example)
                continue;
            text.Append(
                $"\n```yaml\n{example.Text.Trim('\n')}\n```\n\n```\n"
                    + $"{string.Join("\n", example.Problems.Where(p => p.Kind == kind))}\n```\n"
            );
        }
        return text.ToString();
    }
}
