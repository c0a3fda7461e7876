using GateChain.Client;
using GateChain.Core.Chains;
using GateChain.Core.Chains.Kinds;

namespace GateChain.Cli.Terminal;

/// <summary>What is to be said below a run: why it failed and what to do now.</summary>
static class Ending
{
    public static void Write(RunDetail run)
    {
        if (run.State == "running")
        {
            Held(run);
            return;
        }
        Console.WriteLine();
        if (run.Ended is null)
        {
            Unended(run);
            return;
        }
        Console.WriteLine(
            $"run {run.Id} {run.State}{(run.Leg > 1 ? $" in leg {run.Leg}" : "")}"
                + $"{(run.Error is { } error ? $": {Words.Plain(error)}" : "")}"
        );
        if (run.Status.Late)
            Console.WriteLine("it was late");
        if (run.Absorbed > 0)
            Console.WriteLine($"{Words.Count(run.Absorbed, "failure")} absorbed");
        foreach (var warning in run.Warnings)
            Console.WriteLine($"warning: {Words.Plain(warning)}");
        if (run.Outputs.ValueKind == System.Text.Json.JsonValueKind.Object)
        {
            foreach (var output in run.Outputs.EnumerateObject())
            {
                Console.WriteLine(
                    $"  {output.Name} = "
                        + (
                            output.Value.ValueKind == System.Text.Json.JsonValueKind.String
                                ? Words.Plain(output.Value.GetString()!)
                                : output.Value.GetRawText()
                        )
                );
            }
        }
        if (run.Status.FailedAt is { } at)
        {
            if (!Controls(run, at))
                Console.WriteLine($"  log:    gatechain log {at.Run} '{at.Step}'");
            Console.WriteLine($"  why:    gatechain why {at.Run} '{at.Step}'");
        }
        foreach (
            var path in run
                .Failures.Where(p => run.Status.FailedAt?.Run != run.Id || p != run.Status.FailedAt.Step)
                .Take(2)
        )
        {
            Console.WriteLine($"  why:    gatechain why {run.Id} '{path}'");
        }
        if (run.Status.ResumeAt is { } again)
        {
            Console.WriteLine(
                $"it resumes automatically at {Words.At(again)}; cancel that with: gatechain stop {run.Id}"
            );
        }
        if (run.State is "failed" or "stopped")
            Console.WriteLine($"  resume: gatechain resume {run.Id} --follow");
    }

    // A step that works through other steps, or none, has no log.
    static bool Controls(RunDetail run, FailurePlace at) =>
        at.Run == run.Id
        && run.Steps.FirstOrDefault(s => s.Path == at.Step) is { } step
        && KindOf([.. run.Graph.Steps, .. run.Graph.Handlers.SelectMany(h => h.Graph.Steps)], step.Address) is { } kind
        && ControlKinds.All.Any(k => k.Name == kind);

    static string? KindOf(IReadOnlyList<StepNode> steps, string address) =>
        steps
            .Select(s =>
                s.Address == address ? s.Kind
                : s.Inner is { } inner && new StepPath(address).IsWithin(new(s.Address)) ? KindOf(inner.Steps, address)
                : null
            )
            .FirstOrDefault(k => k is not null);

    const int HeldShown = 5;

    // What a person can do about steps that their guards hold.
    static void Held(RunDetail run)
    {
        var held = run.Steps.Where(s => s.State == "held").ToList();
        foreach (var step in held.Take(HeldShown))
            Console.WriteLine($"“{step.Path}” is held; decide: gatechain look|let-through {run.Id} '{step.Path}'");
        if (held.Count > HeldShown)
            Console.WriteLine($"… and {Words.Count(held.Count - HeldShown, "step")} more held");
    }

    /// <summary>What a run that is queued or paused waits for, and what a person can do about it.</summary>
    public static void Unended(RunDetail run)
    {
        if (run.State == "queued")
            Console.WriteLine($"run {run.Id} is queued: it begins when the runs of {run.Chain} before it have ended");
        if (run.Status.PausedBy is { } by)
        {
            Console.WriteLine(
                $"run {run.Id} was paused by {by}{(run.Status.PauseMessage is { } why ? $": {why}" : "")}"
                    + $"; resume it with: gatechain resume {run.Id}"
            );
        }
        Held(run);
        foreach (var path in run.Status.PausedSteps)
        {
            Console.WriteLine($"“{path}” paused the run: {run.Steps.FirstOrDefault(s => s.Path == path)?.Message}");
            Console.WriteLine(
                $"  decide: gatechain retry|anew|skip|settle|fail {run.Id} '{path}', or gatechain stop {run.Id}"
            );
        }
    }
}
