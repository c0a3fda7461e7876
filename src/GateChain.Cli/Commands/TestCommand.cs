using System.CommandLine;
using GateChain.Cli.Terminal;
using GateChain.Core.Testing.Reading;
using GateChain.Engine.Workspaces;

namespace GateChain.Cli.Commands;

/// <summary><c>gatechain test [PATH…]</c>: offline, and without side effects.</summary>
static class TestCommand
{
    static readonly Argument<string[]> Paths = new("PATH")
    {
        Description = "Files of tests (NAME.test.yaml), or folders of a workspace; this one when absent",
        Arity = ArgumentArity.ZeroOrMore,
    };
    static readonly Option<string?> Only = new("--only")
    {
        Description = "Only cases that have this text in their name",
    };
    static readonly Option<string?> JUnit = new("--junit")
    {
        Description = "Also write a report as JUnit XML into this file, for build servers",
    };
    static readonly Option<bool> Ways = new("--ways") { Description = "Also list the ways that no case has gone" };
    static readonly Option<bool> Watch = new("--watch") { Description = "Play them again whenever a file changes" };

    public static Command Create()
    {
        var command = new Command(
            "test",
            "Plays the tests that lie beside chains: with made-up outcomes, in no time; nothing of it is done"
        )
        {
            Paths,
            CheckCommand.InWorkspace,
            Only,
            JUnit,
            Ways,
            Watch,
            ServiceCommand.Json,
        };
        command.SetAction(
            async (parsed, cancel) =>
            {
                var exit = Play(parsed);
                if (!parsed.GetValue(Watch) || exit == ExitCodes.Usage && !PathsOf(parsed).All(Exists))
                    return exit;
                using var changes = new FolderChanges(PathsOf(parsed).Select(FolderOf));
                while (!cancel.IsCancellationRequested)
                {
                    await changes.NextAsync(cancel);
                    Console.WriteLine($"\n{DateTime.Now:HH:mm:ss}");
                    exit = Play(parsed);
                }
                return exit;
            }
        );
        return command;
    }

    static string[] PathsOf(ParseResult parsed) => parsed.GetValue(Paths) is { Length: > 0 } given ? given : ["."];

    static bool Exists(string path) => File.Exists(path) || Directory.Exists(path);

    static string FolderOf(string path) =>
        Directory.Exists(path) ? path : Path.GetDirectoryName(Path.GetFullPath(path))!;

    static int Play(ParseResult parsed)
    {
        var results = new List<FileResult>();
        foreach (var path in PathsOf(parsed))
        {
            if (!Exists(path) || File.Exists(path) && !path.EndsWith(TestsFile.Ending, StringComparison.Ordinal))
            {
                Console.Error.WriteLine(
                    File.Exists(path)
                        ? $"{path} is no file of tests: they end in {TestsFile.Ending}"
                        : $"{path} is not there"
                );
                return ExitCodes.Usage;
            }
            var isFile = File.Exists(path);
            var (folder, name) = isFile
                ? WorkspaceFolder.Of(path, parsed.GetValue(CheckCommand.InWorkspace))
                : (path, "");
            var files = WorkspaceFolder.ReadTests(folder);
            var workspace = new Workspace(files, PluginFolder.Catalogue);
            results.AddRange(
                WorkspaceTests
                    .Play(
                        workspace,
                        isFile ? files.Where(f => f.Key == name).ToDictionary() : files,
                        (_, test) =>
                            parsed.GetValue(Only) is not { } text
                            || test.Contains(text, StringComparison.OrdinalIgnoreCase),
                        TimeProvider.System
                    )
                    .Select(r => r with { File = isFile ? path : Path.Combine(path, r.File) })
            );
        }
        if (parsed.GetValue(JUnit) is { } report)
            JUnitReport.Write(results, report);
        if (parsed.GetValue(ServiceCommand.Json))
            ServiceCommand.WriteJson(results.Select(TestLines.Of));
        else
            TestLines.Write(results, parsed.GetValue(Ways));
        return results.Exists(r => r.Problems.Any(p => p.IsError)) ? ExitCodes.Usage
            : results.TrueForAll(r => r.Passed) ? ExitCodes.Succeeded
            : ExitCodes.Failed;
    }
}
