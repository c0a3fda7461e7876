using System.CommandLine;
using GateChain.Cli.Terminal;
using GateChain.Client;

namespace GateChain.Cli.Commands;

/// <summary><c>gatechain uses CHAIN</c></summary>
static class UsesCommand
{
    static readonly Argument<string> Chain = new("CHAIN") { Description = "The chain's name" };
    static readonly Option<bool> Draft = new("--draft")
    {
        Description = "Also says what the chain's draft would break there; the exit code is 1 when it would",
    };

    public static Command Create() =>
        ServiceCommand.Create(
            "uses",
            "Tells what hangs on a chain: who calls, starts and listens to it, reads what it writes; and what it needs",
            async (parsed, client, cancel) =>
            {
                var chain = parsed.GetValue(Chain)!;
                var json = parsed.GetValue(ServiceCommand.Json);
                if (!parsed.GetValue(Draft))
                    return All(await client.ConsequencesAsync(chain, cancel), chain, json);
                var uses = await client.UsesAsync(chain, (await client.DraftAsync(chain, cancel)).Source, cancel);
                if (parsed.GetValue(ServiceCommand.Json))
                    ServiceCommand.WriteJson(uses);
                else if (uses.Count == 0)
                    Console.WriteLine($"nothing calls or starts {chain}");
                foreach (var use in parsed.GetValue(ServiceCommand.Json) ? [] : uses)
                {
                    Console.WriteLine(NameOf(use));
                    WriteBreaks(use);
                }
                return uses.Any(u => u.Breaks.Count > 0) ? ExitCodes.Failed : ExitCodes.Succeeded;
            },
            Chain,
            Draft
        );

    static int All(ConsequencesInfo found, string chain, bool json)
    {
        if (json)
        {
            ServiceCommand.WriteJson(found);
            return ExitCodes.Succeeded;
        }
        Lines("called by", found.Uses.Where(u => u.Trigger is null).Select(NameOf));
        Lines("started by", found.Uses.Where(u => u.Trigger is not null).Select(NameOf));
        Lines("listened to by", found.Listeners.Select(t => $"trigger {t}"));
        Lines("what it writes is read by", found.Readers.Select(r => $"{r.Chain}, step {r.Step}: {r.Data}"));
        if (found.Uses.Count + found.Listeners.Count + found.Readers.Count == 0)
            Console.WriteLine($"nothing calls, starts, listens to or reads what {chain} writes");
        Lines("it calls", found.Calls);
        Lines("it needs the connections", found.Connections);
        Lines("its steps queue for the lanes", found.Lanes);
        return ExitCodes.Succeeded;
    }

    static void Lines(string title, IEnumerable<string> lines)
    {
        foreach (var (i, line) in lines.Index())
        {
            if (i == 0)
                Console.WriteLine(title);
            Console.WriteLine($"  {Words.Plain(line)}");
        }
    }

    /// <summary>Warns of what a release would break where the chain is used.</summary>
    public static void Warn(IEnumerable<ChainUseInfo> uses)
    {
        foreach (var use in uses.Where(u => u.Breaks.Count > 0))
        {
            Console.Error.WriteLine($"warning: {NameOf(use)} breaks with it");
            WriteBreaks(use, Console.Error);
        }
    }

    /// <summary>Where it is used, for people.</summary>
    public static string NameOf(ChainUseInfo use) =>
        use.Trigger is { } trigger ? $"trigger {trigger}" : $"{use.Chain}, step {use.Step}";

    static void WriteBreaks(ChainUseInfo use, TextWriter? to = null)
    {
        foreach (var sentence in use.Breaks)
            (to ?? Console.Out).WriteLine($"  ! {Words.Plain(sentence)}");
    }
}
