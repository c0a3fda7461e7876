using System.CommandLine;
using GateChain.Cli.Terminal;
using GateChain.Client;
using Spectre.Console;

namespace GateChain.Cli.Commands;

/// <summary><c>gatechain retention</c>, <c>pin</c> and <c>usage</c></summary>
static class RetentionCommands
{
    static readonly Option<string?> Chain = new("--chain") { Description = "The chain whose runs it is about" };
    static readonly Option<string?> Folder = new("--folder")
    {
        Description = "The folder whose chains it is about, with all below; / for the whole workspace",
    };
    static readonly Option<int?> Days = new("--days") { Description = "Runs go that ended so many days ago" };
    static readonly Option<int?> AtLeast = new("--at-least")
    {
        Description = "The newest so many of a chain stay, however long ago they ended",
    };
    static readonly Option<int?> AtMost = new("--at-most")
    {
        Description = "More than the newest so many of a chain do not stay, however young they are",
    };
    static readonly Option<bool> Everything = new("--everything") { Description = "Nothing goes there" };
    static readonly Option<bool> Reset = new("--reset") { Description = "What holds around it holds again" };
    static readonly Option<bool> Now = new("--now")
    {
        Description = "Removes what is not kept any more at once; the service does so each hour",
    };

    public static Command Retention() =>
        ServiceCommand.Create(
            "retention",
            "Says how long runs are kept that have ended, and what would go; with --chain or --folder sets it",
            RetentionAsync,
            Chain,
            Folder,
            Days,
            AtLeast,
            AtMost,
            Everything,
            Reset,
            Now
        );

    static async Task<int> RetentionAsync(ParseResult parsed, GateChainClient client, CancellationToken cancel)
    {
        var (chain, folder) = (parsed.GetValue(Chain), parsed.GetValue(Folder)?.Trim('/'));
        var (days, least, most) = (parsed.GetValue(Days), parsed.GetValue(AtLeast), parsed.GetValue(AtMost));
        var says = days is not null || least is not null || most is not null || parsed.GetValue(Everything);
        if ((says || parsed.GetValue(Reset)) != (chain ?? folder) is not null)
        {
            Console.Error.WriteLine(
                "say of what with --chain or --folder, and how long with --days, --at-least, --at-most, --everything "
                    + "or --reset"
            );
            return ExitCodes.Usage;
        }
        if (parsed.GetValue(Reset))
            await client.RemoveRetentionAsync(chain, folder, cancel);
        else if (says)
            await client.SetRetentionAsync(new(chain, folder, days, least ?? 0, most), cancel);
        if (parsed.GetValue(Now))
            return Write(parsed, await client.RemoveOldAsync(cancel), "removed");
        var info = await client.RetentionAsync(cancel);
        if (parsed.GetValue(ServiceCommand.Json))
        {
            ServiceCommand.WriteJson(info);
            return ExitCodes.Succeeded;
        }
        Write(parsed, info.Chains, "would go now");
        foreach (var pin in info.Pins)
        {
            Console.WriteLine(
                $"run {pin.Run} stays: {Words.Plain(pin.Why ?? "pinned")} ({Words.Plain(pin.By)}, {Words.At(pin.At)})"
            );
        }
        return ExitCodes.Succeeded;
    }

    static int Write(ParseResult parsed, IReadOnlyList<ChainKeepingInfo> chains, string gone)
    {
        if (parsed.GetValue(ServiceCommand.Json))
        {
            ServiceCommand.WriteJson(chains);
            return ExitCodes.Succeeded;
        }
        if (chains.Count == 0)
        {
            Console.WriteLine("there are no runs yet");
            return ExitCodes.Succeeded;
        }
        var table = Tables.Create(
            new("chain"),
            new("what is kept of ended runs", IsLong: true),
            new("as is said for"),
            new(gone, IsNumber: true)
        );
        foreach (var chain in chains)
        {
            table.AddRow(
                Tables.Cell(chain.Chain),
                Tables.Cell(chain.Says),
                Tables.Cell(
                    chain.Rule is not { } rule ? ""
                    : rule.Chain is not null ? "it"
                    : Words.Folder(rule.Folder!)
                ),
                Tables.Cell($"{chain.Gone:N0}")
            );
        }
        Tables.Write(table);
        return ExitCodes.Succeeded;
    }

    static readonly Option<string?> Why = new("--message", "-m") { Description = "Why it is kept" };
    static readonly Option<bool> Off = new("--off") { Description = "It is kept no longer than others" };

    public static Command Pin() =>
        ServiceCommand.Create(
            "pin",
            "Keeps a run, and those that it has called, whatever is said about how long runs are kept",
            async (parsed, client, cancel) =>
            {
                var run = parsed.GetValue(ServiceCommand.Run);
                if (parsed.GetValue(Off))
                    await client.UnpinAsync(run, cancel);
                else
                    await client.PinAsync(run, parsed.GetValue(Why), cancel);
                Console.WriteLine(
                    $"run {run} is kept {(parsed.GetValue(Off) ? "as others are" : "until it is let go")}"
                );
                return ExitCodes.Succeeded;
            },
            ServiceCommand.Run,
            Why,
            Off
        );

    public static Command Usage() =>
        ServiceCommand.Create(
            "usage",
            "Says what takes room: tables of the database, logs, snapshots, files of steps",
            async (parsed, client, cancel) =>
            {
                var all = await client.UsageAsync(cancel);
                if (parsed.GetValue(ServiceCommand.Json))
                {
                    ServiceCommand.WriteJson(all);
                    return ExitCodes.Succeeded;
                }
                var table = Tables.Create(
                    new("what"),
                    new("rows or files", IsNumber: true),
                    new("room", IsNumber: true)
                );
                // The database stands before its tables, of which the small ones are not worth a line.
                foreach (
                    var part in all.Where(p => p.Bytes > 0 || p.Count >= (p.IsPart ? 1_000 : 1))
                        .OrderBy(p => p.IsPart || p.What == "database")
                        .ThenBy(p => p.IsPart)
                )
                {
                    table.AddRow(
                        Tables.Cell(part.IsPart ? $"  {part.What}" : part.What),
                        Tables.Cell(part.Count > 0 ? $"{part.Count:N0}" : ""),
                        Tables.Cell(part.Bytes is { } bytes ? Words.Size(bytes) : "")
                    );
                }
                Tables.Write(table);
                Console.WriteLine($"in all {Words.Size(all.Where(p => !p.IsPart).Sum(p => p.Bytes ?? 0))}");
                return ExitCodes.Succeeded;
            }
        );
}
