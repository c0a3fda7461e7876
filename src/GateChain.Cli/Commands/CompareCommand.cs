using System.CommandLine;
using System.Globalization;
using GateChain.Cli.Terminal;
using GateChain.Client;
using GateChain.Core.Designing;

namespace GateChain.Cli.Commands;

/// <summary><c>gatechain compare A B</c></summary>
static class CompareCommand
{
    static readonly Argument<string> Before = new("A")
    {
        Description = "A chain file, CHAIN@3 for a release, CHAIN@draft, or CHAIN for the latest release",
    };
    static readonly Argument<string> After = new("B") { Description = "Another one" };

    public static Command Create() =>
        ServiceCommand.Create(
            "compare",
            "Tells what two versions of a chain say differently: steps, gates, settings. "
                + "Exit code 1 when there is something",
            async (parsed, client, cancel) =>
            {
                var changes = ChainComparison.Compare(
                    await ReadAsync(client, parsed.GetValue(Before)!, cancel),
                    await ReadAsync(client, parsed.GetValue(After)!, cancel)
                );
                if (parsed.GetValue(ServiceCommand.Json))
                    ServiceCommand.WriteJson(changes);
                else
                    ComparisonLines.Write(changes, Console.Out);
                return changes.Count == 0 ? ExitCodes.Succeeded : ExitCodes.Failed;
            },
            Before,
            After
        );

    static async Task<string> ReadAsync(GateChainClient client, string name, CancellationToken cancel)
    {
        if (File.Exists(name))
            return await File.ReadAllTextAsync(name, cancel);
        var at = name.LastIndexOf('@');
        var (chain, version) = at < 0 ? (name, "latest") : (name[..at], name[(at + 1)..]);
        if (version == "draft")
            return (await client.DraftAsync(chain, cancel)).Source;
        if (version == "latest")
            return (await client.ChainAsync(chain, cancel)).Source;
        return int.TryParse(version, NumberStyles.None, CultureInfo.InvariantCulture, out var number)
            ? (await client.ReleaseAsync(chain, number, cancel)).Source
            : throw new GateChainException(
                422,
                $"“{version}” is no version; a version is a release's number, draft or latest",
                null,
                []
            );
    }
}
