using System.Collections.Concurrent;

namespace GateChain.Engine.Runs;

/// <summary>
/// Resumes failed runs when their chain's <c>recover</c> says so. Thread-safe; the times are on disk with the runs.
/// </summary>
/// <param name="time">The clock.</param>
/// <param name="resume">Resumes a run; must not throw.</param>
sealed class AutomaticResumes(TimeProvider time, Func<long, Task> resume) : IDisposable
{
    readonly ConcurrentDictionary<long, ITimer> _timers = new();
    volatile bool _ended;

    public void Plan(long run, DateTimeOffset at)
    {
        if (_ended)
            return;
        var wait = at - time.GetUtcNow();
        wait =
            wait < TimeSpan.Zero ? TimeSpan.Zero
            : wait > TimeSpan.FromDays(20) ? TimeSpan.FromDays(20)
            : wait;
        var timer = time.CreateTimer(_ => Due(run, at), null, Timeout.InfiniteTimeSpan, Timeout.InfiniteTimeSpan);
        if (_timers.TryGetValue(run, out var before))
            before.Dispose();
        _timers[run] = timer;
        // Only now: one that is due already strikes at once, and has to be found there.
        timer.Change(wait, Timeout.InfiniteTimeSpan);
    }

    void Due(long run, DateTimeOffset at)
    {
        // Timers have an upper bound, and may strike a little early.
        if (at > time.GetUtcNow())
        {
            Plan(run, at);
        }
        else if (_timers.TryRemove(run, out var timer))
        {
            timer.Dispose();
            _ = resume(run);
        }
    }

    public void CallOff(long run)
    {
        if (_timers.TryRemove(run, out var timer))
            timer.Dispose();
    }

    public void Dispose()
    {
        _ended = true;
        foreach (var timer in _timers.Values)
            timer.Dispose();
    }
}
