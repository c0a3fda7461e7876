using System.Data.Common;
using System.Text.Json;
using Dapper;

namespace GateChain.Storage.Sql;

/// <summary>
/// The lines of runs: a table, and before it the lines that the journal's tail still holds. Thread-safe.
/// </summary>
sealed class RunStore(ISqlDatabase database) : IRunStore
{
    public ValueTask<long> NextIdAsync() => database.NextRunAsync();

    public async ValueTask<StoredRun?> FindAsync(long run) =>
        database.Unflushed.Find(run)
        ?? (await QueryAsync("id = @run", new { run }).ConfigureAwait(false)).FirstOrDefault();

    public async ValueTask<IReadOnlyDictionary<long, StoredRun>> FindAsync(IReadOnlyCollection<long> runs)
    {
        var found = runs.Select(database.Unflushed.Find).OfType<StoredRun>().ToDictionary(h => h.Id);
        var ids = JsonSerializer.Serialize(runs.Where(r => !found.ContainsKey(r)));
        var stored = await QueryAsync($"id IN ({database.Words.Numbers("@ids")})", new { ids }).ConfigureAwait(false);
        foreach (var listed in stored)
            found.TryAdd(listed.Id, listed);
        return found;
    }

    public async ValueTask<StoredRun?> FindByOriginAsync(string key) =>
        database.Unflushed.All.FirstOrDefault(h => h.OriginKey == key)
        ?? (await QueryAsync("origin_key = @key", new { key }).ConfigureAwait(false)).FirstOrDefault();

    public async ValueTask<IReadOnlyList<StoredRun>> ListAsync(RunQuery query)
    {
        var newest = database.Unflushed.All;
        var limit = Math.Clamp(query.Limit, 1, 500);
        return await database
            .ReadAsync<IReadOnlyList<StoredRun>>(async connection =>
            {
                var (first, last) = await BetweenAsync(connection, query.From, query.To).ConfigureAwait(false);
                var stored = await connection
                    .QueryAsync<RunRow>(
                        $"SELECT {RunRow.Columns} FROM runs WHERE {Conditions(query)} AND {NotIn} "
                            + "ORDER BY id DESC LIMIT @limit",
                        new
                        {
                            query.Chain,
                            query.State,
                            query.Before,
                            query.Parent,
                            query.Trigger,
                            from = Of(query.From),
                            to = Of(query.To),
                            first,
                            last,
                            pattern = Patterns.Holding(query.Text),
                            areas = AreaCondition.Value(query.Areas),
                            limit,
                            ids = Ids(newest),
                        }
                    )
                    .ConfigureAwait(false);
                return
                [
                    .. newest
                        .Where(h => Fits(h, query))
                        .Concat(stored.Select(r => r.ToStoredRun()))
                        .OrderByDescending(h => h.Id)
                        .Take(limit),
                ];
            })
            .ConfigureAwait(false);
    }

    // Only what is asked for: the database then knows which index it can use.
    string Conditions(RunQuery query)
    {
        var all = new List<string>();
        void If(bool asked, string condition)
        {
            if (asked)
                all.Add(condition);
        }

        If(query.Chain is not null, "chain = @Chain");
        If(query.State is not null, "state = @State");
        // What the indexes of few runs say of themselves.
        If(query.State is "failed" or "stopped", "state IN ('failed', 'stopped')");
        If(query.State is "queued" or "running" or "paused", "ended IS NULL");
        If(query.Before is not null, "id < @Before");
        If(query.Parent is not null, "parent = @Parent");
        If(query.Trigger is not null, "fired_by = @Trigger");
        // Their numbers lie close together, and are the order of the list; the times themselves are looked at, too.
        If(query.From is not null || query.To is not null, "id BETWEEN @first AND @last");
        If(query.From is not null, $"{database.Words.Unindexed("started")} >= @from");
        If(query.To is not null, $"{database.Words.Unindexed("started")} < @to");
        If(query.Areas is not null, AreaCondition.Of("runs", database.Words));
        If(query.Text is not null, $"params {database.Words.Like} @pattern ESCAPE '!'");
        return string.Join(" AND ", all.DefaultIfEmpty("1 = 1"));
    }

    /// <summary>The least and the greatest number of runs that began in a time; none when there is none.</summary>
    static async Task<(long First, long Last)> BetweenAsync(
        DbConnection connection,
        DateTimeOffset? from,
        DateTimeOffset? to
    )
    {
        if (from is null && to is null)
            return (0, 0);
        var ends = await connection
            .QuerySingleAsync<(long?, long?)>(
                $"SELECT min(id), max(id) FROM runs WHERE {(from is null ? "1 = 1" : "started >= @from")} "
                    + $"AND {(to is null ? "1 = 1" : "started < @to")}",
                new { from = Of(from), to = Of(to) }
            )
            .ConfigureAwait(false);
        return ends is (long first, long last) ? (first, last) : (0, -1);
    }

    static string? Of(DateTimeOffset? time) => time is { } at ? Times.Utc(at) : null;

    public async ValueTask<IReadOnlyDictionary<string, IReadOnlyList<StoredRun>>> NewestAsync(
        IEnumerable<string> chains,
        int each
    )
    {
        var names = chains.Distinct().ToList();
        var newest = database.Unflushed.All;
        each = Math.Clamp(each, 1, 500);
        return await database
            .ReadAsync<IReadOnlyDictionary<string, IReadOnlyList<StoredRun>>>(async connection =>
            {
                // For each chain a look into its index, however many runs there are.
                var rows = await connection
                    .QueryAsync<RunRow>(
                        $"""
                        WITH wanted AS (SELECT value AS name FROM ({database.Words.Texts("@names")}) names)
                        SELECT {RunRow.Columns} FROM wanted JOIN runs ON runs.id IN
                            (SELECT id FROM runs AS own WHERE own.chain = wanted.name AND own.{NotIn}
                              ORDER BY id DESC LIMIT @each)
                        """,
                        new
                        {
                            names = JsonSerializer.Serialize(names),
                            each,
                            ids = Ids(newest),
                        }
                    )
                    .ConfigureAwait(false);
                var stored = rows.Select(r => r.ToStoredRun());
                var all = newest.Concat(stored).ToLookup(h => h.Chain);
                return names.ToDictionary(
                    n => n,
                    n => (IReadOnlyList<StoredRun>)[.. all[n].OrderByDescending(h => h.Id).Take(each)]
                );
            })
            .ConfigureAwait(false);
    }

    /// <summary>Ended runs that are to be resumed by themselves.</summary>
    internal async Task<IEnumerable<StoredRun>> ToResumeAsync()
    {
        var newest = database.Unflushed.All;
        var stored = await QueryAsync($"resume_at IS NOT NULL AND {NotIn}", new { ids = Ids(newest) })
            .ConfigureAwait(false);
        return newest.Where(h => h.ResumeAt is not null).Concat(stored);
    }

    static bool Fits(StoredRun listed, RunQuery query) =>
        (query.Chain is null || listed.Chain == query.Chain)
        && (query.State is null || listed.State == query.State)
        && (query.Before is null || listed.Id < query.Before)
        && (query.Parent is null || listed.Parent?.Run == query.Parent)
        && (query.Trigger is null || listed.Trigger == query.Trigger)
        && (query.From is null || listed.Started >= query.From)
        && (query.To is null || listed.Started < query.To)
        && (query.Areas is null || query.Areas.Any(a => a.Holds(listed.Area)))
        && (query.Text is null || listed.Params.Contains(query.Text, StringComparison.OrdinalIgnoreCase));

    string NotIn => $"id NOT IN ({database.Words.Numbers("@ids")})";

    static string Ids(IEnumerable<StoredRun> storedRuns) => JsonSerializer.Serialize(storedRuns.Select(h => h.Id));

    async Task<IEnumerable<StoredRun>> QueryAsync(string condition, object values)
    {
        return await database
            .ReadAsync<IEnumerable<StoredRun>>(async connection =>
            {
                var rows = await connection
                    .QueryAsync<RunRow>($"SELECT {RunRow.Columns} FROM runs WHERE {condition}", values)
                    .ConfigureAwait(false);
                return rows.Select(r => r.ToStoredRun());
            })
            .ConfigureAwait(false);
    }
}
