using System.CommandLine;

namespace GateChain.Cli.Commands;

/// <summary><c>gatechain restart RUN</c></summary>
static class RestartCommand
{
    static readonly Option<bool> Latest = new("--latest")
    {
        Description = "Follow the chain's latest release instead of the same one",
    };

    public static Command Create() =>
        ServiceCommand.Create(
            "restart",
            "Starts a new run with the parameters and profile values of an earlier one",
            async (parsed, client, cancel) =>
            {
                var old = parsed.GetValue(ServiceCommand.Run);
                var run = await client.RestartAsync(old, new(parsed.GetValue(Latest)), cancel);
                return await RunCommand.ShowAsync(
                    parsed,
                    client,
                    run,
                    $"run {run.Id} of {run.Chain} has started, as run {old} did",
                    cancel
                );
            },
            ServiceCommand.Run,
            Latest,
            RunCommand.Follow
        );
}
