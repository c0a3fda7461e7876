using GateChain.Cli.Terminal;
using GateChain.Client;
using Spectre.Console;

namespace GateChain.Cli.Commands;

/// <summary><c>gatechain home</c></summary>
static class HomeCommand
{
    const int Shown = 10;

    public static System.CommandLine.Command Create() =>
        ServiceCommand.Create(
            "home",
            "What needs a person, what runs with its expected end, what comes next, and how it went lately",
            async (parsed, client, cancel) =>
            {
                var home = await client.HomeAsync(cancel);
                if (parsed.GetValue(ServiceCommand.Json))
                    ServiceCommand.WriteJson(home);
                else
                    Write(home);
                return ExitCodes.Succeeded;
            }
        );

    static void Write(HomeInfo home)
    {
        Console.WriteLine(home.Needs.Count == 0 ? "nothing needs a person" : "needs a person");
        if (home.Needs.Count > 0)
        {
            var table = Tables.Create(new("what"), new("chain"), new("run"), new("since"), new("why", IsLong: true));
            foreach (var need in home.Needs)
            {
                table.AddRow(
                    new Text($"  {need.What}"),
                    new Text(need.Trigger is { } trigger ? $"trigger {trigger}" : need.Chain),
                    new Text(need.Run?.ToString() ?? ""),
                    new Text(Words.At(need.Since)),
                    Tables.Cell(need.More == 0 ? need.Text : $"{need.Text} (and {need.More} more)")
                );
            }
            Tables.Write(table);
            if (home.Needs.FirstOrDefault(n => n is { What: "failed", Run: not null }) is { Run: { } failed })
                Console.WriteLine($"  what was different: gatechain diff {failed}");
        }
        Console.WriteLine(home.Running.Count == 0 ? "\nnothing runs" : "\nruns");
        foreach (var run in home.Running)
        {
            Console.WriteLine(
                $"  run {run.Run} {run.Chain}, {run.State} since {Words.At(run.Started)}, {run.Done} of {run.Of} steps"
                    + $"{(run.Doing.Count == 0 ? "" : $", at {string.Join(", ", run.Doing)}")}"
                    + $"{(run.Expected is { } e ? $"; {Words.Expected(e)}" : "")}{(run.Late ? "; late" : "")}"
            );
        }
        if (home.Next.Count > 0)
            Console.WriteLine("\nnext");
        foreach (var next in home.Next.Take(Shown))
            Console.WriteLine($"  {Words.At(next.At)}  {next.Chain}  (trigger {next.Trigger})");
        var day = home.Hours.Where(h => h.Hour > DateTimeOffset.UtcNow.AddDays(-1)).ToList();
        Console.WriteLine($"\nlast day    {Counts(day)}\nlast week   {Counts(home.Hours)}");
    }

    static string Counts(IReadOnlyList<HourInfo> hours) =>
        hours.Count == 0
            ? "no run ended"
            : $"{hours.Sum(h => h.Succeeded):N0} succeeded, {hours.Sum(h => h.Failed):N0} failed, "
                + $"{hours.Sum(h => h.Stopped):N0} stopped";
}
