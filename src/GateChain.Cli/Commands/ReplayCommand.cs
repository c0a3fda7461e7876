using System.CommandLine;
using GateChain.Cli.Terminal;
using GateChain.Client;

namespace GateChain.Cli.Commands;

/// <summary><c>gatechain replay CHAIN</c></summary>
static class ReplayCommand
{
    const int MostLines = 12;

    static readonly Argument<string> Chain = new("CHAIN") { Description = "The chain's name" };
    static readonly Option<bool> Draft = new("--draft")
    {
        Description = "Under the chain's draft; so it is when nothing is said",
    };
    static readonly Option<string?> From = new("--file") { Description = "Under a chain file" };
    static readonly Option<int?> Release = new("--release") { Description = "Under a release, by its number" };
    static readonly Option<int> Last = new("--last")
    {
        Description = "How many of the latest runs that have ended, 1 to 500",
        DefaultValueFactory = _ => 30,
    };
    static readonly Option<string?> Since = new("--since")
    {
        Description =
            "Only runs that began then or later: 2026-11-23, 2026-11-23T06:00Z, or 7d for the last seven days",
    };

    public static Command Create() =>
        ServiceCommand.Create(
            "replay",
            "Plays past runs again under a changed chain: which would have gone another way; nothing of it is done",
            async (parsed, client, cancel) =>
            {
                var file = parsed.GetValue(From);
                if (file is not null && !File.Exists(file))
                {
                    Console.Error.WriteLine($"{file} is not there");
                    return ExitCodes.Usage;
                }
                var found = await client.ReplayAsync(
                    parsed.GetValue(Chain)!,
                    new(
                        file is null ? null : await File.ReadAllTextAsync(file, cancel),
                        parsed.GetValue(Release),
                        parsed.GetValue(Last),
                        TriggerWords.Moment(parsed.GetValue(Since), "--since")
                    ),
                    cancel
                );
                if (parsed.GetValue(ServiceCommand.Json))
                    ServiceCommand.WriteJson(found);
                else
                    Write(found);
                return found.Runs.All(r => r.SameWay) ? ExitCodes.Succeeded : ExitCodes.Failed;
            },
            Chain,
            Draft,
            From,
            Release,
            Last,
            Since
        );

    static void Write(ReplayInfo found)
    {
        var other = found.Runs.Where(r => !r.SameWay).ToList();
        if (found.Runs.Count == 0)
        {
            Console.WriteLine("there are no runs that have ended");
            return;
        }
        Console.WriteLine(
            $"under {found.Under} {found.Runs.Count - other.Count} of {Words.Count(found.Runs.Count, "run")} would "
                + "have gone the same way"
        );
        foreach (var run in other)
            Write(run);
        var settings = found.Runs.Where(r => r.SameWay && r.Differences.Count > 0).ToList();
        if (settings.Count > 0)
        {
            Console.WriteLine($"the same way, with other settings or outputs:");
            foreach (var run in settings.Take(3))
                Write(run);
            if (settings.Count > 3)
                Console.WriteLine($"  and {settings.Count - 3} more: --json has them");
        }
        var unlike = found.Runs.Where(r => r.Unlike is not null).ToList();
        if (unlike.Count > 0)
        {
            Console.WriteLine(
                $"{Words.Count(unlike.Count, "run")} can't be played quite as it went, for people decided in it or it "
                    + $"hung on the time: {string.Join(", ", unlike.Take(10).Select(r => r.Run))}"
            );
        }
    }

    static void Write(ReplayedRunInfo run)
    {
        Console.WriteLine(
            $"  run {run.Run}  {Words.At(run.Started)}  "
                + (
                    run.Problem is { } problem ? $"can't be played: {problem}"
                    : run.Was == run.WouldBe ? run.Was
                    : $"{run.Was}, would have {run.WouldBe}"
                )
        );
        foreach (var one in run.Differences.Where(d => d.What != "run").Take(MostLines))
            Console.WriteLine($"    {Line(one)}");
        if (run.Differences.Count > MostLines)
            Console.WriteLine($"    and {run.Differences.Count - MostLines} more: --json has them");
        foreach (var unknown in run.Unknown.Take(MostLines))
            Console.WriteLine($"    ? {Words.Plain(unknown)}");
    }

    static string Line(ReplayDifferenceInfo one) =>
        Words.Plain(
            one.What switch
            {
                "gate" => $"gate {(one.Path.Length == 0 ? "" : one.Path + "/")}{one.Name}",
                "step" => $"step {one.Path}",
                "setting" => $"{one.Path}, {one.Name}",
                _ => $"output {one.Name}",
            } + $": {one.Was ?? "not there"} → {one.WouldBe ?? "not there"}"
        );
}
