using System.CommandLine;

namespace GateChain.Cli.Commands;

/// <summary><c>gatechain retire CHAIN</c> and <c>gatechain bring-back CHAIN</c></summary>
static class RetireCommands
{
    static readonly Argument<string> Chain = new("CHAIN") { Description = "The chain's name" };

    static readonly Option<string?> Message = new("--message", "-m") { Description = "Why; shown with the chain" };

    public static IEnumerable<Command> Create() =>
        [
            ServiceCommand.Create(
                "retire",
                "Takes a chain out of use: nothing starts it until it is brought back; its runs continue",
                async (parsed, client, cancel) =>
                {
                    var chain = parsed.GetValue(Chain)!;
                    var found = await client.ConsequencesAsync(chain, cancel);
                    var retired = await client.RetireAsync(chain, parsed.GetValue(Message), cancel);
                    foreach (var use in found.Uses)
                        Console.Error.WriteLine($"warning: {UsesCommand.NameOf(use)} starts it in vain from now on");
                    foreach (var listener in found.Listeners)
                        Console.Error.WriteLine($"warning: trigger {listener} waits for its runs in vain from now on");
                    foreach (var reader in found.Readers)
                    {
                        Console.Error.WriteLine(
                            $"warning: {reader.Chain}, step {reader.Step} reads {reader.Data}, which it writes"
                        );
                    }
                    if (parsed.GetValue(ServiceCommand.Json))
                        ServiceCommand.WriteJson(retired);
                    else
                        Console.WriteLine($"{chain} is retired; its runs continue, and can be resumed");
                    return ExitCodes.Succeeded;
                },
                Chain,
                Message
            ),
            ServiceCommand.Create(
                "bring-back",
                "Brings a retired chain back into use",
                async (parsed, client, cancel) =>
                {
                    var chain = parsed.GetValue(Chain)!;
                    await client.BringBackAsync(chain, cancel);
                    if (parsed.GetValue(ServiceCommand.Json))
                        ServiceCommand.WriteJson(await client.ChainAsync(chain, cancel));
                    else
                        Console.WriteLine($"{chain} is in use again");
                    return ExitCodes.Succeeded;
                },
                Chain
            ),
        ];
}
