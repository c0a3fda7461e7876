using System.CommandLine;
using System.CommandLine.Parsing;
using GateChain.Client;
using GateChain.Core.Expressions;
using GateChain.Kinds.Plugins;

namespace GateChain.Cli.Commands;

/// <summary>The root of the command line, with all commands.</summary>
static class Root
{
    static readonly Command Serve = ServeCommand.Create();

    // What one comes for, in the order in which one meets it.
    static readonly IReadOnlyList<CommandGroup> Groups =
    [
        new(
            "Design",
            [
                ChainsCommand.Create(),
                CheckCommand.Create(),
                PreviewCommand.Create(),
                RehearseCommand.Create(),
                TestCommand.Create(),
                ReplayCommand.Create(),
                PushCommand.Create(),
                PromoteCommand.Create(),
                ExportCommand.Create(),
                DraftCommand.Create(),
                TryCommand.Create(),
                ReleaseCommand.Create(),
                ReleasesCommand.Create(),
                CompareCommand.Create(),
                RenameCommand.Create(),
                UsesCommand.Create(),
                LineageCommand.Create(),
                .. RetireCommands.Create(),
                SchemaCommand.Create(),
                KindCommands.Kinds(),
                KindCommands.New(),
            ]
        ),
        new(
            "Run and look",
            [
                HomeCommand.Create(),
                RunCommand.Create(),
                RunsCommand.Create(),
                ShowCommand.Create(),
                MomentsCommand.Create(),
                WhyCommand.Create(),
                HistoryCommands.Diff(),
                HistoryCommands.History(),
                LogCommand.Create(),
                RestartCommand.Create(),
                KeptCommand.Create(),
            ]
        ),
        new(
            "Decide",
            [
                ResumeCommand.Create(),
                PauseCommand.Create(),
                StopCommand.Create(),
                CancelCommand.Create(),
                .. AnswerCommands.Create(),
                .. HoldCommands.Create(),
            ]
        ),
        new(
            "Start by itself",
            [
                TriggerCommands.Triggers(),
                TriggerCommands.Trigger(),
                TriggerCommands.Fires(),
                TriggerCommands.Hold(),
                BackfillCommands.Backfill(),
                BackfillCommands.Backfills(),
            ]
        ),
        new(
            "Who may what",
            [.. SignInCommands.Create(), .. UserCommands.Create(), AllowCommand.Create(), AuditCommand.Create()]
        ),
        new(
            "Operate",
            [
                Serve,
                ConfigCommand.Create(Serve),
                NodeCommands.Nodes(),
                NodeCommands.Drain(),
                LanesCommand.Create(),
                ConnectionCommands.Connections(),
                ConnectionCommands.Secret(),
                RecoverCommands.Recover(),
                RecoverCommands.Gone(),
                TidyCommand.Create(),
                RetentionCommands.Retention(),
                RetentionCommands.Pin(),
                RetentionCommands.Usage(),
                BackupCommands.Backup(),
                BackupCommands.Restore(),
                VerifyCommand.Create(),
                MoveCommand.Create(),
            ]
        ),
    ];

    /// <summary>Parses and runs; gives the exit code.</summary>
    public static async Task<int> RunAsync(string[] args)
    {
        var root = new RootCommand(
            "Gate Chain: control flows for ETL. A chain's steps are joined by gates; "
                + "a failed run continues from the failing step.\n\n"
                + ExitCodes.Help
        );
        root.Options.Add(PluginFolder.Option);
        foreach (var command in Groups.SelectMany(g => g.Commands))
            root.Subcommands.Add(command);
        root.Subcommands.Add(GuardCommand.Create());
        GroupedHelp.Install(root, Groups);

        // Paths of handlers begin with @, and so may a message: no argument is ever a file of arguments.
        var parsed = root.Parse(args, new ParserConfiguration { ResponseFileTokenReplacer = null });
        if (parsed.Errors.Count > 0 && parsed.CommandResult.Command == root && parsed.UnmatchedTokens is [var word, ..])
        {
            var names = Groups.SelectMany(g => g.Commands).Select(c => c.Name);
            Console.Error.WriteLine($"there is no command “{word}”{Nearest.Hint(word, names)}\nHelp: gatechain --help");
            return ExitCodes.Usage;
        }
        if (parsed.Errors.Count > 0)
        {
            // "Unknown command" tells more than "a command is missing", which the parser reports first.
            var wrong =
                parsed.Errors.Count > 1 && args.Length > 0
                    ? parsed.Errors.Skip(parsed.CommandResult.Command == root ? 1 : 0)
                    : parsed.Errors;
            foreach (var error in wrong)
                Console.Error.WriteLine(Sentence(error, parsed));
            Console.Error.WriteLine(
                (
                    "Help: gatechain "
                    + string.Join(
                        ' ',
                        parsed.CommandResult.Command == root ? [] : new[] { parsed.CommandResult.Command.Name }
                    )
                    + " --help"
                ).Replace("  ", " ", StringComparison.Ordinal)
            );
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
            return Failures.Tell(e, parsed);
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

    // What the parser says, in the words of whoever typed it.
    static string Sentence(ParseError error, ParseResult parsed)
    {
        if (error.SymbolResult is ArgumentResult { Argument: { } argument } result)
        {
            if (result.Tokens.Count == 0)
            {
                return argument.Name switch
                {
                    "RUN" => "which run? its number is missing",
                    "CHAIN" => "which chain? its name is missing",
                    "STEP" => "which step? its path is missing",
                    _ => error.Message,
                };
            }
            if (argument == ServiceCommand.Run)
                return $"“{result.Tokens[0].Value}” is no number of a run";
        }
        return error.Message;
    }
}
