using System.CommandLine;
using GateChain.Cli.Terminal;
using GateChain.Client;
using Spectre.Console;

namespace GateChain.Cli.Commands;

/// <summary><c>gatechain backfill</c> and <c>backfills</c>: due times that are made up for.</summary>
static class BackfillCommands
{
    static readonly Argument<string> Trigger = new("TRIGGER") { Description = "The schedule's name" };

    static readonly Option<string> From = new("--from")
    {
        Description = "The first due time: 2026-11-01, or 2026-11-01T06:00Z",
        Required = true,
    };

    static readonly Option<string> To = new("--to")
    {
        Description = "Due times from here on are left out; a date is its midnight in UTC",
        Required = true,
    };

    static readonly Option<int> Parallel = new("--parallel")
    {
        Description = "How many runs go at once, 1 to 100",
        DefaultValueFactory = _ => 1,
    };

    static readonly Option<bool> NewestFirst = new("--newest-first") { Description = "Begin with the newest" };

    static readonly Option<string> Again = new Option<string>("--again")
    {
        Description = "Do due times once more that have a run: failed, or all",
        DefaultValueFactory = _ => "none",
    }.AcceptOnlyFromAmong("none", "failed", "all");

    static readonly Option<bool> Keep = new("--keep") { Description = "Let its runs write what their chain keeps" };

    static readonly Option<bool> Preview = new("--preview") { Description = "Tell the due times; begin nothing" };

    static readonly Option<bool> Follow = new("--follow", "-f") { Description = "Show how far it gets until it ends" };

    static readonly Argument<long?> Number = new("NUMBER")
    {
        Description = "Only this one",
        Arity = ArgumentArity.ZeroOrOne,
    };

    static readonly Option<string?> Do = new Option<string?>("--do")
    {
        Description = "pause, resume or stop it; runs that have started continue",
    }.AcceptOnlyFromAmong("pause", "resume", "stop");

    public static Command Backfill() =>
        ServiceCommand.Create(
            "backfill",
            "Fires a schedule for every due time of a span that has no run yet",
            async (parsed, client, cancel) =>
            {
                var begun = await client.BackfillAsync(
                    parsed.GetValue(Trigger)!,
                    new(
                        TriggerWords.Moment(parsed.GetValue(From), "--from")!.Value,
                        TriggerWords.Moment(parsed.GetValue(To), "--to")!.Value,
                        parsed.GetValue(Parallel),
                        parsed.GetValue(NewestFirst),
                        parsed.GetValue(Again)!,
                        parsed.GetValue(Keep),
                        parsed.GetValue(Preview)
                    ),
                    cancel
                );
                if (parsed.GetValue(Follow) && begun.Number > 0)
                    begun = await FollowAsync(begun, client, parsed.GetValue(ServiceCommand.Json), cancel);
                if (parsed.GetValue(ServiceCommand.Json))
                {
                    ServiceCommand.WriteJson(begun);
                    return ExitCodes.Succeeded;
                }
                if (begun.Due is { } times)
                {
                    foreach (var due in times)
                        Console.WriteLine($"{due:yyyy-MM-dd HH:mm:ss} UTC");
                    if (begun.Times > times.Count)
                        Console.WriteLine($"… and {begun.Times - times.Count:N0} more");
                    Console.WriteLine($"{Words.Count(begun.Times, "due time")} would be made up for");
                    return ExitCodes.Succeeded;
                }
                Tell(begun);
                return begun is { State: "ended", Failed: > 0 } ? ExitCodes.Failed : ExitCodes.Succeeded;
            },
            Trigger,
            From,
            To,
            Parallel,
            NewestFirst,
            Again,
            Keep,
            Preview,
            Follow
        );

    static async Task<BackfillInfo> FollowAsync(
        BackfillInfo backfill,
        GateChainClient client,
        bool quiet,
        CancellationToken cancel
    )
    {
        var shown = "";
        while (backfill.State is "running")
        {
            await Task.Delay(TimeSpan.FromMilliseconds(500), cancel);
            backfill = await client.BackfillAsync(backfill.Number, cancel);
            var line = Line(backfill);
            if (!quiet && line != shown)
                Console.WriteLine(line);
            shown = line;
        }
        return backfill;
    }

    static string Line(BackfillInfo backfill)
    {
        var done = backfill.Succeeded + backfill.PassedOver + backfill.Failed;
        return $"{done:N0} of {backfill.Times:N0}: {backfill.Succeeded:N0} succeeded, "
            + $"{backfill.Failed:N0} failed, {backfill.Going:N0} going";
    }

    static void Tell(BackfillInfo backfill)
    {
        Console.WriteLine($"backfill {backfill.Number} of {backfill.Trigger}: {backfill.State}; {Line(backfill)}");
        foreach (var failed in backfill.Failures.Take(20))
        {
            Console.WriteLine(
                $"  due {failed.Due:yyyy-MM-dd HH:mm} UTC  {(failed.Run is { } run ? $"run {run}: " : "")}"
                    + Words.Plain(failed.Why)
            );
        }
        if (backfill.Failed > 0)
        {
            Console.WriteLine(
                $"do them again with: gatechain backfill {backfill.Trigger} --from {backfill.From:yyyy-MM-ddTHH:mmZ} "
                    + $"--to {backfill.To:yyyy-MM-ddTHH:mmZ} --again failed"
            );
        }
    }

    public static Command Backfills() =>
        ServiceCommand.Create(
            "backfills",
            "Lists backfills and how far they have got; pauses, resumes or stops one",
            async (parsed, client, cancel) =>
            {
                if (parsed.GetValue(Number) is not { } number)
                {
                    var all = await client.BackfillsAsync(cancel);
                    if (parsed.GetValue(ServiceCommand.Json))
                        ServiceCommand.WriteJson(all);
                    else if (all.Count == 0)
                        Console.WriteLine("no backfills");
                    else
                        Write(all);
                    return ExitCodes.Succeeded;
                }
                var one = parsed.GetValue(Do) is { } action
                    ? await client.ChangeBackfillAsync(number, action, cancel)
                    : await client.BackfillAsync(number, cancel);
                if (parsed.GetValue(ServiceCommand.Json))
                    ServiceCommand.WriteJson(one);
                else
                    Tell(one);
                return ExitCodes.Succeeded;
            },
            Number,
            Do
        );

    static void Write(IReadOnlyList<BackfillInfo> all)
    {
        var table = Tables.Create(
            new("backfill", IsNumber: true),
            new("trigger"),
            new("span (UTC)"),
            new("state"),
            new("how far", IsLong: true),
            new("by")
        );
        foreach (var one in all)
        {
            table.AddRow(
                new Text(one.Number.ToString()),
                new Text(one.Trigger),
                new Text($"{one.From:yyyy-MM-dd HH:mm} to {one.To:yyyy-MM-dd HH:mm}"),
                new Text(one.State),
                new Text(Line(one)),
                Tables.Cell(one.By)
            );
        }
        Tables.Write(table);
    }
}
