using System.CommandLine;
using GateChain.Cli.Terminal;
using Spectre.Console;

namespace GateChain.Cli.Commands;

/// <summary><c>gatechain runs</c></summary>
static class RunsCommand
{
    static readonly Option<string?> Chain = new("--chain") { Description = "Only runs of this chain" };
    static readonly Option<string?> State = new("--state")
    {
        Description = "Only runs that are queued, running, paused, succeeded, failed or stopped",
    };
    static readonly Option<int> Limit = new("--limit")
    {
        Description = "At most so many",
        DefaultValueFactory = _ => 20,
    };

    public static Command Create() =>
        Common.Create(
            "runs",
            "Lists runs, newest first",
            async (parsed, client, cancel) =>
            {
                var runs = await client.RunsAsync(
                    parsed.GetValue(Chain),
                    parsed.GetValue(State),
                    parsed.GetValue(Limit),
                    cancel
                );
                if (parsed.GetValue(Common.Json))
                {
                    Common.WriteJson(runs);
                    return ExitCodes.Succeeded;
                }
                if (runs.Count == 0)
                {
                    Console.WriteLine("no runs");
                    return ExitCodes.Succeeded;
                }
                var table = new Table().NoBorder();
                foreach (
                    var (head, right) in (ReadOnlySpan<(string, bool)>)
                        [
                            ("run", true),
                            ("chain", false),
                            ("state", false),
                            ("leg", true),
                            ("started (UTC)", false),
                            ("took", true),
                            ("by", false),
                            ("why", false),
                        ]
                )
                {
                    table.AddColumn(
                        new TableColumn(new Text(head, new(decoration: Decoration.Dim)))
                        {
                            Alignment = right ? Justify.Right : Justify.Left,
                            NoWrap = head != "why",
                        }
                    );
                }

                foreach (var run in runs)
                {
                    table.AddRow(
                        new Text(run.Id.ToString()),
                        new Text(run.Chain),
                        States.Text(run.State),
                        new Text(run.Leg.ToString()),
                        new Text($"{run.Started:yyyy-MM-dd HH:mm:ss}"),
                        new Text(Words.Took(run.Started, run.Ended ?? DateTimeOffset.UtcNow)),
                        new Text(Words.Plain(run.By)),
                        new Text(Words.Plain(run.Error ?? ""))
                    );
                }
                AnsiConsole.Write(table);
                return ExitCodes.Succeeded;
            },
            Chain,
            State,
            Limit
        );
}
