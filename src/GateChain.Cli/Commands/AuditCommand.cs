using System.CommandLine;
using GateChain.Cli.Terminal;
using GateChain.Client;
using GateChain.Service.Hosting;
using GateChain.Storage;
using Spectre.Console;

namespace GateChain.Cli.Commands;

/// <summary><c>gatechain audit</c></summary>
static class AuditCommand
{
    static readonly Option<string?> By = new("--by") { Description = "Only what this person or token did" };
    static readonly Option<string?> Action = new("--action") { Description = "Only this action, for example stop" };
    static readonly Option<string?> Object = new("--object")
    {
        Description = "Only what was done to this, for example “run 5”",
    };
    static readonly Option<string?> Text = new("--text") { Description = "Only lines in which this stands" };
    static readonly Option<DateTimeOffset?> Since = new("--since") { Description = "Only from then on" };
    static readonly Option<int> Limit = new("--limit")
    {
        Description = "How many lines at most",
        DefaultValueFactory = _ => 50,
    };
    static readonly Option<bool> Export = new("--export")
    {
        Description = "Write all of it as JSON Lines, oldest first",
    };
    static readonly Option<bool> Verify = new("--verify")
    {
        Description = "Look whether the log is as it was written: no line changed, missing or cut off",
    };
    static readonly Option<string?> Data = new("--data")
    {
        Description = "With --verify: the data folder of a service that does not run",
    };

    public static Command Create() =>
        ServiceCommand.Create(
            "audit",
            "Shows who has changed what, newest first",
            async (parsed, client, cancel) =>
            {
                if (parsed.GetValue(Verify))
                    return Tell(await VerdictAsync(parsed.GetValue(Data), client, cancel), parsed);
                if (parsed.GetValue(Export))
                {
                    await using var output = Console.OpenStandardOutput();
                    await client.ExportAuditAsync(output, cancel);
                    return ExitCodes.Succeeded;
                }
                var asked = new (string Name, string? Value)[]
                {
                    ("by", parsed.GetValue(By)),
                    ("action", parsed.GetValue(Action)),
                    ("object", parsed.GetValue(Object)),
                    ("text", parsed.GetValue(Text)),
                    ("from", parsed.GetValue(Since)?.ToString("O")),
                    ("limit", parsed.GetValue(Limit).ToString()),
                };
                var lines = await client.AuditAsync(
                    string.Join(
                        '&',
                        asked.Where(a => a.Value is not null).Select(a => $"{a.Name}={Uri.EscapeDataString(a.Value!)}")
                    ),
                    cancel
                );
                if (parsed.GetValue(ServiceCommand.Json))
                {
                    ServiceCommand.WriteJson(lines);
                    return ExitCodes.Succeeded;
                }
                if (lines.Count == 0)
                {
                    Console.WriteLine("there are no such lines");
                    return ExitCodes.Succeeded;
                }
                var table = Tables.Create(
                    new("line", IsNumber: true),
                    new("when"),
                    new("who"),
                    new("from"),
                    new("through", IsLong: true),
                    new("did"),
                    new("to", IsLong: true),
                    new("", IsLong: true)
                );
                foreach (var line in lines)
                {
                    table.AddRow(
                        Tables.Cell(line.Number.ToString()),
                        Tables.Cell(Words.At(line.At)),
                        Tables.Cell(line.By),
                        Tables.Cell(line.From),
                        Tables.Cell(line.Through),
                        Tables.Cell(line.Action),
                        Tables.Cell(line.Object),
                        Tables.Cell(line.Detail)
                    );
                }
                Tables.Write(table);
                return ExitCodes.Succeeded;
            },
            By,
            Action,
            Object,
            Text,
            Since,
            Limit,
            Export,
            Verify,
            Data
        );

    static async Task<AuditVerdict> VerdictAsync(string? data, GateChainClient client, CancellationToken cancel)
    {
        if (data is null)
            return await client.VerifyAuditAsync(cancel);
        try
        {
            return await GateChainService.VerifyAuditAsync(data, cancel);
        }
        catch (StorageException e)
        {
            throw new GateChainException(503, e.Message, null, []);
        }
    }

    static int Tell(AuditVerdict verdict, ParseResult parsed)
    {
        if (parsed.GetValue(ServiceCommand.Json))
        {
            ServiceCommand.WriteJson(verdict);
        }
        else if (verdict.Wrong.Count == 0)
        {
            Console.WriteLine(
                $"{verdict.Lines} lines, each as it was written; {verdict.Anchors} anchors of the log files fit"
                    + (verdict.Unsealed == 0 ? "" : $"; {verdict.Unsealed} at the end are not sealed yet")
            );
        }
        else
        {
            foreach (var sentence in verdict.Wrong)
                Console.Error.WriteLine(sentence);
        }
        return verdict.Wrong.Count == 0 ? ExitCodes.Succeeded : ExitCodes.Failed;
    }
}
