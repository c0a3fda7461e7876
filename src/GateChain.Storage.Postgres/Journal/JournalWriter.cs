using System.Threading.Channels;

namespace GateChain.Storage.Postgres;

/// <summary>
/// Takes everything that waits and writes it together, so that a thousand runs share one trip and one sync to disk. Two
/// writers, by run: one prepares while the other waits for the disk. Rows that can't be written are tried again until
/// they can. Thread-safe.
/// </summary>
sealed class JournalWriter : IAsyncDisposable
{
    const int Writers = 2,
        MaxBatch = 1000,
        NotificationsTogether = 32;

    const long MaxBytes = 64 << 20;

    readonly PostgresDatabase _database;
    readonly TimeProvider _time;
    readonly Channel<JournalAppend>[] _queues;
    readonly Task[] _loops;
    readonly WriterState[] _states = [.. Enumerable.Repeat(WriterState.Fine, Writers)];
    readonly CancellationTokenSource _closing = new();
    readonly KnownRuns[] _known = [.. Enumerable.Range(0, Writers).Select(_ => new KnownRuns())];
    int _writingCursors;

    public JournalWriter(PostgresDatabase database, TimeProvider time)
    {
        (_database, _time) = (database, time);
        _queues =
        [
            .. Enumerable
                .Range(0, Writers)
                .Select(_ => Channel.CreateUnbounded<JournalAppend>(new() { SingleReader = true })),
        ];
        _loops = [.. Enumerable.Range(0, Writers).Select(i => Task.Run(() => LoopAsync(i)))];
    }

    /// <summary>How they fare: the trouble of one is that of all.</summary>
    public WriterState State => Array.Find(_states, s => s.Trouble is not null) ?? WriterState.Fine;

    public void Append(JournalAppend append) => _queues[append.Run % Writers].Writer.TryWrite(append);

    async Task LoopAsync(int writer)
    {
        var queue = _queues[writer].Reader;
        var batch = new List<JournalAppend>(MaxBatch);
        while (await queue.WaitToReadAsync().ConfigureAwait(false))
        {
            var bytes = 0L;
            while (batch.Count < MaxBatch && bytes < MaxBytes && queue.TryRead(out var append))
            {
                batch.Add(append);
                bytes += append.Body.Length;
            }
            if (!await WriteAsync(writer, batch).ConfigureAwait(false))
                return;
            batch.Clear();
        }
    }

    // False when it is given up: the service ends.
    async Task<bool> WriteAsync(int writer, List<JournalAppend> batch)
    {
        var work = new JournalBatch(batch, _known[writer]);
        for (var wait = 50; ; wait = Math.Min(wait * 2, 2000))
        {
            try
            {
                // One of them also writes how far the outbox's consumers have got.
                var withCursors = _database.Cursors.HaveMovedFar && Interlocked.Exchange(ref _writingCursors, 1) == 0;
                try
                {
                    await work.WriteAsync(_database, withCursors).ConfigureAwait(false);
                }
                finally
                {
                    if (withCursors)
                        Volatile.Write(ref _writingCursors, 0);
                }
                _states[writer] = WriterState.Fine;
                break;
            }
            // Another service took what this one wanted to: looked at again, it is seen.
            catch (Npgsql.PostgresException e) when (PostgresDatabase.CameBetween(e))
            {
                _known[writer].Forget();
                await Task.Delay(Random.Shared.Next(1, 20)).ConfigureAwait(false);
                wait = 25;
            }
            // Whatever it is, runs hold still, and the service does not end.
            catch (Exception e) when (e is not OutOfMemoryException)
            {
                _states[writer] = new(PostgresDatabase.Sentence(e), _states[writer].Since ?? _time.GetUtcNow());
                if (_closing.IsCancellationRequested)
                    return false;
                _known[writer].Forget();
                _database.Clear();
                try
                {
                    await Task.Delay(wait, _closing.Token).ConfigureAwait(false);
                }
                catch (OperationCanceledException)
                {
                    // One last time.
                }
            }
        }
        for (var i = 0; i < batch.Count; i += NotificationsTogether)
        {
            ThreadPool.UnsafeQueueUserWorkItem(
                new Notifications(
                    batch.GetRange(i, Math.Min(NotificationsTogether, batch.Count - i)),
                    work.Outcomes,
                    i
                ),
                preferLocal: false
            );
        }
        return true;
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

    /// <summary>Writes what was handed over; what can't be written then is given up.</summary>
    public async ValueTask DisposeAsync()
    {
        await _closing.CancelAsync().ConfigureAwait(false);
        foreach (var queue in _queues)
            queue.Writer.Complete();
        await Task.WhenAll(_loops).ConfigureAwait(false);
        if (_database.Cursors.HaveMoved)
        {
            try
            {
                await _database.WriteAsync(_database.Cursors.WriteAsync).ConfigureAwait(false);
            }
            catch (StorageException)
            {
                // The next start tells the newest news again.
            }
        }
        _closing.Dispose();
    }
}
