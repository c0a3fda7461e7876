using System.CommandLine;
using GateChain.Cli.Terminal;

namespace GateChain.Cli.Commands;

/// <summary><c>gatechain show RUN</c></summary>
static class ShowCommand
{
    static readonly Option<int?> Leg = new("--leg") { Description = "As the run was when this leg ended" };

    static readonly Option<long?> Moment = new("--moment")
    {
        Description = "As the run was behind this decision; gatechain moments RUN lists them",
    };

    public static Command Create() =>
        ServiceCommand.Create(
            "show",
            "Shows a run: its steps with state, time and message",
            async (parsed, client, cancel) =>
            {
                var id = parsed.GetValue(ServiceCommand.Run);
                var json = parsed.GetValue(ServiceCommand.Json);
                if (parsed.GetValue(RunCommand.Follow))
                {
                    var end = await Follower.FollowAsync(
                        client,
                        id,
                        json,
                        cancel,
                        stayPaused: parsed.GetValue(RunCommand.WaitPaused)
                    );
                    if (json)
                        ServiceCommand.WriteJson(end);
                    return ExitCodes.Of(end.State);
                }
                var moment = parsed.GetValue(Moment);
                var run = moment is { } at
                    ? await client.RunAtAsync(id, at, cancel)
                    : await client.RunAsync(id, parsed.GetValue(Leg), cancel);
                if (json)
                {
                    ServiceCommand.WriteJson(run);
                }
                else
                {
                    Tables.Write(RunPicture.Of(run, DateTimeOffset.UtcNow, height: null, whole: true));
                    if (moment is null && run.Ended is null && await client.ExpectedAsync(id, cancel) is { } expected)
                        Console.WriteLine($"  {Words.Expected(expected)}");
                    Ending.Write(run);
                }
                return ExitCodes.Succeeded;
            },
            ServiceCommand.Run,
            Leg,
            Moment,
            RunCommand.Follow,
            RunCommand.WaitPaused
        );
}
