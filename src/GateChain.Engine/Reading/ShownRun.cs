using System.Collections.Concurrent;
using GateChain.Core.Running.Events;
using GateChain.Core.Running.State;
using GateChain.Engine.Live;

namespace GateChain.Engine.Reading;

/// <summary>
/// One run as it is on disk, folded once and kept up to date by the notification of it. Thread-safe. News never waits
/// for who reads: whoever is at the state takes in what has come meanwhile.
/// </summary>
/// <param name="fold">Folds what is on disk.</param>
/// <param name="canAdd">Whether a decision can be added to a state without waiting.</param>
/// <param name="broken">Told when a follower threw, or a fold; such a follower is not called any more.</param>
sealed class ShownRun(Func<Task<(RunState, long)>> fold, Func<Decision, bool> canAdd, Action<Exception> broken)
{
    readonly ConcurrentQueue<RunChanged> _news = new();
    readonly Lock _lock = new();
    readonly List<Action<RunChange>> _followers = [];

    // Null until it is folded, and while it has to be folded again.
    RunState? _state;
    long _seq;
    Task? _folding;
    bool _foldAgain;

    /// <summary>How many read or follow it now; it is kept for them. Guarded by who keeps it.</summary>
    public int Users { get; set; }

    /// <summary>The number of the last decision that is in, or waits to be; null while it is not folded.</summary>
    public long? Known
    {
        get
        {
            lock (_lock)
                return _state is null ? null : Math.Max(_seq, _told);
        }
    }

    /// <summary>Whether anybody follows it.</summary>
    public bool IsFollowed
    {
        get
        {
            lock (_lock)
                return _followers.Count > 0;
        }
    }

    long _told;

    /// <summary>A decision of the run is on disk. Does not wait.</summary>
    public void Tell(RunChanged news)
    {
        _news.Enqueue(news);
        _told = news.Seq;
        TakeInWhileNobodyIsAtIt();
    }

    /// <summary>Reads the state between two decisions; <paramref name="read"/> must not keep it.</summary>
    public async Task<T> ReadAsync<T>(Func<RunState, long, T> read)
    {
        T result;
        while (true)
        {
            await BeginAsync().ConfigureAwait(false);
            lock (_lock)
            {
                TakeIn();
                // What has come asks for another fold.
                if (_state is null)
                    continue;
                result = read(_state, _seq);
                break;
            }
        }
        TakeInWhileNobodyIsAtIt();
        return result;
    }

    /// <summary>
    /// Calls <paramref name="follow"/> with every decision from here on, and the state behind it, until the result is
    /// disposed of.
    /// </summary>
    public async Task<IDisposable> FollowAsync(Action<RunChange> follow)
    {
        await BeginAsync().ConfigureAwait(false);
        lock (_lock)
            _followers.Add(follow);
        return new Following(this, follow);
    }

    // What comes during the fold waits in the queue; what the fold has seen of it is passed over.
    Task BeginAsync()
    {
        lock (_lock)
            return _state is not null ? Task.CompletedTask : _folding ??= FoldAsync();
    }

    async Task FoldAsync()
    {
        // Not under the lock of who asks.
        await Task.Yield();
        try
        {
            while (true)
            {
                var folded = await fold().ConfigureAwait(false);
                lock (_lock)
                {
                    if (!_foldAgain)
                    {
                        (_state, _seq) = folded;
                        _folding = null;
                        return;
                    }
                    _foldAgain = false;
                }
            }
        }
        catch
        {
            lock (_lock)
                (_folding, _foldAgain) = (null, false);
            throw;
        }
    }

    /// <summary>
    /// The run was given up by its owner: what it had decided last may be on disk without having been told.
    /// </summary>
    public void LookAgain()
    {
        lock (_lock)
        {
            if (_state is not null)
                FoldAnew();
            else
                _foldAgain = _folding is not null;
        }
    }

    // Under the lock. Who follows waits for nothing: it is told what comes behind the fold.
    void FoldAnew()
    {
        _state = null;
        _ = FoldSoonAsync();
    }

    async Task FoldSoonAsync()
    {
        try
        {
            await Task.Yield();
            await BeginAsync().ConfigureAwait(false);
            TakeInWhileNobodyIsAtIt();
        }
        catch (Exception e) when (e is not OutOfMemoryException)
        {
            // Who reads tries again, and is told.
            broken(e);
        }
    }

    void TakeInWhileNobodyIsAtIt()
    {
        // Whoever stops reading looks into the queue once more, so that nothing stays in it when both sides leave it to
        // the other.
        while (!_news.IsEmpty && _lock.TryEnter())
        {
            try
            {
                if (_state is null)
                    return;
                TakeIn();
            }
            finally
            {
                _lock.Exit();
            }
        }
    }

    void TakeIn()
    {
        while (_state is not null && _news.TryDequeue(out var news))
        {
            if (news.Seq <= _seq)
                continue;
            // Something was not told: its owner was given up meanwhile. Or it can't be added without waiting. The
            // journal has it.
            if (news.Seq > _seq + 1 || !canAdd(news.Decision))
            {
                FoldAnew();
                return;
            }
            _state.Add(news.Decision);
            _seq = news.Seq;
            if (_followers.Count > 0)
                NotifyFollowers(new(news.Run, news.Seq, news.Decision, _state));
        }
    }

    void NotifyFollowers(RunChange change)
    {
        foreach (var follow in _followers.ToList())
        {
            try
            {
                follow(change);
            }
            catch (Exception e)
            {
                // Who looks at a run can end themselves, and nothing else.
                _followers.Remove(follow);
                broken(e);
            }
        }
    }

    sealed class Following(ShownRun run, Action<RunChange> follow) : IDisposable
    {
        public void Dispose()
        {
            lock (run._lock)
                run._followers.Remove(follow);
        }
    }
}
