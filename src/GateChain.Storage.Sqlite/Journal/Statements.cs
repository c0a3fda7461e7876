using GateChain.Core.Identity;
using GateChain.Storage.Sql;
using Microsoft.Data.Sqlite;
using SQLitePCL;

namespace GateChain.Storage.Sqlite;

/// <summary>
/// The writer's prepared statements, on SQLite's own interface: a fifth faster than through ADO.NET. Used by one
/// thread.
/// </summary>
sealed class Statements : IDisposable
{
    readonly sqlite3_stmt _head,
        _epoch,
        _lastSeq,
        _row,
        _block,
        _remove,
        _version,
        _notifications,
        _origin,
        _occasion,
        _take,
        _keep,
        _position,
        _audit;

    /// <summary>The statements about triggers.</summary>
    public FireStatements Fires { get; }

    readonly List<sqlite3_stmt> _all = [];

    public Statements(SqliteConnection connection)
    {
        Db = connection.Handle!;
        Begin = Prepare("BEGIN IMMEDIATE");
        Commit = Prepare("COMMIT");
        Rollback = Prepare("ROLLBACK");
        Save = Prepare("SAVEPOINT one");
        Undo = Prepare("ROLLBACK TO one");
        Release = Prepare("RELEASE one");
        // OR FAIL: with the default, SQLite would copy every page that a statement touches to a statement journal
        // first.
        _head = Prepare(
            """
            INSERT OR FAIL INTO runs (id, chain, release, state, leg, by_whom, started, params, ended, error, epoch, parent, parent_step, parent_attempt, resume_at, late, by_kind, by_id, origin, origin_key, area, fired_by)
            VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7, ?8, ?9, ?10, ?11, ?12, ?13, ?14, ?15, ?16, ?17, ?18, ?19, ?20, ?21, ?22)
            ON CONFLICT (id) DO UPDATE SET state = excluded.state, leg = excluded.leg, ended = excluded.ended, error = excluded.error, params = excluded.params,
              late = excluded.late, resume_at = excluded.resume_at, release = excluded.release
            """
        );
        _epoch = Prepare("SELECT epoch FROM runs WHERE id = ?1");
        _lastSeq = Prepare("SELECT max(seq) FROM journal WHERE run = ?1");
        _row = Prepare("INSERT OR FAIL INTO journal (run, seq, count, body, sum) VALUES (?1, ?2, ?3, ?4, ?5)");
        _block = Prepare("INSERT OR FAIL INTO journal_tail (block, sum) VALUES (?1, ?2)");
        _remove = Prepare("DELETE FROM journal_tail WHERE id <= ?1");
        _version = Prepare("PRAGMA data_version");
        _origin = Prepare("SELECT 1 FROM runs WHERE origin_key = ?1");
        _occasion = Prepare("SELECT 1 FROM occasions WHERE key = ?1");
        _take = Prepare("INSERT OR IGNORE INTO occasions (key, run) VALUES (?1, ?2)");
        _keep = Prepare(KeptValues.Put);
        _position = Prepare(Positions.Put);
        _audit = Prepare(AuditLog.Insert);
        Fires = new(this);
        _notifications = Prepare(
            "INSERT OR FAIL INTO outbox (run, seq, chain, kind, state) VALUES (?1, ?2, ?3, ?4, ?5)"
        );
    }

    public sqlite3 Db { get; }
    public sqlite3_stmt Begin { get; }
    public sqlite3_stmt Commit { get; }
    public sqlite3_stmt Rollback { get; }
    public sqlite3_stmt Save { get; }
    public sqlite3_stmt Undo { get; }
    public sqlite3_stmt Release { get; }

    internal sqlite3_stmt Prepare(string sql)
    {
        Check(raw.sqlite3_prepare_v2(Db, sql, out var statement));
        _all.Add(statement);
        return statement;
    }

    public void Run(sqlite3_stmt statement)
    {
        var result = raw.sqlite3_step(statement);
        raw.sqlite3_reset(statement);
        Check(result);
    }

    public static void TryRun(sqlite3_stmt statement)
    {
        raw.sqlite3_step(statement);
        raw.sqlite3_reset(statement);
    }

    /// <summary>Changes when another connection has written to the file.</summary>
    public long DataVersion() => Number(_version);

    /// <summary>The epoch of a run's owner; 0 when there is no such run.</summary>
    public long EpochOf(long run) => Number(_epoch, run);

    /// <summary>The number of a run's last decision that is sorted in; 0 when there is none.</summary>
    public long LastSeq(long run) => Number(_lastSeq, run);

    internal long Number(sqlite3_stmt statement, long? of = null)
    {
        if (of is { } key)
            raw.sqlite3_bind_int64(statement, 1, key);
        var result = raw.sqlite3_step(statement);
        var number = result == raw.SQLITE_ROW ? raw.sqlite3_column_int64(statement, 0) : 0;
        raw.sqlite3_reset(statement);
        Check(result);
        return number;
    }

    /// <summary>Whether there is a run for an occasion.</summary>
    public bool HasOrigin(string key)
    {
        raw.sqlite3_bind_text(_origin, 1, key);
        return Number(_origin) == 1;
    }

    /// <summary>Adds a row to the journal.</summary>
    public void AddRow(long run, long lastSeq, int count, ReadOnlySpan<byte> body, bool isDamaged)
    {
        raw.sqlite3_bind_int64(_row, 1, run);
        raw.sqlite3_bind_int64(_row, 2, lastSeq);
        raw.sqlite3_bind_int(_row, 3, count);
        raw.sqlite3_bind_blob(_row, 4, body);
        raw.sqlite3_bind_int64(_row, 5, isDamaged ? Checksum.Wrong(body) : Checksum.Of(body));
        Run(_row);
    }

    /// <summary>Adds a block to the journal's buffer.</summary>
    public void AddBlock(ReadOnlySpan<byte> block)
    {
        raw.sqlite3_bind_blob(_block, 1, block);
        raw.sqlite3_bind_int64(_block, 2, Checksum.Of(block));
        Run(_block);
    }

    /// <summary>The id of the row that was added last.</summary>
    public long LastAdded => raw.sqlite3_last_insert_rowid(Db);

    /// <summary>Adds a row to the outbox.</summary>
    public void AddNotification(long run, long seq, string chain, RunNotificationKind kind, string state)
    {
        raw.sqlite3_bind_int64(_notifications, 1, run);
        raw.sqlite3_bind_int64(_notifications, 2, seq);
        raw.sqlite3_bind_text(_notifications, 3, chain);
        raw.sqlite3_bind_int(_notifications, 4, (int)kind);
        raw.sqlite3_bind_text(_notifications, 5, state);
        Run(_notifications);
    }

    /// <summary>Whether an occasion was taken.</summary>
    public bool IsTaken(string key)
    {
        raw.sqlite3_bind_text(_occasion, 1, key);
        return Number(_occasion) == 1;
    }

    /// <summary>Writes what a decision brings beside its row.</summary>
    public void Add(AppendExtras extras, long run)
    {
        foreach (var key in extras.Keys)
        {
            raw.sqlite3_bind_text(_take, 1, key);
            raw.sqlite3_bind_int64(_take, 2, run);
            Run(_take);
        }
        if (extras.Kept is { } kept)
            Add(kept);
        foreach (var position in extras.Positions)
            Add(position);
        if (extras.Audit is { } line)
            Add(line);
        if (extras.Fire is { } fire)
            Fires.Add(fire, run);
    }

    void Add(KeptSet kept)
    {
        raw.sqlite3_bind_text(_keep, 1, kept.Chain);
        raw.sqlite3_bind_text(_keep, 2, kept.Profile);
        raw.sqlite3_bind_int64(_keep, 3, kept.Version);
        raw.sqlite3_bind_text(_keep, 4, kept.Values);
        BindNumber(_keep, 5, kept.Run);
        BindText(_keep, 6, kept.By);
        raw.sqlite3_bind_text(_keep, 7, Times.Utc(kept.At));
        Run(_keep);
    }

    void Add(KeptPosition position)
    {
        raw.sqlite3_bind_text(_position, 1, position.Chain);
        raw.sqlite3_bind_text(_position, 2, position.Profile);
        raw.sqlite3_bind_text(_position, 3, position.Name);
        raw.sqlite3_bind_text(_position, 4, position.Content);
        BindNumber(_position, 5, position.Run);
        BindText(_position, 6, position.Step);
        BindText(_position, 7, position.By);
        raw.sqlite3_bind_text(_position, 8, Times.Utc(position.At));
        Run(_position);
    }

    void Add(AuditLine line)
    {
        raw.sqlite3_bind_text(_audit, 1, Times.Text(line.At));
        raw.sqlite3_bind_text(_audit, 2, Kinds[(int)line.By.Kind]);
        raw.sqlite3_bind_text(_audit, 3, line.By.Id);
        raw.sqlite3_bind_text(_audit, 4, line.By.Name);
        raw.sqlite3_bind_text(_audit, 5, line.Action);
        raw.sqlite3_bind_text(_audit, 6, line.Object);
        BindText(_audit, 7, line.Detail);
        BindText(_audit, 8, line.By.Source);
        BindText(_audit, 9, line.By.Through);
        Run(_audit);
    }

    /// <summary>Removes the blocks of the journal's tail up to one.</summary>
    public void RemoveBlocks(long last)
    {
        raw.sqlite3_bind_int64(_remove, 1, last);
        Run(_remove);
    }

    /// <summary>Registers a run, or brings its line up to date; the owner's epoch stays.</summary>
    public void Write(StoredRun stored, long epoch)
    {
        raw.sqlite3_bind_int64(_head, 1, stored.Id);
        raw.sqlite3_bind_text(_head, 2, stored.Chain);
        raw.sqlite3_bind_text(_head, 3, stored.Release);
        raw.sqlite3_bind_text(_head, 4, stored.State);
        raw.sqlite3_bind_int(_head, 5, stored.Leg);
        raw.sqlite3_bind_text(_head, 6, stored.By.Name);
        raw.sqlite3_bind_text(_head, 7, Times.Text(stored.Started));
        raw.sqlite3_bind_text(_head, 8, stored.Params);
        BindText(_head, 9, stored.Ended is { } ended ? Times.Text(ended) : null);
        BindText(_head, 10, stored.Error);
        raw.sqlite3_bind_int64(_head, 11, epoch);
        BindParent(stored.Parent);
        BindText(_head, 15, stored.ResumeAt is { } again ? Times.Text(again) : null);
        raw.sqlite3_bind_int(_head, 16, stored.Late ? 1 : 0);
        raw.sqlite3_bind_text(_head, 17, Kinds[(int)stored.By.Kind]);
        raw.sqlite3_bind_text(_head, 18, stored.By.Id);
        BindText(_head, 19, stored.Origin);
        BindText(_head, 20, stored.OriginKey);
        raw.sqlite3_bind_text(_head, 21, stored.Area.Path);
        BindText(_head, 22, stored.Trigger);
        Run(_head);
    }

    static readonly string[] Kinds = [.. Enum.GetNames<ActorKind>().Select(k => k.ToLowerInvariant())];

    void BindParent(ParentCall? parent)
    {
        if (parent is null)
        {
            raw.sqlite3_bind_null(_head, 12);
            raw.sqlite3_bind_null(_head, 13);
            raw.sqlite3_bind_null(_head, 14);
            return;
        }
        raw.sqlite3_bind_int64(_head, 12, parent.Run);
        raw.sqlite3_bind_text(_head, 13, parent.Step);
        raw.sqlite3_bind_int(_head, 14, parent.Attempt);
    }

    internal static void BindNumber(sqlite3_stmt statement, int index, long? number)
    {
        if (number is { } value)
            raw.sqlite3_bind_int64(statement, index, value);
        else
            raw.sqlite3_bind_null(statement, index);
    }

    internal static void BindText(sqlite3_stmt statement, int index, string? text)
    {
        if (text is null)
            raw.sqlite3_bind_null(statement, index);
        else
            raw.sqlite3_bind_text(statement, index, text);
    }

    void Check(int result)
    {
        if (result is not (raw.SQLITE_OK or raw.SQLITE_DONE or raw.SQLITE_ROW))
            throw new SqliteException(raw.sqlite3_errmsg(Db).utf8_to_string(), result & 0xff, result);
    }

    public void Dispose()
    {
        foreach (var statement in _all)
            raw.sqlite3_finalize(statement);
    }
}
