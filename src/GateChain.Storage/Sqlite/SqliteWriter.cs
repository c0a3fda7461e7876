using System.Collections.Concurrent;
using Microsoft.Data.Sqlite;
using SQLitePCL;

namespace GateChain.Storage.Sqlite;

/// <summary>
/// The one thread that writes. It takes everything that waits and puts it into one transaction, so that a thousand runs
/// share one sync to disk. Journal rows that can't be written are tried again until they can; other writes fail at once.
/// </summary>
sealed class SqliteWriter : IDisposable
{
    const int MaxBatch = 1000;

    readonly BlockingCollection<object> _queue = [];
    readonly Thread _thread;
    readonly TimeProvider _time;
    readonly SqliteFile _file;
    SqliteConnection _connection;
    Statements _statements;
    volatile WriterState _state = WriterState.Fine;

    /// <summary>A write other than a journal row.</summary>
    sealed record Job(Action<SqliteConnection> Write, TaskCompletionSource Done);

    public SqliteWriter(SqliteFile file, TimeProvider time)
    {
        (_file, _time) = (file, time);
        _connection = file.Open();
        _statements = new(_connection);
        _thread = new(Loop) { Name = "journal writer", IsBackground = true };
        _thread.Start();
    }

    public WriterState State => _state;

    public void Append(JournalAppend append) => _queue.Add(append);

    /// <summary>Runs a write in the next transaction; ends when it is on disk.</summary>
    /// <exception cref="StorageException">It could not be written.</exception>
    public Task WriteAsync(Action<SqliteConnection> write)
    {
        var job = new Job(write, new(TaskCreationOptions.RunContinuationsAsynchronously));
        _queue.Add(job);
        return job.Done.Task;
    }

    void Loop()
    {
        var appends = new List<JournalAppend>(MaxBatch);
        var jobs = new List<Job>();
        while (!_queue.IsCompleted)
        {
            if (!_queue.TryTake(out var item, Timeout.Infinite)) { break; }
            do
            {
                if (item is JournalAppend append) { appends.Add(append); }
                else { jobs.Add((Job)item); }
            }
            while (appends.Count + jobs.Count < MaxBatch && _queue.TryTake(out item));

            foreach (var job in jobs) { Run(job); }
            jobs.Clear();
            if (appends.Count > 0)
            {
                WriteUntilDone(appends);
                appends.Clear();
            }
        }
    }

    void Run(Job job)
    {
        try
        {
            _statements.Run(_statements.Begin);
            job.Write(_connection);
            _statements.Run(_statements.Commit);
            job.Done.SetResult();
        }
        catch (Exception e) when (e is SqliteException or StorageException)
        {
            RollBack();
            Reopen();
            job.Done.SetException(e as StorageException ?? new StorageException($"it could not be stored: {Sentence((SqliteException)e)}", e));
        }
    }

    void WriteUntilDone(List<JournalAppend> appends)
    {
        var outcomes = new AppendOutcome[appends.Count];
        for (var wait = 50; ; wait = Math.Min(wait * 2, 2000))
        {
            try
            {
                _statements.Run(_statements.Begin);
                for (var i = 0; i < appends.Count; i++) { outcomes[i] = _statements.Insert(appends[i]); }
                _statements.Run(_statements.Commit);
                _state = WriterState.Fine;
                break;
            }
            catch (SqliteException e)
            {
                RollBack();
                _state = new(Sentence(e), _state.Since ?? _time.GetUtcNow());
                if (_queue.IsAddingCompleted) { return; }
                Thread.Sleep(wait);
                Reopen();
            }
        }
        for (var i = 0; i < appends.Count; i++) { appends[i].Listener.Appended(appends[i], outcomes[i]); }
    }

    void RollBack()
    {
        if (raw.sqlite3_get_autocommit(_connection.Handle) == 0) { Statements.TryRun(_statements.Rollback); }
    }

    // After an I/O error a connection may be unusable; a new one costs little.
    void Reopen()
    {
        try
        {
            var connection = _file.Open();
            _statements.Dispose();
            _connection.Dispose();
            (_connection, _statements) = (connection, new(connection));
        }
        catch (SqliteException)
        {
            // The old connection stays; the next round tries again.
        }
    }

    static string Sentence(SqliteException e) => e.SqliteErrorCode switch
    {
        raw.SQLITE_FULL => "the disk (or the database's size limit) is full",
        raw.SQLITE_BUSY or raw.SQLITE_LOCKED => "the database is locked by another program",
        raw.SQLITE_READONLY => "the database can't be written: it is read-only",
        raw.SQLITE_IOERR => "the disk gave an input/output error",
        _ => e.Message,
    };

    public void Dispose()
    {
        _queue.CompleteAdding();
        _thread.Join();
        _statements.Dispose();
        _connection.Dispose();
        _queue.Dispose();
    }
}
