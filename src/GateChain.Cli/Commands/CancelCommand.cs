using System.CommandLine;

namespace GateChain.Cli.Commands;

/// <summary><c>gatechain cancel RUN STEP [--as failed|skipped|succeeded]</c></summary>
static class CancelCommand
{
    public static Command Create()
    {
        var outcome = new Option<string>("--as")
        {
            Description = "What it settles as: failed (the default; without another attempt), skipped or succeeded",
            DefaultValueFactory = _ => "failed",
        };
        outcome.AcceptOnlyFromAmong("failed", "skipped", "succeeded");
        return StepDecision.Create(
            "cancel",
            "Ends one step that is at work, held, queued or resting, or one iteration (depots[2]); the run goes on",
            "is cancelled, and settles when all in it has ended",
            (parsed, client, run, step, cancel) =>
                client.CancelAsync(
                    run,
                    new(
                        step,
                        parsed.GetValue(outcome)!,
                        ServiceCommand.JsonPairs(parsed.GetValue(AnswerCommands.Output)),
                        parsed.GetValue(StepDecision.Message)
                    ),
                    cancel
                ),
            outcome,
            AnswerCommands.Output,
            StepDecision.Message
        );
    }
}
