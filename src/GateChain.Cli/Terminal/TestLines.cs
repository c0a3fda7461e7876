using System.Globalization;
using GateChain.Core.Testing;
using GateChain.Engine.Workspaces;

namespace GateChain.Cli.Terminal;

/// <summary>Results of tests, for people and for programs.</summary>
static class TestLines
{
    const int MostWays = 8;

    /// <summary>A file's results as JSON has them.</summary>
    public static object Of(FileResult result) =>
        new
        {
            file = result.File,
            chain = result.Chain,
            passed = result.Passed,
            took = Math.Round(result.Took.TotalMilliseconds, 3),
            problems = result.Problems.Select(p => p.ToString()),
            cases = result.Cases.Select(c => new
            {
                name = c.Case.Name,
                passed = c.Passed,
                outcome = c.Rehearsal.State.Word,
                differences = c.Differences.Select(d => new
                {
                    line = result.Position(d.Span).Line,
                    column = result.Position(d.Span).Column,
                    message = d.Message,
                }),
            }),
            ways = result.Coverage is { } coverage
                ? new
                {
                    gone = coverage.Counts.Gone,
                    of = coverage.Counts.Ways,
                    percent = Math.Round(coverage.Percent, 1),
                    floor = result.Floor,
                    never = Never(coverage).ToList(),
                }
                : null,
        };

    public static void Write(IReadOnlyList<FileResult> results, bool ways)
    {
        foreach (var result in results)
        {
            Console.WriteLine($"{result.File}{(result.Chain is null ? "" : $"  ({result.Chain})")}");
            foreach (var problem in result.Problems)
                Console.WriteLine($"  {problem with { File = result.File }}");
            foreach (var one in result.Cases)
            {
                Console.WriteLine($"  {(one.Passed ? "✓" : "✕")} {one.Case.Name}");
                foreach (var difference in one.Differences)
                {
                    var (line, column) = result.Position(difference.Span);
                    Console.WriteLine($"      {result.File}:{line}:{column}: {Words.Plain(difference.Message)}");
                }
            }
            if (result.Coverage is { } coverage)
                Write(coverage, result, ways);
        }
        var cases = results.SelectMany(r => r.Cases).ToList();
        var failed = cases.Count(c => !c.Passed);
        if (results.Count == 0)
        {
            Console.WriteLine("there are no tests; they stand beside a chain, in NAME.test.yaml");
            return;
        }
        Console.WriteLine(
            string.Create(
                CultureInfo.InvariantCulture,
                $"{Words.Count(cases.Count, "case")}: {cases.Count - failed} passed, {failed} failed; "
                    + $"{results.Sum(r => r.Took.TotalSeconds):0.00} s"
            )
        );
    }

    static void Write(Coverage coverage, FileResult result, bool ways)
    {
        var (gone, all) = coverage.Counts;
        var never = Never(coverage).ToList();
        Console.WriteLine(
            string.Create(
                CultureInfo.InvariantCulture,
                $"  {(result.IsBelowFloor ? "✕ " : "")}{gone} of {all} ways through its gates gone, "
                    + $"{coverage.Percent:0} %"
            ) + (result.IsBelowFloor ? $"; the floor is {result.Floor:0} %" : "")
        );
        if (!ways && !result.IsBelowFloor)
            return;
        foreach (var way in ways ? never : never.Take(MostWays))
            Console.WriteLine($"      never {way}");
        if (!ways && never.Count > MostWays)
            Console.WriteLine($"      and {never.Count - MostWays} more: --ways lists them");
    }

    static IEnumerable<string> Never(Coverage coverage) =>
        coverage
            .Gates.Where(g => g.Gone < g.Ways)
            .SelectMany(
                g => ((bool Gone, string Way)[])[(g.Opened, "open"), (g.Shut || !g.CanShut, "shut")],
                (g, w) => (g, w)
            )
            .Where(x => !x.w.Gone)
            .Select(x =>
                $"{x.w.Way}: {(x.g.Scope.Length == 0 ? "" : x.g.Scope + "/")}{x.g.Gate.From.Id} → {x.g.Gate.To.Id}"
                + (x.g.Gate.Label.Length == 0 ? "" : $" ({x.g.Gate.Label})")
            );
}
