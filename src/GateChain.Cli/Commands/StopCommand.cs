using System.CommandLine;

namespace GateChain.Cli.Commands;

/// <summary><c>gatechain stop RUN</c></summary>
static class StopCommand
{
    static readonly Option<string?> Message = new("--message", "-m") { Description = "Why; shown with the run" };

    public static Command Create() =>
        Common.Create(
            "stop",
            "Stops a run: what works is ended, nothing new starts; it can be resumed",
            async (parsed, client, cancel) =>
            {
                var run = await client.StopAsync(parsed.GetValue(Common.Run), new(parsed.GetValue(Message)), cancel);
                if (parsed.GetValue(Common.Json))
                {
                    Common.WriteJson(run);
                }
                else
                {
                    Console.WriteLine(
                        run switch
                        {
                            { State: "running" } =>
                                $"run {run.Id} was asked to stop; watch it with: gatechain show {run.Id} --follow",
                            { State: "failed" } =>
                                $"run {run.Id} will not resume automatically any more; it has failed",
                            _ => $"run {run.Id} {run.State}",
                        }
                    );
                }
                return ExitCodes.Succeeded;
            },
            Common.Run,
            Message
        );
}
