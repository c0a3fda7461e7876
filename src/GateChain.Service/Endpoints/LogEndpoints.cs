using GateChain.Client;
using GateChain.Core.Access;
using GateChain.Core.Running;
using GateChain.Engine.Basics;
using GateChain.Engine.Logs;
using GateChain.Engine.Reading;
using GateChain.Service.Access;
using Microsoft.AspNetCore.Http.HttpResults;

namespace GateChain.Service.Endpoints;

/// <summary>What attempts of steps have said.</summary>
static class LogEndpoints
{
    const int MostOfPage = 1 << 20;
    const int MostHits = 1_000;

    static readonly string[] Levels = ["out", "err", "note"];

    public static void Map(RouteGroupBuilder api)
    {
        api.MapGet("/runs/{id:long}/log", Page)
            .WithName("getLog")
            .Needs(Permission.See, Where.Run)
            .WithSummary("A page of a step's log: from an offset on, or up to one with before")
            .ProducesProblem(404);
        api.MapGet("/runs/{id:long}/log/search", Search)
            .WithName("searchLog")
            .Needs(Permission.See, Where.Run)
            .WithSummary("Lines of a step's log that hold a text or are of a level; page with from")
            .ProducesProblem(404)
            .ProducesProblem(422);
        api.MapGet("/runs/{id:long}/log/file", Whole)
            .WithName("downloadLog")
            .Needs(Permission.See, Where.Run)
            .WithSummary("All of a step's log, as a text file")
            .Produces(200, contentType: "text/plain")
            .ProducesProblem(404);
    }

    static async Task<LogPage> Page(
        long id,
        string path,
        RunReader runs,
        LogReader logs,
        int? attempt = null,
        long from = 0,
        long? before = null,
        int most = MostOfPage
    )
    {
        var (number, ended) = await AttemptAsync(id, path, attempt, runs);
        most = Math.Clamp(most, 1_000, MostOfPage);
        var part = before is { } end
            ? await logs.ReadBeforeAsync(id, number, end, most)
            : await logs.ReadAsync(id, number, from, most);
        return new(part.Text, part.From, part.Next, part.Size, !ended, ended && part.Text.Length == 0);
    }

    static async Task<LogHitsInfo> Search(
        long id,
        string path,
        RunReader runs,
        LogReader logs,
        CancellationToken cancel,
        int? attempt = null,
        string text = "",
        string? level = null,
        long from = 0,
        int limit = 200
    )
    {
        if (level is not null && !Levels.Contains(level))
            throw new RefusedException(RefusalKind.Invalid, $"a level is out, err or note, and this is “{level}”");
        var (number, _) = await AttemptAsync(id, path, attempt, runs);
        var found = await logs.SearchAsync(id, number, new(text, level, from, Math.Clamp(limit, 1, MostHits)), cancel);
        return new([.. found.Hits.Select(h => new LogHitInfo(h.At, h.Line))], found.Next, found.Size);
    }

    static async Task<Results<FileStreamHttpResult, Ok>> Whole(
        long id,
        string path,
        RunReader runs,
        LogReader logs,
        int? attempt = null
    )
    {
        var (number, _) = await AttemptAsync(id, path, attempt, runs);
        var name = new string([.. path.Select(c => char.IsAsciiLetterOrDigit(c) || c is '.' or '_' ? c : '-')]);
        return await logs.OpenWholeAsync(id, number) is { } file
            ? TypedResults.Stream(file, "text/plain; charset=utf-8", $"run-{id}-{name}-{number}.log")
            : TypedResults.Ok();
    }

    // The attempt's number, 0 for none, and whether nothing more will come.
    static Task<(int Number, bool Ended)> AttemptAsync(long id, string path, int? attempt, RunReader runs) =>
        runs.ReadAsync(id, (run, _) =>
        {
            var step = RunEndpoints.Find(run, path);
            var records = run.Attempts.Where(a => a.Step == path);
            var record = attempt is null ? records.LastOrDefault() : records.FirstOrDefault(r => r.Number == attempt);
            return (record?.Number ?? 0, record is null ? step.IsSettled || run.HasEnded : record.Ended is not null);
        });
}
