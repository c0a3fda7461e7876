using System.CommandLine;

namespace GateChain.Cli.Commands;

/// <summary><c>gatechain stop RUN</c></summary>
static class StopCommand
{
    public static Command Create() =>
        ServiceCommand.CreateForRun(
            "stop",
            "Stops a run: steps that run are ended, no new step starts; it can be resumed",
            (client, run, why, cancel) => client.StopAsync(run, new(why), cancel),
            run =>
                run.State switch
                {
                    "running" => $"run {run.Id} was asked to stop; watch it with: gatechain show {run.Id} --follow",
                    "failed" => $"run {run.Id} will not resume automatically any more; it has failed",
                    _ => $"run {run.Id} {run.State}",
                }
        );
}
