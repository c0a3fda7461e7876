using System.CommandLine;

namespace GateChain.Cli.Commands;

/// <summary><c>gatechain pause RUN</c></summary>
static class PauseCommand
{
    public static Command Create() =>
        ServiceCommand.CreateForRun(
            "pause",
            "Pauses a run: steps that run finish, no new step starts until it is resumed",
            (client, run, why, cancel) => client.PauseAsync(run, new(why), cancel),
            run => $"run {run.Id} is {run.State}; resume it with: gatechain resume {run.Id}"
        );
}
