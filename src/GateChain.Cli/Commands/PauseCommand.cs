using System.CommandLine;

namespace GateChain.Cli.Commands;

/// <summary><c>gatechain pause RUN</c></summary>
static class PauseCommand
{
    static readonly Option<string?> Message = new("--message", "-m") { Description = "Why; shown with the run" };

    public static Command Create() =>
        Common.Create(
            "pause",
            "Pauses a run: steps that run finish, no new step starts until it is resumed",
            async (parsed, client, cancel) =>
            {
                var run = await client.PauseAsync(parsed.GetValue(Common.Run), new(parsed.GetValue(Message)), cancel);
                if (parsed.GetValue(Common.Json))
                    Common.WriteJson(run);
                else
                    Console.WriteLine($"run {run.Id} is {run.State}; resume it with: gatechain resume {run.Id}");
                return ExitCodes.Succeeded;
            },
            Common.Run,
            Message
        );
}
