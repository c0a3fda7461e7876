using System.CommandLine;
using GateChain.Cli.Terminal;
using GateChain.Core.Problems;
using GateChain.Core.Values;
using GateChain.Engine.Workspaces;
using GateChain.Service.Views;

namespace GateChain.Cli.Commands;

/// <summary><c>gatechain check FILE…</c>: offline.</summary>
static class CheckCommand
{
    static readonly Argument<string[]> Files = new("FILE")
    {
        Description = "Chain files, or folders of them",
        Arity = ArgumentArity.OneOrMore,
    };

    internal static Option<string?> InWorkspace { get; } =
        new("--workspace")
        {
            Description =
                "The folder that the chain's connections, profiles and lanes are looked for in; "
                + "without it the chain's own, and those around it that have such files",
        };

    static readonly Option<bool> Sarif = new("--sarif") { Description = "Write SARIF 2.1.0, for code hosts" };

    public static Command Create()
    {
        var command = new Command("check", "Checks chain files without a service; problems as file:line:col")
        {
            Files,
            InWorkspace,
            ServiceCommand.Json,
            Sarif,
        };
        command.SetAction(parsed =>
        {
            var problems = new List<Problem>();
            var chains = 0;
            foreach (var path in parsed.GetValue(Files)!)
            {
                if (!File.Exists(path) && !Directory.Exists(path))
                {
                    Console.Error.WriteLine($"{path} is not there");
                    return ExitCodes.Usage;
                }
                var (found, count) = Check(path, parsed.GetValue(InWorkspace));
                problems.AddRange(found);
                chains += count;
            }
            var shown = problems.Select(ProblemViews.Of).ToList();
            if (parsed.GetValue(Sarif))
            {
                Console.WriteLine(SarifReport.Of(problems));
            }
            else if (parsed.GetValue(ServiceCommand.Json))
            {
                ServiceCommand.WriteJson(shown);
            }
            else
            {
                foreach (var problem in shown)
                    ProblemLines.Write(problem, Console.Out);
                var counts = problems
                    .GroupBy(p => p.Kind.Severity)
                    .OrderByDescending(g => g.Key)
                    .Select(g => Words.Count(g.Count(), g.Key.Word()));
                var docs = problems.Select(p => p.Kind.Docs).Distinct().Order(StringComparer.Ordinal).ToList();
                if (docs.Count > 0)
                {
                    Console.WriteLine(
                        $"examples and fixes: {docs[0]}"
                            + string.Concat(
                                docs.Skip(1).Select(d => $" {d[d.IndexOf('#', StringComparison.Ordinal)..]}")
                            )
                    );
                }
                Console.WriteLine(
                    $"{(chains == 0 ? "checked" : $"{Words.Count(chains, "chain")} checked")}: "
                        + $"{string.Join(", ", problems.Exists(p => p.IsError) ? counts : counts.Prepend("no errors"))}"
                );
            }
            return problems.Exists(p => p.IsError) ? ExitCodes.Usage : ExitCodes.Succeeded;
        });
        return command;
    }

    // A single file is checked with what stands beside it, but only its own problems are told.
    static (IEnumerable<Problem> Problems, int Chains) Check(string path, string? given)
    {
        var isFile = File.Exists(path);
        var (folder, name) = isFile ? WorkspaceFolder.Of(path, given) : (path, "");
        var files = WorkspaceFolder.ReadChains(folder);
        if (isFile && Workspace.IsAttachment(name))
            files[name + Workspace.ChainEnding] = File.ReadAllBytes(path);
        var workspace = new Workspace(files, PluginFolder.Catalogue);
        var problems = workspace.Problems.Where(p =>
            !isFile || p.File == name || p.File == name + Workspace.ChainEnding
        );
        return (
            problems.Select(p => p with { File = isFile ? path : Path.Combine(path, p.File) }),
            isFile
                ? Workspace.IsSettings(name)
                    ? 0
                    : 1
                : workspace.Chains.Count
        );
    }
}
