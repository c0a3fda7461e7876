using GateChain.Client;

namespace GateChain.Cli.Terminal;

/// <summary>What is to be said below a run: why it failed and what to do now.</summary>
static class Ending
{
    public static void Write(RunDetail run)
    {
        if (run.State == "running") { return; }
        Console.WriteLine();
        Console.WriteLine($"run {run.Id} {run.State}{(run.Leg > 1 ? $" in leg {run.Leg}" : "")}{(run.Error is { } error ? $": {error}" : "")}");
        if (run.Absorbed > 0) { Console.WriteLine($"{Words.Count(run.Absorbed, "failure")} absorbed"); }
        foreach (var warning in run.Warnings) { Console.WriteLine($"warning: {warning}"); }
        if (run.Outputs.ValueKind == System.Text.Json.JsonValueKind.Object)
        {
            foreach (var output in run.Outputs.EnumerateObject()) { Console.WriteLine($"  {output.Name} = {output.Value}"); }
        }
        foreach (var path in run.Failures.Take(3)) { Console.WriteLine($"  why:    gatechain why {run.Id} '{path}'"); }
        if (run.State is "failed" or "stopped") { Console.WriteLine($"  resume: gatechain resume {run.Id} --follow"); }
    }
}
