using System.Globalization;
using System.Xml.Linq;
using GateChain.Engine.Workspaces;

namespace GateChain.Cli.Terminal;

/// <summary>Results of tests as build servers read them: JUnit XML, a suite for each file.</summary>
static class JUnitReport
{
    public static void Write(IReadOnlyList<FileResult> results, string path)
    {
        var suites = results.Select(Suite).ToList();
        var root = new XElement(
            "testsuites",
            new XAttribute("tests", suites.Sum(s => (int)s.Attribute("tests")!)),
            new XAttribute("failures", suites.Sum(s => (int)s.Attribute("failures")!)),
            new XAttribute("errors", suites.Sum(s => (int)s.Attribute("errors")!)),
            suites
        );
        new XDocument(root).Save(path);
    }

    static XElement Suite(FileResult result)
    {
        var cases = result
            .Cases.Select(one =>
                Case(
                    one.Case.Name,
                    one.Passed ? null : "failure",
                    one.Differences.Select(d =>
                    {
                        var (line, column) = result.Position(d.Span);
                        return $"{result.File}:{line}:{column}: {d.Message}";
                    })
                )
            )
            .ToList();
        if (result.Problems.Any(p => p.IsError))
            cases.Add(Case("the file can be read", "error", result.Problems.Select(p => p.ToString())));
        if (result.IsBelowFloor)
        {
            cases.Add(
                Case(
                    "enough ways are gone",
                    "failure",
                    [
                        string.Create(
                            CultureInfo.InvariantCulture,
                            $"{result.Coverage!.Percent:0.0} % of {result.Floor} %"
                        ),
                    ]
                )
            );
        }
        return new(
            "testsuite",
            new XAttribute("name", Clean(result.File)),
            new XAttribute("tests", cases.Count),
            new XAttribute("failures", cases.Count(c => c.Element("failure") is not null)),
            new XAttribute("errors", cases.Count(c => c.Element("error") is not null)),
            new XAttribute("time", result.Took.TotalSeconds.ToString("0.000", CultureInfo.InvariantCulture)),
            cases
        );

        XElement Case(string name, string? wrong, IEnumerable<string> lines)
        {
            var text = Clean(string.Join("\n", lines));
            return new(
                "testcase",
                new XAttribute("classname", Clean(result.Chain ?? result.File)),
                new XAttribute("name", Clean(name)),
                wrong is null ? null : new XElement(wrong, new XAttribute("message", text.Split('\n')[0]), text)
            );
        }
    }

    // What XML has no way to write.
    static string Clean(string text) =>
        string.Concat(text.Select(c => System.Xml.XmlConvert.IsXmlChar(c) || char.IsSurrogate(c) ? c : '·'));
}
