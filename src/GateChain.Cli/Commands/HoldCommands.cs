using System.CommandLine;

namespace GateChain.Cli.Commands;

/// <summary>
/// <c>gatechain let-through|look RUN STEP</c>: what a person decides about a step that its guard holds.
/// </summary>
static class HoldCommands
{
    public static IEnumerable<Command> Create() =>
        [
            StepDecision.Create(
                "let-through",
                "Lets a step through that its guard holds, as if the guard had said proceed",
                "is let through",
                (parsed, client, run, step, cancel) =>
                    client.AnswerHoldAsync(
                        run,
                        new(step, "let-through", parsed.GetValue(StepDecision.Message)),
                        cancel
                    ),
                StepDecision.Message
            ),
            StepDecision.Create(
                "look",
                "Asks the guard of a held step to look now, whatever was planned",
                "is looked at now",
                (_, client, run, step, cancel) => client.AnswerHoldAsync(run, new(step, "look"), cancel)
            ),
        ];
}
