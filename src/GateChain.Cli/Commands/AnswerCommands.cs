using System.CommandLine;

namespace GateChain.Cli.Commands;

/// <summary>
/// <c>gatechain retry|anew|skip|settle|fail RUN STEP</c>: what a person decides about a step that paused its run.
/// </summary>
static class AnswerCommands
{
    public static readonly Option<string[]> Output = new("--output", "-o")
    {
        Description = "An output to settle with, name=value; a value may be JSON; again for more",
    };

    public static IEnumerable<Command> Create() =>
        [
            Create(
                "retry",
                "Retries a step that paused the run; a container or call continues inside, "
                    + "from what is settled there",
                "is tried again"
            ),
            Create(
                "anew",
                "Does all of a container or call that paused the run again; a call in a new child",
                "starts over"
            ),
            Create("skip", "Skips a step that paused the run", "is skipped"),
            Create(
                "settle",
                "Settles a step that paused the run as succeeded, with outputs given by hand",
                "is settled as succeeded",
                Output
            ),
            Create("fail", "Lets a step that paused the run fail: the failure counts", "has failed for good"),
        ];

    static Command Create(string answer, string description, string done, params Symbol[] more) =>
        StepDecision.Create(
            answer,
            description,
            done,
            (parsed, client, run, step, cancel) =>
            {
                var outputs = more.Length == 0 ? null : ServiceCommand.JsonPairs(parsed.GetValue(Output));
                return client.AnswerAsync(
                    run,
                    new(step, answer, outputs, parsed.GetValue(StepDecision.Message)),
                    cancel
                );
            },
            [StepDecision.Message, .. more]
        );
}
