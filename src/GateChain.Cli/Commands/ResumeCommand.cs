using System.CommandLine;
using GateChain.Cli.Terminal;
using GateChain.Client;

namespace GateChain.Cli.Commands;

/// <summary><c>gatechain resume RUN</c></summary>
static class ResumeCommand
{
    static readonly Option<string[]> Set = new("--set", "-s")
    {
        Description = "Correct a parameter or a variable, name=value; again for more",
    };
    static readonly Option<string[]> From = new("--from")
    {
        Description = "Run this step again with all steps after it, even if it succeeded",
    };
    static readonly Option<string[]> Skip = new("--skip") { Description = "Pass this step over" };

    static readonly Option<string[]> Settle = new("--settle")
    {
        Description = "Settle this step as succeeded instead, STEP or STEP={outputs as JSON}",
    };
    static readonly Option<string?> Release = new("--release")
    {
        Description = "Move to other content: latest, draft, the number of a release, or a content hash",
    };

    static readonly Option<bool> DryRun = new("--dry-run")
    {
        Description = "Tell what would run again, gone on with and kept, and begin nothing",
    };

    public static Command Create() =>
        ServiceCommand.Create(
            "resume",
            "Resumes a failed, stopped or paused run from the failing step",
            async (parsed, client, cancel) =>
            {
                var request = new ResumeRequest(
                    ServiceCommand.Pairs(parsed.GetValue(Set)),
                    parsed.GetValue(From),
                    parsed.GetValue(Skip),
                    Settled(parsed.GetValue(Settle)),
                    parsed.GetValue(Release)
                );
                if (parsed.GetValue(DryRun))
                    return await TellAsync(parsed, client, request, cancel);
                var run = await client.ResumeAsync(parsed.GetValue(ServiceCommand.Run), request, cancel);
                if (!parsed.GetValue(ServiceCommand.Json))
                {
                    var leg = (await client.RunAsync(run.Id, cancel: cancel)).Resumes[^1];
                    if (leg.GoesOn.Count > 0)
                        Console.WriteLine($"continues inside: {Some(leg.GoesOn)}");
                    if (leg.Redone.Count > 0)
                        Console.WriteLine($"repeated: {Some(leg.Redone)}");
                    Console.WriteLine("everything else is kept");
                }
                return await RunCommand.ShowAsync(
                    parsed,
                    client,
                    run,
                    $"run {run.Id} of {run.Chain} continues in leg {run.Leg}",
                    cancel
                );
            },
            ServiceCommand.Run,
            Set,
            From,
            Skip,
            Settle,
            Release,
            DryRun,
            RunCommand.Follow,
            RunCommand.WaitPaused
        );

    static async Task<int> TellAsync(
        ParseResult parsed,
        GateChainClient client,
        ResumeRequest request,
        CancellationToken cancel
    )
    {
        var plan = await client.PlanAsync(parsed.GetValue(ServiceCommand.Run), request, cancel);
        if (parsed.GetValue(ServiceCommand.Json))
        {
            ServiceCommand.WriteJson(plan);
            return ExitCodes.Succeeded;
        }
        if (plan.GoesOn.Count > 0)
            Console.WriteLine($"would continue inside: {Some(plan.GoesOn)}");
        Console.WriteLine(
            plan.Redone.Count > 0
                ? $"would be repeated: {Some(plan.Redone)}"
                : "only steps that have not started would run, and the outputs be computed again"
        );
        if (plan.Redo.Count > 0)
            Console.WriteLine($"  of these only because others hang on them: {Some(plan.Redo)}");
        Console.WriteLine($"would be kept: {Words.Count(plan.Kept, "step")}");
        Console.WriteLine($"nothing has begun; leg {plan.Leg} begins with the same command without --dry-run");
        return ExitCodes.Succeeded;
    }

    static string Some(IReadOnlyList<string> paths) =>
        string.Join(", ", paths.Take(8)) + (paths.Count > 8 ? $" and {paths.Count - 8} more" : "");

    // A path holds no "=" outside of its outputs; without outputs the step settles with none.
    static Dictionary<string, System.Text.Json.JsonElement> Settled(string[]? steps) =>
        ServiceCommand.JsonPairs((steps ?? []).Select(s => s.Contains('=', StringComparison.Ordinal) ? s : s + "={}"));
}
