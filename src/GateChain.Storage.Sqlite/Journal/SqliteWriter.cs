using System.Collections.Concurrent;
using GateChain.Storage.Sql;
using Microsoft.Data.Sqlite;
using SQLitePCL;

namespace GateChain.Storage.Sqlite;

/// <summary>
/// The one thread that writes. It takes everything that waits and puts it into one transaction, so that a thousand runs
/// share one sync to disk. Journal rows that can't be written are tried again until they can; other writes fail at
/// once.
/// </summary>
sealed class SqliteWriter : IDisposable
{
    const int MaxBatch = 1000;

    // What one transaction holds is one value of the database, and that has a size limit of its own.
    const long MaxBytes = 128 << 20;

    // A transaction costs little more for many rows than for few. Where many come, the next millisecond brings as many
    // again: it is waited for, unless there are plenty already. Where few come, nobody waits.
    const int Many = 64,
        Plenty = 300;

    // So many news are passed on by one item of work for the pool: one each would cost more than the notification.
    const int NotificationsTogether = 32;

    readonly ConcurrentQueue<object> _queue = new();
    readonly AutoResetEvent _arrived = new(false);
    int _asleep;
    volatile bool _closing;
    readonly Thread _thread;
    readonly TimeProvider _time;
    readonly SqliteFile _file;
    SqliteConnection _connection;
    Statements _statements;
    WriteBuffer _buffer;
    volatile WriterState _state = WriterState.Fine;

    /// <summary>A write other than a journal row.</summary>
    sealed record Job(Action<SqliteConnection> Write, bool Compact, TaskCompletionSource Done);

    public SqliteWriter(SqliteFile file, TimeProvider time)
    {
        (_file, _time) = (file, time);
        _connection = file.Open();
        _statements = new(_connection);
        _buffer = new(_statements, Unflushed);
        _thread = new(Loop) { Name = "journal writer", IsBackground = true };
        _thread.Start();
    }

    public WriterState State => _state;

    public void Append(JournalAppend append) => Add(append);

    /// <summary>The lines of runs that are not in their table yet.</summary>
    public UnflushedRuns Unflushed { get; } = new();

    /// <summary>What the outbox's consumers have handled.</summary>
    public OutboxCursors Cursors { get; } = new();

    /// <summary>Runs a write in the next transaction; ends when it is on disk.</summary>
    /// <param name="write">The write.</param>
    /// <param name="sortIn">Whether everything that the journal's tail holds has to be in the tables before.</param>
    /// <exception cref="StorageException">It could not be written.</exception>
    public Task WriteAsync(Action<SqliteConnection> write, bool sortIn = false)
    {
        // Whoever asks is told at once, and does not wait for something that may take for ever.
        if (_state.Trouble is { } trouble)
        {
            return Task.FromException(
                new StorageException($"it could not be stored: {trouble}", new IOException(trouble))
            );
        }
        var job = new Job(write, sortIn, new(TaskCreationOptions.RunContinuationsAsynchronously));
        Add(job);
        return job.Done.Task;
    }

    void Add(object item)
    {
        _queue.Enqueue(item);
        // The writer is woken only when it sleeps: under load it never does. Without the barrier the look at the flag
        // could come before the item is visible, and the writer would sleep over it.
        Interlocked.MemoryBarrier();
        if (Volatile.Read(ref _asleep) != 0 && Interlocked.Exchange(ref _asleep, 0) != 0)
            _arrived.Set();
    }

    bool Take(out object item)
    {
        while (!_queue.TryDequeue(out item!))
        {
            if (_closing)
                return false;
            Interlocked.Exchange(ref _asleep, 1);
            if (_queue.IsEmpty && !_closing)
                _arrived.WaitOne();
            Interlocked.Exchange(ref _asleep, 0);
        }
        return true;
    }

    void Loop()
    {
        var appends = new List<JournalAppend>(MaxBatch);
        var jobs = new List<Job>();
        long bytes;
        while (Take(out var item))
        {
            bytes = 0;
            Put(item);
            Gather();
            if (appends.Count is >= Many and < Plenty)
            {
                Thread.Sleep(1);
                Gather();
            }
            Write(appends, jobs);
            appends.Clear();
            jobs.Clear();
        }
        // In good order nothing is told again by the next start.
        if (Cursors.HaveMoved)
            Write([], [new(c => Finish(Cursors.WriteAsync(c)), false, new())]);

        void Gather()
        {
            while (appends.Count + jobs.Count < MaxBatch && bytes < MaxBytes && _queue.TryDequeue(out var next))
                Put(next);
        }

        void Put(object item)
        {
            if (item is JournalAppend append)
            {
                appends.Add(append);
                bytes += append.Body.Length;
            }
            else
            {
                jobs.Add((Job)item);
            }
        }
    }

    void Write(List<JournalAppend> appends, List<Job> jobs)
    {
        var outcomes = new AppendOutcome[appends.Count];
        for (var wait = 50; ; wait = Math.Min(wait * 2, 2000))
        {
            try
            {
                WriteOnce(appends, outcomes, jobs);
                _state = WriterState.Fine;
                break;
            }
            // What is no error of the database is a damaged file or a mistake of ours: it is told the same way, and
            // must not end the service.
            catch (Exception e) when (e is not OutOfMemoryException)
            {
                RollBack();
                // Other writes are refused at once; whoever asked can ask again.
                foreach (var job in jobs)
                    job.Done.TrySetException(NotStored(e));
                jobs.Clear();
                if (appends.Count == 0)
                {
                    Reopen();
                    return;
                }
                _state = new(Sentence(e), _state.Since ?? _time.GetUtcNow());
                if (_closing)
                    return;
                Thread.Sleep(wait);
                Reopen();
            }
        }
        foreach (var job in jobs)
            job.Done.TrySetResult();
        for (var i = 0; i < appends.Count; i += NotificationsTogether)
        {
            ThreadPool.UnsafeQueueUserWorkItem(
                new Notifications(appends.GetRange(i, Math.Min(NotificationsTogether, appends.Count - i)), outcomes, i),
                preferLocal: false
            );
        }
    }

    /// <summary>Tells the listeners of some appends; the writer writes on meanwhile.</summary>
    sealed class Notifications(List<JournalAppend> appends, AppendOutcome[] outcomes, int first) : IThreadPoolWorkItem
    {
        public void Execute()
        {
            for (var i = 0; i < appends.Count; i++)
                appends[i].Listener.Appended(appends[i], outcomes[first + i]);
        }
    }

    void WriteOnce(List<JournalAppend> appends, AppendOutcome[] outcomes, List<Job> jobs)
    {
        // What is written to a removed file is lost with the process; better to hold still and say so.
        if (!File.Exists(_file.Path))
            throw new IOException($"the file {_file.Path} is not there any more; put it back, or end the service");
        _statements.Run(_statements.Begin);
        _buffer.Begin();
        if (jobs.Exists(j => j.Compact))
            _buffer.SortAllIn();
        foreach (var job in jobs)
        {
            // A write that breaks a rule of the schema, or comes too late, fails alone.
            _statements.Run(_statements.Save);
            try
            {
                job.Write(_connection);
            }
            catch (SqliteException e) when (e.SqliteErrorCode == raw.SQLITE_CONSTRAINT)
            {
                _statements.Run(_statements.Undo);
                job.Done.TrySetException(NotStored(e));
            }
            catch (Exception e) when (e is DraftChangedException or FileChangedException)
            {
                _statements.Run(_statements.Undo);
                job.Done.TrySetException(e);
            }
            _statements.Run(_statements.Release);
        }
        if (Cursors.HaveMovedFar)
            Finish(Cursors.WriteAsync(_connection));
        for (var i = 0; i < appends.Count; i++)
            outcomes[i] = _buffer.Add(appends[i]);
        _buffer.End();
        _statements.Run(_statements.Commit);
        Unflushed.Committed();
        Cursors.Committed();
    }

    /// <summary>
    /// The end of a write. SQLite has ended by then; one that also reads from elsewhere has this thread wait for it.
    /// </summary>
    internal static void Finish(Task done) => done.GetAwaiter().GetResult();

    static StorageException NotStored(Exception e) => new($"it could not be stored: {Sentence(e)}", e);

    void RollBack()
    {
        _buffer.Forget();
        if (raw.sqlite3_get_autocommit(_connection.Handle) == 0)
            Statements.TryRun(_statements.Rollback);
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
            _buffer = new(_statements, Unflushed);
        }
        catch (SqliteException)
        {
            // The old connection stays; the next round tries again.
        }
    }

    static string Sentence(Exception e) =>
        (e as SqliteException)?.SqliteErrorCode switch
        {
            null => $"the database can't be read or written: {e.Message}",
            raw.SQLITE_FULL => "the disk (or the database's size limit) is full",
            raw.SQLITE_BUSY or raw.SQLITE_LOCKED => "the database is locked by another program",
            raw.SQLITE_READONLY => "the database can't be written: it is read-only",
            raw.SQLITE_IOERR => "the disk gave an input/output error",
            _ => e.Message,
        };

    public void Dispose()
    {
        _closing = true;
        _arrived.Set();
        _thread.Join();
        _statements.Dispose();
        _connection.Dispose();
        _arrived.Dispose();
    }
}
