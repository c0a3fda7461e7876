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
            "Lists the steps that call a chain, and the triggers that start it",
            async (parsed, client, cancel) =>
            {
                var chain = parsed.GetValue(Chain)!;
                var uses = parsed.GetValue(Draft)
                    ? await client.UsesAsync(chain, (await client.DraftAsync(chain, cancel)).Source, cancel)
                    : await client.UsesAsync(chain, cancel);
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
