using GateChain.Cli.Terminal;
using Spectre.Console;

namespace GateChain.Cli.Commands;

/// <summary><c>gatechain chains</c></summary>
static class ChainsCommand
{
    public static System.CommandLine.Command Create() =>
        ServiceCommand.Create(
            "chains",
            "Lists the chains of the service, with their releases and latest runs",
            async (parsed, client, cancel) =>
            {
                var chains = await client.ChainsAsync(cancel);
                if (parsed.GetValue(ServiceCommand.Json))
                {
                    ServiceCommand.WriteJson(chains);
                    return ExitCodes.Succeeded;
                }
                if (chains.Count == 0)
                {
                    Console.WriteLine("no chains; bring some with: gatechain push FOLDER");
                    return ExitCodes.Succeeded;
                }
                var table = Tables.Create(
                    new("chain"),
                    new("release"),
                    new("title", IsLong: true),
                    new("latest run"),
                    new("state")
                );
                foreach (var chain in chains)
                {
                    var last = chain.LastRuns is [var latest, ..] ? latest : null;
                    table.AddRow(
                        new Text(Words.InArea(chain.Area, chain.Name)),
                        new Text(
                            (chain.Number?.ToString() ?? (chain.Draft is null ? "" : "draft only"))
                                + (chain.Retired is null ? "" : ", retired")
                        ),
                        Tables.Cell(chain.Title),
                        new Text(last is null ? "" : $"run {last.Id}, {Words.At(last.Started)}"),
                        last is null ? new Text("") : States.Text(last.State)
                    );
                }
                Tables.Write(table);
                return ExitCodes.Succeeded;
            }
        );
}
