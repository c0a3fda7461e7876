using System.Globalization;
using Microsoft.Data.Sqlite;
using SQLitePCL;

namespace GateChain.Storage.Sqlite;

/// <summary>The writer's prepared statements, on SQLite's own interface: a fifth faster than through ADO.NET. Used by one thread.</summary>
sealed class Statements : IDisposable
{
    readonly sqlite3 _db;
    readonly sqlite3_stmt _insert, _head, _create;

    public Statements(SqliteConnection connection)
    {
        _db = connection.Handle!;
        Begin = Prepare("BEGIN IMMEDIATE");
        Commit = Prepare("COMMIT");
        Rollback = Prepare("ROLLBACK");
        Save = Prepare("SAVEPOINT one");
        Undo = Prepare("ROLLBACK TO one");
        Release = Prepare("RELEASE one");
        // The owner's epoch is checked by the statement that writes. OR FAIL: with the default, SQLite would copy every page
        // that the statement touches to a statement journal first, twenty times as many writes.
        _insert = Prepare("INSERT OR FAIL INTO journal (run, seq, body) SELECT ?1, ?2, ?3 WHERE EXISTS (SELECT 1 FROM runs WHERE id = ?1 AND epoch = ?4)");
        _create = Prepare("INSERT OR FAIL INTO runs (id, chain, release, state, leg, by_whom, started, params, ended, error, epoch, parent, parent_step, parent_attempt, resume_at) VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7, ?8, ?9, ?10, ?11, ?12, ?13, ?14, ?15)");
        _head = Prepare("UPDATE runs SET state = ?2, leg = ?3, ended = ?4, error = ?5, params = ?6, late = ?7, resume_at = ?8, release = ?9 WHERE id = ?1");
    }

    public sqlite3_stmt Begin { get; }
    public sqlite3_stmt Commit { get; }
    public sqlite3_stmt Rollback { get; }
    public sqlite3_stmt Save { get; }
    public sqlite3_stmt Undo { get; }
    public sqlite3_stmt Release { get; }

    sqlite3_stmt Prepare(string sql)
    {
        Check(raw.sqlite3_prepare_v2(_db, sql, out var statement));
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

    public AppendOutcome Insert(JournalAppend append)
    {
        // The first row registers the run.
        if (append is { Seq: 1, Head: { } born } && !Create(born, append.Epoch)) { return AppendOutcome.Fenced; }
        raw.sqlite3_bind_int64(_insert, 1, append.Run);
        raw.sqlite3_bind_int64(_insert, 2, append.Seq);
        raw.sqlite3_bind_blob(_insert, 3, append.Body);
        raw.sqlite3_bind_int64(_insert, 4, append.Epoch);
        var result = raw.sqlite3_step(_insert);
        raw.sqlite3_reset(_insert);
        if (result == raw.SQLITE_CONSTRAINT) { return AppendOutcome.Fenced; }
        Check(result);
        if (raw.sqlite3_changes(_db) == 0) { return AppendOutcome.Fenced; }
        if (append is { Seq: > 1, Head: { } head }) { Write(head); }
        return AppendOutcome.Written;
    }

    bool Create(RunHead head, long epoch)
    {
        raw.sqlite3_bind_int64(_create, 1, head.Id);
        raw.sqlite3_bind_text(_create, 2, head.Chain);
        raw.sqlite3_bind_text(_create, 3, head.Release);
        raw.sqlite3_bind_text(_create, 4, head.State);
        raw.sqlite3_bind_int(_create, 5, head.Leg);
        raw.sqlite3_bind_text(_create, 6, head.By);
        raw.sqlite3_bind_text(_create, 7, Text(head.Started));
        raw.sqlite3_bind_text(_create, 8, head.Params);
        // A run may begin and end in its first decision.
        BindText(_create, 9, head.Ended is { } ended ? Text(ended) : null);
        BindText(_create, 10, head.Error);
        raw.sqlite3_bind_int64(_create, 11, epoch);
        BindParent(head.Parent);
        BindText(_create, 15, head.ResumeAt is { } again ? Text(again) : null);
        var result = raw.sqlite3_step(_create);
        raw.sqlite3_reset(_create);
        if (result == raw.SQLITE_CONSTRAINT) { return false; }
        Check(result);
        return true;
    }

    void BindParent(ParentCall? parent)
    {
        if (parent is null) { raw.sqlite3_bind_null(_create, 12); raw.sqlite3_bind_null(_create, 13); raw.sqlite3_bind_null(_create, 14); return; }
        raw.sqlite3_bind_int64(_create, 12, parent.Run);
        raw.sqlite3_bind_text(_create, 13, parent.Step);
        raw.sqlite3_bind_int(_create, 14, parent.Attempt);
    }

    static string Text(DateTimeOffset time) => time.ToString("O", CultureInfo.InvariantCulture);

    void Write(RunHead head)
    {
        raw.sqlite3_bind_int64(_head, 1, head.Id);
        raw.sqlite3_bind_text(_head, 2, head.State);
        raw.sqlite3_bind_int(_head, 3, head.Leg);
        BindText(_head, 4, head.Ended is { } ended ? Text(ended) : null);
        BindText(_head, 5, head.Error);
        raw.sqlite3_bind_text(_head, 6, head.Params);
        raw.sqlite3_bind_int(_head, 7, head.Late ? 1 : 0);
        BindText(_head, 8, head.ResumeAt is { } again ? Text(again) : null);
        raw.sqlite3_bind_text(_head, 9, head.Release);
        Run(_head);
    }

    static void BindText(sqlite3_stmt statement, int index, string? text)
    {
        if (text is null) { raw.sqlite3_bind_null(statement, index); }
        else { raw.sqlite3_bind_text(statement, index, text); }
    }

    void Check(int result)
    {
        if (result is not (raw.SQLITE_OK or raw.SQLITE_DONE or raw.SQLITE_ROW))
        {
            throw new SqliteException(raw.sqlite3_errmsg(_db).utf8_to_string(), result & 0xff, result);
        }
    }

    public void Dispose()
    {
        foreach (var statement in (sqlite3_stmt[])[Begin, Commit, Rollback, Save, Undo, Release, _insert, _head, _create]) { raw.sqlite3_finalize(statement); }
    }
}
