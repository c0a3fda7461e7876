using System.CommandLine;
using GateChain.Cli.Terminal;
using GateChain.Client;
using Spectre.Console;

namespace GateChain.Cli.Commands;

/// <summary><c>gatechain runs</c></summary>
static class RunsCommand
{
    static readonly Option<string?> Chain = new("--chain", "-c") { Description = "Only runs of this chain" };
    static readonly Option<string?> State = new("--state")
    {
        Description = "Only runs that are queued, running, paused, succeeded, failed or stopped",
    };
    static readonly Option<string?> Trigger = new("--trigger") { Description = "Only runs that this trigger started" };
    static readonly Option<string?> From = new("--from")
    {
        Description = "Only runs that began then or later: 2026-11-23, 2026-11-23T06:00Z, or 2h for the last two hours",
    };
    static readonly Option<string?> To = new("--to") { Description = "Only runs that began before" };
    static readonly Option<string?> Text = new("--text") { Description = "Only runs in whose parameters this stands" };
    static readonly Option<int> Limit = new("--limit", "-n")
    {
        Description = "At most so many",
        DefaultValueFactory = _ => 20,
    };

    public static Command Create() =>
        ServiceCommand.Create(
            "runs",
            "Lists runs, newest first",
            async (parsed, client, cancel) =>
            {
                var runs = await client.RunsAsync(
                    new RunFilter(parsed.GetValue(Chain), parsed.GetValue(State))
                    {
                        Trigger = parsed.GetValue(Trigger),
                        From = TriggerWords.Moment(parsed.GetValue(From), "--from"),
                        To = TriggerWords.Moment(parsed.GetValue(To), "--to"),
                        Text = parsed.GetValue(Text),
                        Limit = parsed.GetValue(Limit),
                    },
                    cancel
                );
                if (parsed.GetValue(ServiceCommand.Json))
                {
                    ServiceCommand.WriteJson(runs);
                    return ExitCodes.Succeeded;
                }
                if (runs.Count == 0)
                {
                    Console.WriteLine("no runs");
                    return ExitCodes.Succeeded;
                }
                var table = Tables.Create(
                    new("run", IsNumber: true),
                    new("chain"),
                    new("state"),
                    new("leg", IsNumber: true),
                    new("started (UTC)"),
                    new("took", IsNumber: true),
                    new("by"),
                    new("why", IsLong: true)
                );
                foreach (var run in runs)
                {
                    table.AddRow(
                        new Text(run.Id.ToString()),
                        new Text(run.Chain),
                        States.Text(run.State),
                        new Text(run.Leg.ToString()),
                        new Text($"{run.Started:yyyy-MM-dd HH:mm:ss}"),
                        new Text(Words.Took(run.Started, run.Ended ?? DateTimeOffset.UtcNow)),
                        Tables.Cell(run.By),
                        Tables.Cell(run.Error)
                    );
                }
                Tables.Write(table);
                return ExitCodes.Succeeded;
            },
            Chain,
            State,
            Trigger,
            From,
            To,
            Text,
            Limit
        );
}
