using System.CommandLine;
using GateChain.Cli.Terminal;
using GateChain.Client;
using GateChain.Core.Chains;
using GateChain.Core.Values;
using GateChain.Engine.Basics;
using GateChain.Engine.Workspaces;
using GateChain.Service.Views;
using Spectre.Console;

namespace GateChain.Cli.Commands;

/// <summary><c>gatechain rehearse FILE</c>: offline, and without side effects.</summary>
static class RehearseCommand
{
    static readonly Argument<string> File = new("FILE") { Description = "A chain file; what it calls lies beside it" };
    static readonly Option<string[]> Param = new("--param", "-p")
    {
        Description = "A parameter, name=value; again for more",
    };
    static readonly Option<string[]> Set = new("--set", "-s")
    {
        Description = "What a variable begins with, name=value; again for more",
    };
    static readonly Option<string?> Profile = new("--profile") { Description = "The profile to rehearse under" };
    static readonly Option<string[]> Fail = new("--fail")
    {
        Description =
            "A step that fails: load, depots[2]/load for one iteration, load:2 for its first two "
            + "attempts; again for more",
    };
    static readonly Option<string[]> Give = new("--give")
    {
        Description =
            "An output, STEP.rows_rejected=1200, or what a guard's probe sees, "
            + "STEP.probes.NAME.field=value; again for more",
    };
    static readonly Option<bool> All = new("--all")
    {
        Description = "List the distinct ways that failures lead through the chain",
    };
    static readonly Option<int> Most = new("--most")
    {
        Description = "How many ways to list at most, 1 to 200",
        DefaultValueFactory = _ => 20,
    };

    public static Command Create()
    {
        var command = new Command(
            "rehearse",
            "Shows which way a chain would go, with made-up outcomes; nothing of it is done"
        )
        {
            File,
            Param,
            Set,
            Profile,
            CheckCommand.InWorkspace,
            Fail,
            Give,
            All,
            Most,
            ServiceCommand.Json,
        };
        command.SetAction(parsed =>
        {
            var path = parsed.GetValue(File)!;
            if (!System.IO.File.Exists(path))
            {
                Console.Error.WriteLine($"{path} is not there");
                return ExitCodes.Usage;
            }
            var (folder, name) = WorkspaceFolder.Of(path, parsed.GetValue(CheckCommand.InWorkspace));
            var workspace = new Workspace(WorkspaceFolder.ReadChains(folder), PluginFolder.Catalogue);
            if (workspace.ChainIn(name) is not { } chain || workspace.Problems.Any(p => p.IsError && p.File == name))
            {
                Console.Error.WriteLine($"{path} has errors; gatechain check {path} lists them");
                return ExitCodes.Usage;
            }
            try
            {
                Chain? Called(CalledChain called) =>
                    called.Release is null ? workspace.Chains.FirstOrDefault(c => c.Name == called.Name) : null;
                var request = new RehearsalRequest(
                    ServiceCommand.Pairs(parsed.GetValue(Param)),
                    ServiceCommand.Pairs(parsed.GetValue(Set)),
                    parsed.GetValue(Profile),
                    parsed.GetValue(Fail),
                    ServiceCommand.JsonPairs(parsed.GetValue(Give)),
                    parsed.GetValue(All) ? parsed.GetValue(Most) : 0
                );
                var result = RehearsalViews.Rehearse(
                    chain,
                    Called,
                    request,
                    workspace.ProfilesOf,
                    Value.EmptyMap,
                    DateTimeOffset.UtcNow
                );
                if (parsed.GetValue(ServiceCommand.Json))
                    ServiceCommand.WriteJson(result);
                else
                    Write(result, parsed.GetValue(All));
                return result.Cut ? ExitCodes.Failed : ExitCodes.Succeeded;
            }
            catch (RefusedException e)
            {
                foreach (var line in e.Details.Count > 0 ? e.Details : [e.Message])
                    Console.Error.WriteLine(line);
                return ExitCodes.Usage;
            }
        });
        return command;
    }

    static void Write(RehearsalResult result, bool all)
    {
        if (all)
            WaysPicture.Write(result, AnsiConsole.Console);
        else
            RehearsalPicture.Write(result, AnsiConsole.Console);
    }
}
