using GateChain.Core.Running.State;
using GateChain.Engine.Basics;
using GateChain.Engine.Live;
using GateChain.Storage;

namespace GateChain.Engine.Reading;

/// <summary>
/// Shows runs as they are on disk, whether they continue or not: it folds the journal itself, so nobody is shown what a
/// crash could take back, and nobody who looks keeps a run waiting. Thread-safe.
/// </summary>
public sealed class RunReader
{
    // How many runs are kept that nobody looks at just now, and how long one that continues.
    const int Kept = 16;
    static readonly TimeSpan KeptFor = TimeSpan.FromSeconds(30);

    readonly IRunStore _store;
    readonly RunFolder _folder;
    readonly TimeProvider _time;
    readonly Action<Exception> _broken;
    readonly Lock _lock = new();
    readonly OrderedDictionary<long, (ShownRun Run, long Used)> _runs = [];

    // Of runs that go on elsewhere nothing is told: what they have written is looked up.
    readonly Func<long, bool> _isTold;

    /// <param name="feed">Tells what has reached the disk.</param>
    /// <param name="broken">Told when a follower threw; it is not called any more.</param>
    /// <param name="isTold">Whether what a run writes is told; of all when absent.</param>
    internal RunReader(
        IRunStore store,
        RunFolder folder,
        RunFeed feed,
        TimeProvider time,
        Action<Exception> broken,
        Func<long, bool>? isTold = null
    )
    {
        (_store, _folder, _time, _broken, _isTold) = (store, folder, time, broken, isTold ?? (_ => true));
        feed.Subscribe(null, Tell);
    }

    /// <summary>Reads a run's state, with the number of its last decision.</summary>
    /// <param name="run">The run.</param>
    /// <param name="read">Must not keep the state.</param>
    /// <exception cref="RefusedException">There is no such run, or it can't be read here.</exception>
    public async Task<T> ReadAsync<T>(long run, Func<RunState, long, T> read)
    {
        var shown = await TakeAsync(run).ConfigureAwait(false);
        try
        {
            if (!_isTold(run))
                await shown.CatchUpAsync().ConfigureAwait(false);
            return await shown.ReadAsync(read).ConfigureAwait(false);
        }
        finally
        {
            Leave(run, shown);
        }
    }

    /// <summary>Reads a run as it is now, or as it was when a leg ended.</summary>
    /// <inheritdoc cref="ReadPastAsync"/>
    public Task<T> ReadAsync<T>(long run, int? leg, Func<RunState, long, T> read) =>
        leg is { } past ? ReadPastAsync(run, past, read) : ReadAsync(run, read);

    /// <summary>
    /// Reads a run's state as it was when a leg ended: the fold of the journal up to where the next one began.
    /// </summary>
    /// <exception cref="RefusedException">There is no such run or leg.</exception>
    public async Task<T> ReadPastAsync<T>(long run, int leg, Func<RunState, long, T> read)
    {
        var stored = await FindRunAsync(run).ConfigureAwait(false);
        if (leg < 1 || leg > stored.Leg)
            throw new RefusedException(Core.Running.RefusalKind.NotFound, $"run {run} has no leg {leg}");
        var (state, seq) = await _folder.FoldAsync(run, leg).ConfigureAwait(false);
        return read(state, seq);
    }

    /// <summary>
    /// Calls <paramref name="follow"/> with every decision of a run that reaches the disk from here on, and the state
    /// behind it, until the result is disposed of. It must be quick, and not keep the state.
    /// </summary>
    /// <exception cref="RefusedException">There is no such run, or it can't be read here.</exception>
    public async Task<IDisposable> FollowAsync(long run, Action<RunChange> follow)
    {
        var shown = await TakeAsync(run).ConfigureAwait(false);
        try
        {
            return new Following(this, run, shown, await shown.FollowAsync(follow).ConfigureAwait(false));
        }
        catch
        {
            Leave(run, shown);
            throw;
        }
    }

    /// <summary>Looks up what runs that somebody follows have written elsewhere.</summary>
    internal async Task CatchUpAsync()
    {
        List<(long Run, ShownRun Shown)> shown;
        lock (_lock)
            shown = [.. _runs.Where(r => r.Value.Run.Users > 0).Select(r => (r.Key, r.Value.Run))];
        foreach (var (run, one) in shown.Where(s => s.Shown.IsFollowed && !_isTold(s.Run)))
            await one.CatchUpAsync().ConfigureAwait(false);
    }

    async ValueTask<StoredRun> FindRunAsync(long run) =>
        await _store.FindAsync(run).ConfigureAwait(false) ?? throw RefusedException.NoRun(run);

    async ValueTask<ShownRun> TakeAsync(long run)
    {
        // Whether there is such a run is looked up before anybody would have to wait for it.
        bool known;
        lock (_lock)
            known = _runs.ContainsKey(run);
        if (!known)
            await FindRunAsync(run).ConfigureAwait(false);
        lock (_lock)
        {
            if (!_runs.Remove(run, out var kept))
            {
                kept.Run = new(
                    () => _folder.FoldAsync(run),
                    after => _folder.DecisionsAsync(run, after),
                    _folder.CanAdd,
                    _broken
                );
            }
            kept.Run.Users++;
            _runs.Add(run, (kept.Run, _time.GetTimestamp()));
            return kept.Run;
        }
    }

    void Leave(long run, ShownRun shown)
    {
        lock (_lock)
        {
            shown.Users--;
            // The one that was looked at longest ago goes first.
            for (var i = 0; _runs.Count > Kept && i < _runs.Count; )
            {
                if (_runs.GetAt(i).Value.Run.Users == 0)
                    _runs.RemoveAt(i);
                else
                    i++;
            }
        }
    }

    /// <summary>A run is not there any more.</summary>
    internal void Forget(long run)
    {
        lock (_lock)
        {
            if (_runs.TryGetValue(run, out var kept) && kept.Run.Users == 0)
                _runs.Remove(run);
        }
    }

    /// <summary>A run was given up by its owner: what was decided last may be on disk without having been
    /// told.</summary>
    internal void LookAgain(long run)
    {
        ShownRun? shown;
        lock (_lock)
            shown = _runs.TryGetValue(run, out var kept) ? kept.Run : null;
        shown?.LookAgain();
    }

    // On the way of the run itself.
    void Tell(RunChanged news)
    {
        ShownRun shown;
        lock (_lock)
        {
            if (!_runs.TryGetValue(news.Run, out var kept))
                return;
            if (kept.Run.Users == 0 && _time.GetElapsedTime(kept.Used) > KeptFor)
            {
                _runs.Remove(news.Run);
                return;
            }
            shown = kept.Run;
        }
        shown.Tell(news);
    }

    sealed class Following(RunReader reader, long run, ShownRun shown, IDisposable following) : IDisposable
    {
        int _ended;

        public void Dispose()
        {
            if (Interlocked.Exchange(ref _ended, 1) == 1)
                return;
            following.Dispose();
            reader.Leave(run, shown);
        }
    }
}
