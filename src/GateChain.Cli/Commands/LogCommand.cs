using System.CommandLine;
using GateChain.Cli.Terminal;

namespace GateChain.Cli.Commands;

/// <summary><c>gatechain log RUN STEP</c></summary>
static class LogCommand
{
    static readonly Option<int?> Attempt = new("--attempt")
    {
        Description = "The attempt's number in the run (why --json lists them); the latest when absent",
    };
    static readonly Option<bool> Follow = new("--follow", "-f") { Description = "Follow until the attempt has ended" };

    public static Command Create() =>
        ServiceCommand.Create(
            "log",
            "Prints what an attempt of a step has said",
            async (parsed, client, cancel) =>
            {
                var (run, step) = (parsed.GetValue(ServiceCommand.Run), parsed.GetValue(ServiceCommand.Step)!);
                var lines = new List<string>();
                var empty = true;
                for (long from = 0; ; )
                {
                    var page = await client.LogAsync(run, step, parsed.GetValue(Attempt), from, cancel);
                    if (parsed.GetValue(ServiceCommand.Json))
                        lines.AddRange(page.Text.Split('\n', StringSplitOptions.RemoveEmptyEntries));
                    else
                        Console.Write(Words.Plain(page.Text));
                    empty &= page.Text.Length == 0;
                    from = page.Next;
                    if (page.Ended || (page.Text.Length == 0 && !parsed.GetValue(Follow)))
                        break;
                    if (page.Text.Length == 0)
                        await Task.Delay(150, cancel);
                }
                if (parsed.GetValue(ServiceCommand.Json))
                {
                    ServiceCommand.WriteJson(lines);
                }
                else if (empty)
                {
                    Console.Error.WriteLine(
                        parsed.GetValue(Attempt) is { } number
                            ? $"attempt {number} of “{step}” has said nothing, or there is none of that "
                                + $"number; gatechain why {run} '{step}' lists them"
                            : $"“{step}” has said nothing: no attempt of it has begun, or none had anything to say"
                    );
                }
                return ExitCodes.Succeeded;
            },
            ServiceCommand.Run,
            ServiceCommand.Step,
            Attempt,
            Follow
        );
}
