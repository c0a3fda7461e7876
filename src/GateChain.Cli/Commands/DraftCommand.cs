using System.CommandLine;
using GateChain.Client;

namespace GateChain.Cli.Commands;

/// <summary><c>gatechain draft CHAIN</c></summary>
static class DraftCommand
{
    static readonly Argument<string> Chain = new("CHAIN") { Description = "The chain's name" };
    static readonly Option<string?> Put = new("--put") { Description = "Save this file as the draft" };
    static readonly Option<string[]> Attach = new("--attach")
    {
        Description = "With --put: a file to put to it as an attachment; again for more",
    };
    static readonly Option<long?> Seen = new("--seen")
    {
        Description = "With --put and --discard: the version it is made from; refused when somebody has saved since",
    };
    static readonly Option<bool> Discard = new("--discard")
    {
        Description = "Let the draft go; the latest release stays",
    };

    public static Command Create() =>
        ServiceCommand.Create(
            "draft",
            "Writes a chain's draft (or its latest release) to the output, saves one, or lets it go",
            async (parsed, client, cancel) =>
            {
                var chain = parsed.GetValue(Chain)!;
                if (parsed.GetValue(Put) is { } file)
                {
                    var attached = (parsed.GetValue(Attach) ?? []).ToDictionary(
                        f => Path.GetFileName(f),
                        File.ReadAllBytes
                    );
                    var saved = await client.SaveDraftAsync(
                        chain,
                        parsed.GetValue(Seen) ?? await VersionAsync(client, chain, cancel),
                        await File.ReadAllTextAsync(file, cancel),
                        attached,
                        cancel
                    );
                    if (parsed.GetValue(ServiceCommand.Json))
                    {
                        ServiceCommand.WriteJson(saved);
                    }
                    else
                    {
                        Console.WriteLine(
                            $"saved version {saved.Version} of the draft of {chain}; release it with: "
                                + $"gatechain release {chain}"
                        );
                    }
                    return ExitCodes.Succeeded;
                }
                if (parsed.GetValue(Discard))
                {
                    await client.DiscardDraftAsync(
                        chain,
                        parsed.GetValue(Seen) ?? await VersionAsync(client, chain, cancel),
                        cancel
                    );
                    Console.WriteLine($"the draft of {chain} is gone");
                    return ExitCodes.Succeeded;
                }
                var draft = await client.DraftAsync(chain, cancel);
                if (parsed.GetValue(ServiceCommand.Json))
                    ServiceCommand.WriteJson(draft);
                else
                    Console.Write(draft.Source);
                return ExitCodes.Succeeded;
            },
            Chain,
            Put,
            Attach,
            Seen,
            Discard
        );

    // A chain that is not there yet begins with version 0.
    static async Task<long> VersionAsync(GateChainClient client, string chain, CancellationToken cancel)
    {
        try
        {
            return (await client.DraftAsync(chain, cancel)).Version;
        }
        catch (GateChainException e) when (e.Status == 404)
        {
            return 0;
        }
    }
}
