using System.CommandLine;

namespace GateChain.Cli.Commands;

/// <summary>
/// <c>gatechain let-through|look RUN STEP</c>: what a person decides about a step that its guard holds.
/// </summary>
static class HoldCommands
{
    static readonly Option<string?> Message = new("--message", "-m") { Description = "Why; shown with the step" };

    public static IEnumerable<Command> Create() =>
        [
            Create(
                "let-through",
                "Lets a step through that its guard holds, as if the guard had said proceed",
                "is let through",
                Message
            ),
            Create("look", "Asks the guard of a held step to look now, whatever was planned", "is looked at now"),
        ];

    static Command Create(string answer, string description, string done, params Symbol[] more) =>
        ServiceCommand.Create(
            answer,
            description,
            async (parsed, client, cancel) =>
            {
                var step = parsed.GetValue(ServiceCommand.Step)!;
                var run = await client.AnswerHoldAsync(
                    parsed.GetValue(ServiceCommand.Run),
                    new(step, answer, more.Length == 0 ? null : parsed.GetValue(Message)),
                    cancel
                );
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
