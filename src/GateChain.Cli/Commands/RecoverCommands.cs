using System.CommandLine;

namespace GateChain.Cli.Commands;

/// <summary>
/// <c>gatechain recover RUN</c> and <c>gatechain gone RUN STEP</c>: what the service could not ensure by itself.
/// </summary>
static class RecoverCommands
{
    public static Command Recover() =>
        ServiceCommand.Create(
            "recover",
            "Tries again to continue a run that is stranded (GET /health lists them)",
            async (parsed, client, cancel) =>
            {
                var run = await client.RecoverAsync(parsed.GetValue(ServiceCommand.Run), cancel);
                return await RunCommand.ShowAsync(
                    parsed,
                    client,
                    run,
                    $"run {run.Id} of {run.Chain} continues",
                    cancel
                );
            },
            ServiceCommand.Run,
            RunCommand.Follow,
            RunCommand.WaitPaused
        );

    public static Command Gone() =>
        ServiceCommand.Create(
            "gone",
            "Says that what a lost attempt of a step had started is gone, where the service can't end it",
            async (parsed, client, cancel) =>
            {
                var run = await client.ConfirmGoneAsync(
                    parsed.GetValue(ServiceCommand.Run),
                    parsed.GetValue(ServiceCommand.Step)!,
                    cancel
                );
                return await RunCommand.ShowAsync(
                    parsed,
                    client,
                    run,
                    $"“{parsed.GetValue(ServiceCommand.Step)}” continues as its onCrash says; "
                        + $"run {run.Id} is {run.State}",
                    cancel
                );
            },
            ServiceCommand.Run,
            ServiceCommand.Step,
            RunCommand.Follow,
            RunCommand.WaitPaused
        );
}
