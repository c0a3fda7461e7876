using System.Text.Json;
using Dapper;
using GateChain.Core.Identity;
using Microsoft.Data.Sqlite;

namespace GateChain.Storage.Sqlite;

/// <summary>
/// The run register: a table, and before it the lines that the journal's tail still holds. Thread-safe.
/// </summary>
sealed class RunRegister : IRunRegister
{
    const string Columns =
        "id, chain, release, state, leg, by_whom AS byWhom, by_kind AS byKind, by_id AS byId, started, ended, "
        + "params, error, epoch, late, resume_at AS resumeAt, parent, parent_step AS parentStep, "
        + "parent_attempt AS parentAttempt, origin, origin_key AS originKey";

    readonly SqliteFile _file;
    readonly SqliteWriter _writer;
    long _last;

    /// <exception cref="StorageException">What an earlier process left in the journal's tail can't be sorted
    /// in.</exception>
    public RunRegister(SqliteFile file, SqliteWriter writer)
    {
        (_file, _writer) = (file, writer);
        _writer
            .WriteAsync(c => _last = c.ExecuteScalar<long>("SELECT coalesce(max(id), 0) FROM runs"), sortIn: true)
            .GetAwaiter()
            .GetResult();
    }

    sealed class HeadRow
    {
        public long Id { get; set; }
        public string Chain { get; set; } = "";
        public string Release { get; set; } = "";
        public string State { get; set; } = "";
        public long Leg { get; set; }
        public string ByWhom { get; set; } = "";
        public string? ByKind { get; set; }
        public string? ById { get; set; }
        public string Started { get; set; } = "";
        public string? Ended { get; set; }
        public string Params { get; set; } = "";
        public string? Error { get; set; }
        public long Epoch { get; set; }
        public long Late { get; set; }
        public string? ResumeAt { get; set; }
        public long? Parent { get; set; }
        public string? ParentStep { get; set; }
        public long? ParentAttempt { get; set; }
        public string? Origin { get; set; }
        public string? OriginKey { get; set; }

        // Runs of the first versions have a name only.
        Actor By =>
            Enum.TryParse<ActorKind>(ByKind, ignoreCase: true, out var kind)
                ? new(kind, ById!, ByWhom)
                : ActorJsonConverter.OfName(ByWhom);

        public RunHead ToHead() =>
            new(
                Id,
                Chain,
                Release,
                State,
                (int)Leg,
                By,
                SqliteStore.Time(Started),
                Ended is null ? null : SqliteStore.Time(Ended),
                Params,
                Error,
                Late != 0,
                ResumeAt is null ? null : SqliteStore.Time(ResumeAt),
                Parent is { } parent ? new(parent, ParentStep!, (int)ParentAttempt!.Value) : null,
                Origin,
                OriginKey
            );
    }

    public long NextId() => Interlocked.Increment(ref _last);

    public async Task<IReadOnlyList<(RunHead Head, long Epoch)>> TakeOverAsync()
    {
        await _writer
            .WriteAsync(c => c.Execute("UPDATE runs SET epoch = epoch + 1 WHERE ended IS NULL"), sortIn: true)
            .ConfigureAwait(false);
        using var connection = _file.Open();
        return
        [
            .. connection
                .Query<HeadRow>($"SELECT {Columns} FROM runs WHERE ended IS NULL ORDER BY id")
                .Select(r => (r.ToHead(), r.Epoch)),
        ];
    }

    public async Task<long> TakeOverAsync(long run)
    {
        long epoch = 0;
        await _writer
            .WriteAsync(
                c =>
                    epoch = c.ExecuteScalar<long>(
                        "UPDATE runs SET epoch = epoch + 1 WHERE id = @run RETURNING epoch",
                        new { run }
                    ),
                sortIn: true
            )
            .ConfigureAwait(false);
        return epoch;
    }

    public RunHead? Find(long run) => _writer.Heads.Find(run) ?? Query("id = @run", new { run }).FirstOrDefault();

    public RunHead? FindByOrigin(string key) =>
        _writer.Heads.All.FirstOrDefault(h => h.OriginKey == key)
        ?? Query("origin_key = @key", new { key }).FirstOrDefault();

    public IReadOnlyList<RunHead> ToResume()
    {
        var newest = _writer.Heads.All;
        return
        [
            .. newest
                .Where(h => h.ResumeAt is not null)
                .Concat(Query($"resume_at IS NOT NULL AND {NotIn}", new { ids = Ids(newest) }))
                .OrderBy(h => h.Id),
        ];
    }

    public IReadOnlyList<RunHead> List(RunQuery query)
    {
        var newest = _writer.Heads.All;
        var limit = Math.Clamp(query.Limit, 1, 500);
        var stored = Query(
            $"""
            (@Chain IS NULL OR chain = @Chain) AND (@State IS NULL OR state = @State) AND (@Before IS NULL OR id < @Before) AND (@Parent IS NULL OR parent = @Parent)
            AND {NotIn} ORDER BY id DESC LIMIT @limit
            """,
            new
            {
                query.Chain,
                query.State,
                query.Before,
                query.Parent,
                limit,
                ids = Ids(newest),
            }
        );
        return [.. newest.Where(h => Fits(h, query)).Concat(stored).OrderByDescending(h => h.Id).Take(limit)];
    }

    public IReadOnlyDictionary<string, IReadOnlyList<RunHead>> Newest(IEnumerable<string> chains, int each)
    {
        var names = chains.Distinct().ToList();
        var newest = _writer.Heads.All;
        each = Math.Clamp(each, 1, 500);
        using var connection = _file.Open();
        // For each chain a look into its index, however many runs there are.
        var stored = connection
            .Query<HeadRow>(
                $"""
                WITH wanted AS (SELECT value AS name FROM json_each(@names))
                SELECT {Columns} FROM wanted JOIN runs ON runs.id IN
                    (SELECT id FROM runs AS own WHERE own.chain = wanted.name AND own.{NotIn} ORDER BY id DESC LIMIT @each)
                """,
                new
                {
                    names = JsonSerializer.Serialize(names),
                    each,
                    ids = Ids(newest),
                }
            )
            .Select(r => r.ToHead());
        var all = newest.Concat(stored).ToLookup(h => h.Chain);
        return names.ToDictionary(
            n => n,
            n => (IReadOnlyList<RunHead>)[.. all[n].OrderByDescending(h => h.Id).Take(each)]
        );
    }

    static bool Fits(RunHead head, RunQuery query) =>
        (query.Chain is null || head.Chain == query.Chain)
        && (query.State is null || head.State == query.State)
        && (query.Before is null || head.Id < query.Before)
        && (query.Parent is null || head.Parent?.Run == query.Parent);

    const string NotIn = "id NOT IN (SELECT value FROM json_each(@ids))";

    static string Ids(IEnumerable<RunHead> heads) => JsonSerializer.Serialize(heads.Select(h => h.Id));

    List<RunHead> Query(string condition, object values)
    {
        using var connection = _file.Open();
        return
        [
            .. connection
                .Query<HeadRow>($"SELECT {Columns} FROM runs WHERE {condition}", values)
                .Select(r => r.ToHead()),
        ];
    }
}
