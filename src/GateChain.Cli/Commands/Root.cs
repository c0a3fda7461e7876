using System.CommandLine;
using GateChain.Cli.Terminal;
using GateChain.Client;
using GateChain.Kinds.Plugins;

namespace GateChain.Cli.Commands;

/// <summary>The commands, put together.</summary>
static class Root
{
    /// <summary>Parses and runs; gives the exit code.</summary>
    public static async Task<int> RunAsync(string[] args)
    {
        var root = new RootCommand("Gate Chain: control flows for ETL. A chain's steps are joined by gates; a failed run goes on from the failing step.\n\n" + ExitCodes.Help);
        root.Options.Add(PluginFolder.Option);
        foreach (var command in (Command[])[ServeCommand.Create(), CheckCommand.Create(), RehearseCommand.Create(), PushCommand.Create(), RunCommand.Create(), RunsCommand.Create(), ShowCommand.Create(),
            WhyCommand.Create(), LogCommand.Create(), ResumeCommand.Create(), RestartCommand.Create(), PauseCommand.Create(), .. AnswerCommands.Create(), StopCommand.Create(), LanesCommand.Create(),
            DraftCommand.Create(), TryCommand.Create(), ReleaseCommand.Create(), ReleasesCommand.Create(), CompareCommand.Create(), RenameCommand.Create(), ExportCommand.Create(), SchemaCommand.Create(),
            ConnectionCommands.Connections(), ConnectionCommands.Secret(), KindCommands.Kinds(), KindCommands.New()])
        {
            root.Subcommands.Add(command);
        }
        var parsed = root.Parse(args);
        if (parsed.Errors.Count > 0)
        {
            // A word that is no command says more than that a command is missing.
            var wrong = parsed.Errors.Count > 1 && args.Length > 0 ? parsed.Errors.Skip(parsed.CommandResult.Command == root ? 1 : 0) : parsed.Errors;
            foreach (var error in wrong) { Console.Error.WriteLine(error.Message); }
            Console.Error.WriteLine($"Help: gatechain {string.Join(' ', parsed.CommandResult.Command == root ? [] : new[] { parsed.CommandResult.Command.Name })} --help".Replace("  ", " ", StringComparison.Ordinal));
            return ExitCodes.Usage;
        }
        PluginFolder.Take(parsed);
        try
        {
            return await parsed.InvokeAsync(new InvocationConfiguration { EnableDefaultExceptionHandler = false });
        }
        catch (PluginException e)
        {
            Console.Error.WriteLine(e.Message);
            return ExitCodes.Usage;
        }
        catch (GateChainException e)
        {
            return Failures.Tell(e, parsed.GetValue(Common.Json));
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            Console.Error.WriteLine(e.Message);
            return ExitCodes.Usage;
        }
        catch (OperationCanceledException)
        {
            return ExitCodes.Stopped;
        }
    }
}
