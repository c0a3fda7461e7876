using System.Collections.Concurrent;
using GateChain.Core.Running.State;
using GateChain.Engine.Live;

namespace GateChain.Engine.Reading;

/// <summary>
/// One run as it is on disk, folded once and kept up to date by the news of it. Thread-safe. News never waits for
/// who reads: whoever is at the state takes in what has come meanwhile.
/// </summary>
/// <param name="fold">Folds what is on disk.</param>
/// <param name="broken">Told when a follower threw; it is not called any more.</param>
sealed class ShownRun(Func<(RunState, long)> fold, Action<Exception> broken)
{
    readonly ConcurrentQueue<RunChanged> _news = new();
    readonly Lock _lock = new();
    readonly Lock _folding = new();
    readonly List<Action<RunChange>> _followers = [];
    RunState? _state;
    long _seq;

    /// <summary>How many read or follow it now; it is kept for them. Guarded by who keeps it.</summary>
    public int Users { get; set; }

    /// <summary>A decision of the run is on disk. Does not wait.</summary>
    public void Tell(RunChanged news)
    {
        _news.Enqueue(news);
        TakeInWhileNobodyIsAtIt();
    }

    /// <summary>Reads the state between two decisions; <paramref name="read"/> must not keep it.</summary>
    public T Read<T>(Func<RunState, long, T> read)
    {
        Begin();
        T result;
        lock (_lock)
        {
            TakeIn();
            result = read(_state!, _seq);
        }
        TakeInWhileNobodyIsAtIt();
        return result;
    }

    /// <summary>
    /// Calls <paramref name="follow"/> with every decision from here on, and the state behind it, until the result is
    /// disposed of.
    /// </summary>
    public IDisposable Follow(Action<RunChange> follow)
    {
        Begin();
        lock (_lock)
            _followers.Add(follow);
        return new Following(this, follow);
    }

    // What comes during the fold waits in the queue; what the fold has seen of it is passed over.
    void Begin()
    {
        lock (_folding)
        {
            if (_state is not null)
                return;
            var folded = fold();
            lock (_lock)
                Have(folded);
        }
    }

    void Fold() => Have(fold());

    void Have((RunState State, long Seq) folded) => (_state, _seq) = folded;

    /// <summary>
    /// The run was let go by its owner: what it had decided last may be on disk without having been told.
    /// </summary>
    public void LookAgain()
    {
        lock (_lock)
        {
            if (_state is not null)
                Fold();
        }
    }

    void TakeInWhileNobodyIsAtIt()
    {
        // Whoever lets go looks once more: nothing stays in the queue because two were polite.
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
        while (_news.TryDequeue(out var news))
        {
            if (news.Seq <= _seq)
                continue;
            // Something was not told: its owner was let go meanwhile. The journal has it.
            if (news.Seq > _seq + 1)
            {
                Fold();
                continue;
            }
            _state!.Add(news.Decision);
            _seq = news.Seq;
            if (_followers.Count > 0)
                TellFollowers(new(news.Run, news.Seq, news.Decision, _state));
        }
    }

    void TellFollowers(RunChange change)
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
