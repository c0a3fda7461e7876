using System.Text.Json;
using Dapper;
using Microsoft.Data.Sqlite;

namespace GateChain.Storage.Sqlite;

/// <summary>
/// The lines of runs: a table, and before it the lines that the journal's tail still holds. Thread-safe.
/// </summary>
sealed class RunStore : IRunStore
{
    readonly SqliteFile _file;
    readonly SqliteWriter _writer;
    long _last;

    /// <exception cref="StorageException">What an earlier process left in the journal's tail can't be sorted
    /// in.</exception>
    public RunStore(SqliteFile file, SqliteWriter writer)
    {
        (_file, _writer) = (file, writer);
        _writer
            .WriteAsync(c => _last = c.ExecuteScalar<long>("SELECT coalesce(max(id), 0) FROM runs"), sortIn: true)
            .GetAwaiter()
            .GetResult();
    }

    public ValueTask<long> NextIdAsync() => new(Interlocked.Increment(ref _last));

    public ValueTask<StoredRun?> FindAsync(long run) =>
        new(_writer.Unflushed.Find(run) ?? Query("id = @run", new { run }).FirstOrDefault());

    public ValueTask<IReadOnlyDictionary<long, StoredRun>> FindAsync(IReadOnlyCollection<long> runs)
    {
        var found = runs.Select(_writer.Unflushed.Find).OfType<StoredRun>().ToDictionary(h => h.Id);
        var ids = JsonSerializer.Serialize(runs.Where(r => !found.ContainsKey(r)));
        foreach (var listed in Query("id IN (SELECT value FROM json_each(@ids))", new { ids }))
            found.TryAdd(listed.Id, listed);
        return new(found);
    }

    public ValueTask<StoredRun?> FindByOriginAsync(string key) =>
        new(
            _writer.Unflushed.All.FirstOrDefault(h => h.OriginKey == key)
                ?? Query("origin_key = @key", new { key }).FirstOrDefault()
        );

    public ValueTask<IReadOnlyList<StoredRun>> ListAsync(RunQuery query)
    {
        var newest = _writer.Unflushed.All;
        var limit = Math.Clamp(query.Limit, 1, 500);
        using var connection = _file.Open();
        var (first, last) = Between(connection, query.From, query.To);
        var stored = connection.Query<RunRow>(
            $"SELECT {RunRow.Columns} FROM runs WHERE {Conditions(query)} AND {NotIn} ORDER BY id DESC LIMIT @limit",
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
                pattern = PatternOf(query.Text),
                areas = AreaCondition.Value(query.Areas),
                limit,
                ids = Ids(newest),
            }
        );
        return new([
            .. newest
                .Where(h => Fits(h, query))
                .Concat(stored.Select(r => r.ToStoredRun()))
                .OrderByDescending(h => h.Id)
                .Take(limit),
        ]);
    }

    // Compared without regard to case, and without making another text of every row, as lower() does.
    static string? PatternOf(string? text) =>
        text is null ? null : $"%{text.Replace(@"\", @"\\").Replace("%", @"\%").Replace("_", @"\_")}%";

    // Only what is asked for: the database then knows which index it can use.
    static string Conditions(RunQuery query)
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
        If(query.From is not null, "+started >= @from");
        If(query.To is not null, "+started < @to");
        If(query.Areas is not null, AreaCondition.Of("runs"));
        If(query.Text is not null, @"params LIKE @pattern ESCAPE '\'");
        return string.Join(" AND ", all.DefaultIfEmpty("1"));
    }

    /// <summary>The least and the greatest number of runs that began in a time; none when there is none.</summary>
    static (long First, long Last) Between(SqliteConnection connection, DateTimeOffset? from, DateTimeOffset? to)
    {
        if (from is null && to is null)
            return (0, 0);
        return
            connection.QuerySingle<(long?, long?)>(
                $"SELECT min(id), max(id) FROM runs WHERE {(from is null ? "1" : "started >= @from")} "
                    + $"AND {(to is null ? "1" : "started < @to")}",
                new { from = Of(from), to = Of(to) }
            )
                is (long first, long last)
            ? (first, last)
            : (0, -1);
    }

    static string? Of(DateTimeOffset? time) => time is { } at ? Times.Utc(at) : null;

    public ValueTask<IReadOnlyDictionary<string, IReadOnlyList<StoredRun>>> NewestAsync(
        IEnumerable<string> chains,
        int each
    )
    {
        var names = chains.Distinct().ToList();
        var newest = _writer.Unflushed.All;
        each = Math.Clamp(each, 1, 500);
        using var connection = _file.Open();
        // For each chain a look into its index, however many runs there are.
        var stored = connection
            .Query<RunRow>(
                $"""
                WITH wanted AS (SELECT value AS name FROM json_each(@names))
                SELECT {RunRow.Columns} FROM wanted JOIN runs ON runs.id IN
                    (SELECT id FROM runs AS own WHERE own.chain = wanted.name AND own.{NotIn} ORDER BY id DESC LIMIT @each)
                """,
                new
                {
                    names = JsonSerializer.Serialize(names),
                    each,
                    ids = Ids(newest),
                }
            )
            .Select(r => r.ToStoredRun());
        var all = newest.Concat(stored).ToLookup(h => h.Chain);
        return new(
            names.ToDictionary(
                n => n,
                n => (IReadOnlyList<StoredRun>)[.. all[n].OrderByDescending(h => h.Id).Take(each)]
            )
        );
    }

    /// <summary>Ended runs that are to be resumed by themselves.</summary>
    internal IEnumerable<StoredRun> ToResume()
    {
        var newest = _writer.Unflushed.All;
        return newest
            .Where(h => h.ResumeAt is not null)
            .Concat(Query($"resume_at IS NOT NULL AND {NotIn}", new { ids = Ids(newest) }));
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

    const string NotIn = "id NOT IN (SELECT value FROM json_each(@ids))";

    static string Ids(IEnumerable<StoredRun> storedRuns) => JsonSerializer.Serialize(storedRuns.Select(h => h.Id));

    List<StoredRun> Query(string condition, object values)
    {
        using var connection = _file.Open();
        return
        [
            .. connection
                .Query<RunRow>($"SELECT {RunRow.Columns} FROM runs WHERE {condition}", values)
                .Select(r => r.ToStoredRun()),
        ];
    }
}
