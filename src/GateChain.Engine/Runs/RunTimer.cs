namespace GateChain.Engine.Runs;

/// <summary>Strikes when the next moment of a run has come. Set by its mailbox; thread-safe to dispose of.</summary>
/// <param name="time">The clock.</param>
/// <param name="strike">Called when it strikes; it may do so early.</param>
sealed class RunTimer(TimeProvider time, Action strike) : IDisposable
{
    // Timers have an upper bound; the machine does not mind being asked early.
    static readonly TimeSpan Shortest = TimeSpan.FromMilliseconds(1),
        Longest = TimeSpan.FromDays(20);

    readonly Lock _lock = new();
    ITimer? _timer;
    DateTimeOffset? _due;

    /// <summary>From now on it waits for a moment; null for none.</summary>
    public void Set(DateTimeOffset? due)
    {
        if (due == _due)
            return;
        _due = due;
        if (due is not { } moment)
            return;
        var wait = moment - time.GetUtcNow();
        wait =
            wait < Shortest ? Shortest
            : wait > Longest ? Longest
            : wait;
        lock (_lock)
        {
            if (_timer is null)
                _timer = time.CreateTimer(_ => strike(), null, wait, Timeout.InfiniteTimeSpan);
            else
                _timer.Change(wait, Timeout.InfiniteTimeSpan);
        }
    }

    /// <summary>It has struck: the same moment may be set again.</summary>
    public void Struck() => _due = null;

    public void Dispose()
    {
        lock (_lock)
            _timer?.Dispose();
    }
}
