using System.CommandLine;
using GateChain.Client;

namespace GateChain.Cli.Commands;

/// <summary>A command with which a person decides about one step of a run.</summary>
static class StepDecision
{
    public static readonly Option<string?> Message = new("--message", "-m")
    {
        Description = "Why; shown with the step",
    };

    /// <param name="name">The command.</param>
    /// <param name="description">What it does.</param>
    /// <param name="done">What has become of the step, behind its path.</param>
    /// <param name="decide">Tells the service; gets the run and the step.</param>
    /// <param name="more">What the command takes besides.</param>
    public static Command Create(
        string name,
        string description,
        string done,
        Func<ParseResult, GateChainClient, long, string, CancellationToken, Task<RunSummary>> decide,
        params Symbol[] more
    ) =>
        ServiceCommand.Create(
            name,
            description,
            async (parsed, client, cancel) =>
            {
                var step = parsed.GetValue(ServiceCommand.Step)!;
                var run = await decide(parsed, client, parsed.GetValue(ServiceCommand.Run), step, cancel);
                return await RunCommand.ShowAsync(
                    parsed,
                    client,
                    run,
                    $"“{step}” {done}; run {run.Id} is {run.State}",
                    cancel
                );
            },
            [ServiceCommand.Run, ServiceCommand.Step, RunCommand.Follow, RunCommand.WaitPaused, .. more]
        );
}
