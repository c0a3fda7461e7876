using System.CommandLine;
using GateChain.Cli.Terminal;
using GateChain.Client;

namespace GateChain.Cli.Commands;

/// <summary><c>gatechain log RUN STEP</c></summary>
static class LogCommand
{
    static readonly Option<int?> Attempt = new("--attempt")
    {
        Description = "The attempt's number in the run (why --json lists them); the latest when absent",
    };
    static readonly Option<bool> Follow = new("--follow", "-f") { Description = "Follow until the attempt has ended" };
    static readonly Option<int?> Last = new("--last", "-n") { Description = "Only the last lines, so many" };
    static readonly Option<string?> Find = new("--find") { Description = "Only lines that hold this text" };
    static readonly Option<string?> Level = new("--level") { Description = "Only lines of a level: out, err or note" };

    public static Command Create()
    {
        Last.Validators.Add(result =>
        {
            if (result.GetValueOrDefault<int?>() is < 1)
                result.AddError("--last takes a number of lines, 1 or more");
        });
        Level.AcceptOnlyFromAmong("out", "err", "note");
        return ServiceCommand.Create(
            "log",
            "Prints what an attempt of a step has said",
            async (parsed, client, cancel) =>
            {
                var (run, step) = (parsed.GetValue(ServiceCommand.Run), parsed.GetValue(ServiceCommand.Step)!);
                var attempt = parsed.GetValue(Attempt);
                var (find, level) = (parsed.GetValue(Find), parsed.GetValue(Level));
                var (follow, last) = (parsed.GetValue(Follow), parsed.GetValue(Last));
                var searched = find is not null || level is not null;
                if (searched && follow)
                {
                    throw new GateChainException(
                        422,
                        "--follow does not go together with --find and --level",
                        null,
                        []
                    );
                }
                var texts = searched
                    ? FoundAsync(client, run, step, attempt, find ?? "", level, last, cancel)
                    : PagesAsync(client, run, step, attempt, follow, last, cancel);
                var lines = new List<string>();
                var empty = true;
                await foreach (var text in texts)
                {
                    empty = false;
                    if (parsed.GetValue(ServiceCommand.Json))
                        lines.AddRange(text.Split('\n', StringSplitOptions.RemoveEmptyEntries));
                    else
                        Console.Write(Words.Plain(text));
                }
                if (parsed.GetValue(ServiceCommand.Json))
                    ServiceCommand.WriteJson(lines);
                else if (empty)
                    Console.Error.WriteLine(Nothing(run, step, attempt, searched));
                return ExitCodes.Succeeded;
            },
            ServiceCommand.Run,
            ServiceCommand.Step,
            Attempt,
            Follow,
            Last,
            Find,
            Level
        );
    }

    static string Nothing(long run, string step, int? attempt, bool searched) =>
        searched ? "no such line"
        : attempt is { } number
            ? $"attempt {number} of “{step}” has said nothing, or there is none of that number; "
                + $"gatechain why {run} '{step}' lists them"
        : $"“{step}” has said nothing: no attempt of it has begun, or none had anything to say";

    static async IAsyncEnumerable<string> PagesAsync(
        GateChainClient client,
        long run,
        string step,
        int? attempt,
        bool follow,
        int? last,
        [System.Runtime.CompilerServices.EnumeratorCancellation] CancellationToken cancel
    )
    {
        long from = 0;
        if (last is { } lines)
        {
            var end = await EndAsync(client, run, step, attempt, lines, cancel);
            from = end.Next;
            if (end.Text.Length > 0)
                yield return end.Text;
        }
        while (true)
        {
            var page = await client.LogAsync(run, step, attempt, from, cancel);
            if (page.Text.Length > 0)
                yield return page.Text;
            from = page.Next;
            if (page.Ended || (page.Text.Length == 0 && !follow))
                break;
            if (page.Text.Length == 0)
                await Task.Delay(150, cancel);
        }
    }

    // The last lines, read from the end, and where they end.
    static async Task<(string Text, long Next)> EndAsync(
        GateChainClient client,
        long run,
        string step,
        int? attempt,
        int lines,
        CancellationToken cancel
    )
    {
        var pages = new LinkedList<string>();
        var page = await client.LogBeforeAsync(run, step, attempt, long.MaxValue, cancel);
        var next = page.Next;
        for (var count = 0; ; )
        {
            pages.AddFirst(page.Text);
            count += page.Text.AsSpan().Count('\n');
            if (page.From == 0 || count >= lines)
                break;
            page = await client.LogBeforeAsync(run, step, attempt, page.From, cancel);
        }
        var text = string.Concat(pages);
        var all = text.TrimEnd('\n').Split('\n');
        return (text.Length == 0 ? "" : string.Join('\n', all.TakeLast(lines)) + "\n", next);
    }

    static async IAsyncEnumerable<string> FoundAsync(
        GateChainClient client,
        long run,
        string step,
        int? attempt,
        string text,
        string? level,
        int? last,
        [System.Runtime.CompilerServices.EnumeratorCancellation] CancellationToken cancel
    )
    {
        var latest = new Queue<string>();
        for (long from = 0; ; )
        {
            var found = await client.SearchLogAsync(run, step, attempt, text, level, from, cancel);
            foreach (var line in found.Hits.Select(h => h.Line + "\n"))
            {
                latest.Enqueue(line);
                if (latest.Count > last)
                    latest.Dequeue();
            }
            from = found.Next;
            var isWhole = from >= found.Size;
            if (latest.Count > 0 && (last is null || isWhole))
            {
                yield return string.Concat(latest);
                latest.Clear();
            }
            if (isWhole)
                break;
        }
    }
}
