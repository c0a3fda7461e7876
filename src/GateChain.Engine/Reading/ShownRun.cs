using System.Collections.Concurrent;
using GateChain.Core.Running.Events;
using GateChain.Core.Running.State;
using GateChain.Engine.Live;

namespace GateChain.Engine.Reading;

/// <summary>
/// One run as it is on disk, folded once and kept up to date by the notification of it; what was not told is looked up.
/// Thread-safe. News never waits for who reads: whoever is at the state takes in what has come meanwhile.
/// </summary>
/// <param name="fold">Folds what is on disk.</param>
/// <param name="after">What is on disk behind a decision, each so that it can be added at once.</param>
/// <param name="canAdd">Whether a decision can be added to a state without waiting.</param>
/// <param name="broken">Told when a follower threw, or a look; such a follower is not called any more.</param>
sealed class ShownRun(
    Func<Task<(RunState, long)>> fold,
    Func<long, IAsyncEnumerable<(long Seq, Decision Decision)>> after,
    Func<Decision, bool> canAdd,
    Action<Exception> broken
)
{
    readonly ConcurrentQueue<RunChanged> _news = new();
    readonly Lock _lock = new();
    readonly List<Action<RunChange>> _followers = [];

    // Null until it is folded.
    RunState? _state;
    long _seq;
    Task? _looking;

    // Something may be on disk that the state does not have and nobody tells.
    bool _lacks = true;

    /// <summary>How many read or follow it now; it is kept for them. Guarded by who keeps it.</summary>
    public int Users { get; set; }

    /// <summary>Whether anybody follows it.</summary>
    public bool IsFollowed
    {
        get
        {
            lock (_lock)
                return _followers.Count > 0;
        }
    }

    /// <summary>A decision of the run is on disk. Does not wait.</summary>
    public void Tell(RunChanged news)
    {
        _news.Enqueue(news);
        TakeInWhileNobodyIsAtIt();
    }

    /// <summary>Reads the state between two decisions; <paramref name="read"/> must not keep it.</summary>
    public async Task<T> ReadAsync<T>(Func<RunState, long, T> read)
    {
        T result;
        while (true)
        {
            await ReadyAsync().ConfigureAwait(false);
            lock (_lock)
            {
                TakeIn();
                if (_lacks)
                    continue;
                result = read(_state!, _seq);
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
        await ReadyAsync().ConfigureAwait(false);
        lock (_lock)
            _followers.Add(follow);
        return new Following(this, follow);
    }

    /// <summary>Something may be on disk that nobody tells: takes in what is there by now.</summary>
    public Task CatchUpAsync()
    {
        lock (_lock)
            _lacks = true;
        return ReadyAsync();
    }

    /// <summary>The same, without waiting for it.</summary>
    public void LookAgain()
    {
        lock (_lock)
        {
            // Who is not folded yet will be from what is on disk.
            if (_state is not null || _looking is not null)
                Lack();
        }
    }

    Task ReadyAsync()
    {
        lock (_lock)
            return _looking ?? (_lacks ? _looking = LookAsync() : Task.CompletedTask);
    }

    // What comes meanwhile waits in the queue; what is seen of it here is passed over there.
    async Task LookAsync()
    {
        // Not under the lock of who asks.
        await Task.Yield();
        try
        {
            while (true)
            {
                lock (_lock)
                {
                    if (!_lacks)
                    {
                        _looking = null;
                        return;
                    }
                    _lacks = false;
                }
                if (_state is null)
                {
                    var folded = await fold().ConfigureAwait(false);
                    lock (_lock)
                        (_state, _seq) = folded;
                    continue;
                }
                await foreach (var (seq, decision) in after(Volatile.Read(ref _seq)).ConfigureAwait(false))
                {
                    lock (_lock)
                    {
                        if (seq > _seq)
                            Add(seq, decision);
                    }
                }
            }
        }
        catch
        {
            lock (_lock)
                (_looking, _lacks) = (null, true);
            throw;
        }
    }

    // Under the lock.
    void Lack()
    {
        _lacks = true;
        _ = LookSoonAsync();
    }

    async Task LookSoonAsync()
    {
        try
        {
            await Task.Yield();
            await ReadyAsync().ConfigureAwait(false);
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
                if (!_lacks)
                    continue;
                // The last look was in vain: who follows waits for this one.
                if (_looking is null && _followers.Count > 0)
                    Lack();
                return;
            }
            finally
            {
                _lock.Exit();
            }
        }
    }

    void TakeIn()
    {
        while (_state is not null && _news.TryPeek(out var news))
        {
            // Something was not told: its owner was given up meanwhile. Or it can't be added without waiting. The
            // journal has it.
            if (news.Seq > _seq + 1 || (news.Seq > _seq && !canAdd(news.Decision)))
            {
                if (!_lacks)
                    Lack();
                return;
            }
            _news.TryDequeue(out _);
            if (news.Seq > _seq)
                Add(news.Seq, news.Decision);
        }
    }

    void Add(long seq, Decision decision)
    {
        _state!.Add(decision);
        _seq = seq;
        if (_followers.Count > 0)
            NotifyFollowers(new(_state.Id, seq, decision, _state));
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
