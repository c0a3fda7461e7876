using System.CommandLine;
using GateChain.Cli.Terminal;
using GateChain.Client;

namespace GateChain.Cli.Commands;

/// <summary><c>gatechain run CHAIN</c></summary>
static class RunCommand
{
    static readonly Argument<string> Chain = new("CHAIN") { Description = "The chain's name" };
    static readonly Option<string[]> Param = new("--param", "-p")
    {
        Description = "A parameter, name=value; again for more",
    };
    static readonly Option<string?> Profile = new("--profile") { Description = "The profile to run under" };
    public static Option<bool> Follow { get; } =
        new("--follow", "-f")
        {
            Description =
                "Show what happens until the run ends, automatic resumes included; the exit code tells its outcome",
        };

    public static Option<bool> WaitPaused { get; } =
        new("--wait-paused")
        {
            Description = "With --follow: stay when the run pauses, instead of ending with exit code 6",
        };

    public static Command Create() =>
        ServiceCommand.Create(
            "run",
            "Starts a run",
            async (parsed, client, cancel) =>
            {
                var run = await client.StartAsync(
                    new(
                        parsed.GetValue(Chain)!,
                        ServiceCommand.Pairs(parsed.GetValue(Param)),
                        parsed.GetValue(Profile)
                    ),
                    cancel
                );
                return await ShowAsync(parsed, client, run, $"run {run.Id} of {run.Chain} has started", cancel);
            },
            Chain,
            Param,
            Profile,
            Follow,
            WaitPaused
        );

    /// <summary>Follows a run that has just begun or been resumed, or says that it has.</summary>
    public static async Task<int> ShowAsync(
        ParseResult parsed,
        GateChainClient client,
        RunSummary run,
        string sentence,
        CancellationToken cancel
    )
    {
        var json = parsed.GetValue(ServiceCommand.Json);
        if (parsed.GetValue(Follow))
        {
            var end = await Follower.FollowAsync(client, run.Id, json, cancel, stayPaused: parsed.GetValue(WaitPaused));
            if (json)
                ServiceCommand.WriteJson(end);
            return ExitCodes.Of(end.State);
        }
        if (json)
        {
            ServiceCommand.WriteJson(run);
        }
        else
        {
            Console.WriteLine(
                $"{sentence}; "
                    + (
                        run.Ended is null
                            ? $"watch it with: gatechain show {run.Id} --follow"
                            : $"look at it with: gatechain show {run.Id}"
                    )
            );
        }
        return ExitCodes.Succeeded;
    }
}
