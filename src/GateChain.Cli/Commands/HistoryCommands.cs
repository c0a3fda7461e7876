using System.CommandLine;
using System.Globalization;
using GateChain.Cli.Terminal;
using GateChain.Client;
using GateChain.Core.Values;
using Spectre.Console;

namespace GateChain.Cli.Commands;

/// <summary><c>gatechain history</c> and <c>diff</c></summary>
static class HistoryCommands
{
    static readonly Argument<string> Chain = new("CHAIN") { Description = "The chain's name" };
    static readonly Option<int> Limit = new("--limit", "-n")
    {
        Description = "So many runs, the newest ones",
        DefaultValueFactory = _ => 20,
    };

    public static Command History() =>
        ServiceCommand.Create(
            "history",
            "How the latest runs of a chain went, step by step: the newest run at the right",
            async (parsed, client, cancel) =>
            {
                var history = await client.HistoryAsync(
                    parsed.GetValue(Chain)!,
                    parsed.GetValue(Limit),
                    cancel: cancel
                );
                if (parsed.GetValue(ServiceCommand.Json))
                    ServiceCommand.WriteJson(history);
                else if (history.Legs.Count == 0)
                    Console.WriteLine($"no run of {parsed.GetValue(Chain)} has ended yet");
                else
                    Write(history);
                return ExitCodes.Succeeded;
            },
            Chain,
            Limit
        );

    static void Write(HistoryInfo history)
    {
        var legs = history.Legs.Reverse().ToList();
        var table = Tables.Create(
            new("step"),
            new($"runs {legs[0].Run} to {legs[^1].Run}"),
            new("median", IsNumber: true),
            new("last", IsNumber: true),
            new("rows rejected, median", IsNumber: true),
            new("last", IsNumber: true)
        );
        table.AddRow(
            new Text("all of it"),
            new Text(string.Concat(legs.Select(l => States.Mark(l.State)))),
            new Text(Took(Median(legs.Select(l => (long)(l.Ended - l.Started).TotalMilliseconds)))),
            new Text(Took((long)(legs[^1].Ended - legs[^1].Started).TotalMilliseconds)),
            new Text(""),
            new Text("")
        );
        foreach (var address in history.Addresses)
        {
            var own = legs.Select(l => l.Steps.GetValueOrDefault(address)).ToList();
            table.AddRow(
                new Text($"  {address}"),
                new Text(string.Concat(own.Select(s => s is null ? " " : States.Mark(s.State)))),
                new Text(Took(Median(own.Where(s => s is { Count: > 0 }).Select(s => s!.Span)))),
                new Text(own[^1] is { Count: > 0 } last ? Took(last.Span) : ""),
                new Text(Rows(Median(own.Select(s => s?.Rejected).OfType<long>()))),
                new Text(Rows(own[^1]?.Rejected))
            );
        }
        Tables.Write(table);
    }

    static long? Median(IEnumerable<long> numbers)
    {
        var sorted = numbers.Order().ToList();
        return sorted.Count == 0 ? null : sorted[sorted.Count / 2];
    }

    static string Took(long? ms) => ms is { } n ? TimeText.Brief(TimeSpan.FromMilliseconds(n)) : "";

    static string Rows(long? rows) => rows?.ToString("N0", CultureInfo.InvariantCulture) ?? "";

    static readonly Argument<long?> Other = new("WITH")
    {
        Description = "The run to compare with; the last one before it that succeeded when absent",
        DefaultValueFactory = _ => null,
    };

    public static Command Diff() =>
        ServiceCommand.Create(
            "diff",
            "What a run had differently from another: parameters, release, outcomes, times, rows, outputs",
            async (parsed, client, cancel) =>
            {
                var found = await client.DifferenceAsync(
                    parsed.GetValue(ServiceCommand.Run),
                    parsed.GetValue(Other),
                    cancel
                );
                if (parsed.GetValue(ServiceCommand.Json))
                    ServiceCommand.WriteJson(found);
                else
                    Write(found);
                return ExitCodes.Succeeded;
            },
            ServiceCommand.Run,
            Other
        );

    static void Write(DifferenceInfo found)
    {
        var (a, b) = (found.A, found.B);
        Console.WriteLine(
            $"run {b.Id} of {b.Chain}, {b.State}, beside run {a.Id}, {a.State}, of {Words.At(a.Started)}\n"
                + (
                    found.SameContent
                        ? "both followed the same content"
                        : $"content: {Release(found.NumberA)} then, {Release(found.NumberB)} now; "
                            + $"gatechain compare {a.Chain}@{found.NumberA} {b.Chain}@{found.NumberB}"
                )
        );
        if (found.PartsAt is { } at)
            Console.WriteLine($"they part at {at}");
        Values("parameters", found.Params);
        Values("profile", found.Profile);
        Values("outputs", found.Outputs);
        Console.WriteLine();
        var table = Tables.Create(
            new("step"),
            new("then"),
            new("now"),
            new("took then", IsNumber: true),
            new("now", IsNumber: true),
            new("rows read", IsNumber: true),
            new("now", IsNumber: true),
            new("rejected", IsNumber: true),
            new("now", IsNumber: true)
        );
        foreach (var step in found.Steps)
        {
            Add($"{(step.Differs ? "≠" : " ")} {step.Address}", step.A, step.B);
            foreach (var item in step.Items)
                Add($"      {item.Items}", item.A, item.B);
        }
        Tables.Write(table);

        void Add(string title, StepHistoryInfo? a, StepHistoryInfo? b) =>
            table.AddRow(
                Tables.Cell(title),
                State(a),
                State(b),
                new Text(a is { Count: > 0 } ? Took(a.Span) : ""),
                new Text(b is { Count: > 0 } ? Took(b.Span) : ""),
                new Text(Rows(a?.Read)),
                new Text(Rows(b?.Read)),
                new Text(Rows(a?.Rejected)),
                new Text(Rows(b?.Rejected))
            );
    }

    static string Release(int? number) => number is null ? "a draft" : $"release {number}";

    static Text State(StepHistoryInfo? step) => step is null ? new("") : States.Text(step.State);

    static void Values(string what, IReadOnlyList<ValueDifferenceInfo> values)
    {
        foreach (var value in values)
        {
            Console.WriteLine(
                $"{what}: {value.Name} was {Shorten.Text(Text(value.A), 60)}, is {Shorten.Text(Text(value.B), 60)}"
            );
        }
    }

    static string Text(System.Text.Json.JsonElement? value) => Words.Plain(value?.GetRawText() ?? "nothing");
}
