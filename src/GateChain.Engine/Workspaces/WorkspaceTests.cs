using GateChain.Core.Chains;
using GateChain.Core.Expressions;
using GateChain.Core.Problems;
using GateChain.Core.Testing;
using GateChain.Core.Testing.Reading;

namespace GateChain.Engine.Workspaces;

/// <summary>What came of the tests of one file.</summary>
/// <param name="File">The file, by its path in the workspace.</param>
/// <param name="Chain">The chain; null when the file names none that is there.</param>
/// <param name="Problems">What is wrong with the file; with errors no case was played.</param>
/// <param name="Cases">What came of its cases.</param>
/// <param name="Coverage">Which ways they have gone.</param>
/// <param name="Floor">The share of ways that they have to go; null for none.</param>
/// <param name="Took">How long they took.</param>
public sealed record FileResult(
    string File,
    string? Chain,
    IReadOnlyList<Problem> Problems,
    IReadOnlyList<CaseResult> Cases,
    Coverage? Coverage,
    double? Floor,
    TimeSpan Took
)
{
    /// <summary>The one-based line and column of a place in the file.</summary>
    public required Func<Span, (int Line, int Column)> Position { get; init; }

    /// <summary>Whether too few ways were gone.</summary>
    public bool IsBelowFloor => Floor is { } floor && Coverage is { } coverage && coverage.Percent < floor;

    /// <summary>Whether all is as expected.</summary>
    public bool Passed => !Problems.Any(p => p.IsError) && Cases.All(c => c.Passed) && !IsBelowFloor;
}

/// <summary>Plays the tests of a workspace: offline, in no time, nothing of it is done. Pure.</summary>
public static class WorkspaceTests
{
    /// <summary>Plays the tests of files whose names end in <c>.test.yaml</c>.</summary>
    /// <param name="workspace">The workspace.</param>
    /// <param name="files">Its files.</param>
    /// <param name="wanted">Which cases are played, by their file and name.</param>
    /// <param name="time">Measures how long it takes.</param>
    /// <param name="cancel">Ends it when it has taken long enough.</param>
    public static IEnumerable<FileResult> Play(
        Workspace workspace,
        IReadOnlyDictionary<string, byte[]> files,
        Func<string, string, bool> wanted,
        TimeProvider time,
        CancellationToken cancel = default
    )
    {
        var chains = workspace.Chains.DistinctBy(c => c.Name).ToDictionary(c => c.Name);
        foreach (
            var (name, content) in files
                .Where(f => f.Key.EndsWith(TestsFile.Ending, StringComparison.Ordinal))
                .OrderBy(f => f.Key, StringComparer.Ordinal)
        )
        {
            var began = time.GetTimestamp();
            var text = Workspace.TextOf(content);
            var problems = new ProblemList(name, text);
            var tests = TestsFile.Read(text, problems, Called, chains.Keys, chain =>
                [.. workspace.ProfilesOf(chain).Names]
            );
            // A chain with errors is no chain that could be played.
            if (
                tests is not null
                && workspace.FilesOf(tests.Chain.Name) is { File: var file }
                && workspace.Problems.FirstOrDefault(p => p.File == file && p.IsError) is { } broken
            )
            {
                problems.Add(
                    ProblemKinds.UnknownInTest,
                    new(0, 0),
                    $"“{tests.Chain.Name}” has errors: {broken.Message}"
                );
            }
            if (tests is null || problems.HasErrors)
            {
                yield return new(name, tests?.Chain.Name, [.. problems.Ordered], [], null, null, default)
                {
                    Position = Position,
                };
                continue;
            }
            var profiles = workspace.ProfilesOf(tests.Chain.Name);
            var run = new CaseRun(tests.Chain, Called, profiles.Choose, profile =>
                (caller, called, values) =>
                    workspace.ProfilesOf(called).ForCalled(values, profile, workspace.ProfilesOf(caller))
            );
            var coverage = new Coverage(tests.Chain);
            // Each is played by itself; chains are only read.
            var cases = tests
                .Cases.Where(c => wanted(name, c.Name))
                .AsParallel()
                .AsOrdered()
                .WithCancellation(cancel)
                .Select(test => run.Play(test, cancel))
                .ToList();
            foreach (var one in cases)
                coverage.Add(one.Rehearsal);
            yield return new(
                name,
                tests.Chain.Name,
                [.. problems.Ordered],
                cases,
                coverage,
                cases.Count == tests.Cases.Count ? tests.Floor : null,
                time.GetElapsedTime(began)
            )
            {
                Position = Position,
            };

            (int, int) Position(Span span) => problems.Position(span.Start);
        }

        Chain? Called(CalledChain called) => called.Release is null ? chains.GetValueOrDefault(called.Name) : null;
    }
}
