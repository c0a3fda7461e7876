using System.CommandLine;
using GateChain.Cli.Terminal;
using Spectre.Console;

namespace GateChain.Cli.Commands;

/// <summary><c>gatechain why RUN STEP</c></summary>
static class WhyCommand
{
    public static Command Create() =>
        ServiceCommand.Create(
            "why",
            "Explains a step's fate: gates, expressions with their values, attempts",
            async (parsed, client, cancel) =>
            {
                var step = await client.StepAsync(
                    parsed.GetValue(ServiceCommand.Run),
                    parsed.GetValue(ServiceCommand.Step)!,
                    cancel
                );
                if (parsed.GetValue(ServiceCommand.Json))
                {
                    ServiceCommand.WriteJson(step.Why);
                    return ExitCodes.Succeeded;
                }
                AnsiConsole.Write(
                    new Columns(States.Text(step.Status.State), new Text($"{step.Status.Path}  ({step.Kind})"))
                    {
                        Expand = false,
                    }
                );
                Console.WriteLine(Words.Plain(step.Why.Sentence));
                foreach (var gate in step.Why.Gates)
                {
                    Console.WriteLine(
                        $"  gate {(gate.State == "open" ? "┤ ├" : gate.State == "shut" ? "─┃─" : "─?─")} "
                            + $"{gate.Sentence}"
                    );
                    foreach (var part in gate.Parts)
                        Console.WriteLine($"         {part.Text}  →  {part.Value ?? "not looked at"}");
                }
                if (step.Why.Guard is { } guard)
                {
                    Console.WriteLine(
                        $"  guard {guard.Verdict}, look {guard.Look}"
                            + $"{(guard.Message is { } said ? $": {said}" : "")}"
                            + (
                                step.Status.Hold is { Looks: > 1 } hold
                                    ? $"; it held the step from {Words.At(hold.Since)}, for "
                                        + Words.Took(
                                            hold.Since,
                                            step.Status.Started ?? step.Status.Ended ?? DateTimeOffset.UtcNow
                                        )
                                    : ""
                            )
                    );
                    foreach (var part in guard.Parts)
                        Console.WriteLine($"         {part.Text}  →  {part.Value ?? "not looked at"}");
                }
                if (step.Status.Lane is { } lane)
                    Console.WriteLine($"  lane {lane}");
                if (step.Status.Answered is { } answered)
                    Console.WriteLine($"  decided while it had paused the run: {answered}");
                if (step.Status.Child is { } child)
                    Console.WriteLine($"  child run {child}: gatechain show {child}");
                foreach (var branch in step.Why.Branches)
                {
                    Console.WriteLine(
                        $"  branch {branch.Name}: "
                            + (
                                branch.Taken ? "taken"
                                : branch == step.Why.Branches[^1] && step.Error is { Code: "expression" }
                                    ? "could not be decided"
                                : "does not hold"
                            )
                    );
                    foreach (var part in branch.Parts)
                        Console.WriteLine($"         {part.Text}  →  {part.Value ?? "not looked at"}");
                }
                foreach (var attempt in step.Attempts)
                {
                    Console.WriteLine(
                        $"  leg {attempt.Leg}, attempt {attempt.Attempt}: {attempt.Result} "
                            + $"{attempt.Started:yyyy-MM-dd HH:mm:ss.fff} UTC, "
                            + $"{Words.Took(attempt.Started, attempt.Ended)}"
                            + $"{(attempt.Error is { } error ? $": {error.Message}" : "")}"
                            + $"{(attempt.RetryAt is { } again ? $"; the next one at {Words.At(again)}" : "")}"
                    );
                }
                if (step.Error?.Detail is { } detail)
                    Console.WriteLine(Words.Plain(detail));
                foreach (var warning in step.Why.Warnings)
                    Console.WriteLine($"  warning: {warning}");
                return ExitCodes.Succeeded;
            },
            ServiceCommand.Run,
            ServiceCommand.Step
        );
}
