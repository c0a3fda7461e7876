using System.Collections.Concurrent;
using GateChain.Core.Running;
using GateChain.Engine.Basics;
using GateChain.Engine.Live;
using GateChain.Storage;
using Microsoft.Extensions.Logging;

namespace GateChain.Engine.Runs;

/// <summary>
/// Resumes failed runs when their chain's <c>recover</c> says so. Thread-safe; the times are on disk with the runs.
/// </summary>
sealed class AutomaticResumes : IDisposable
{
    // Somebody is in the way for now.
    static readonly TimeSpan AgainIn = TimeSpan.FromSeconds(30);

    readonly IRunRegister _register;
    readonly Func<long, Task> _resume;
    readonly TimeProvider _time;
    readonly ILogger _logger;
    readonly ConcurrentDictionary<long, ITimer> _timers = new();
    volatile bool _ended;

    /// <param name="register">Knows what is to be resumed.</param>
    /// <param name="feed">Tells of ends, and of legs that somebody else began.</param>
    /// <param name="resume">Resumes a run.</param>
    public AutomaticResumes(
        IRunRegister register,
        RunFeed feed,
        Func<long, Task> resume,
        TimeProvider time,
        ILogger logger
    )
    {
        (_register, _resume, _time, _logger) = (register, resume, time, logger);
        feed.SubscribeNews(news =>
        {
            if (news is { Kind: RunNewsKind.Ended, End.ResumeAt: { } at })
                Plan(news.Run, at);
            else if (news.Kind is RunNewsKind.Ended or RunNewsKind.Resumed)
                CallOff(news.Run);
        });
    }

    /// <summary>Plans what is on disk, at the start.</summary>
    public void Start()
    {
        foreach (var head in _register.ToResume())
            Plan(head.Id, head.ResumeAt!.Value);
    }

    void Plan(long run, DateTimeOffset at)
    {
        if (_ended)
            return;
        var wait = at - _time.GetUtcNow();
        wait =
            wait < TimeSpan.Zero ? TimeSpan.Zero
            : wait > TimeSpan.FromDays(20) ? TimeSpan.FromDays(20)
            : wait;
        var timer = _time.CreateTimer(_ => Due(run, at), null, Timeout.InfiniteTimeSpan, Timeout.InfiniteTimeSpan);
        if (_timers.TryGetValue(run, out var before))
            before.Dispose();
        _timers[run] = timer;
        // Only now: one that is due already strikes at once, and has to be found there.
        timer.Change(wait, Timeout.InfiniteTimeSpan);
    }

    void Due(long run, DateTimeOffset at)
    {
        // Timers have an upper bound, and may strike a little early.
        if (at > _time.GetUtcNow())
        {
            Plan(run, at);
        }
        else if (_timers.TryRemove(run, out var timer))
        {
            timer.Dispose();
            _ = ResumeAsync(run);
        }
    }

    async Task ResumeAsync(long run)
    {
        if (_ended)
            return;
        try
        {
            await _resume(run).ConfigureAwait(false);
        }
        catch (Exception e) when (e is RefusedException or StorageException)
        {
            if (
                _register.Find(run) is { ResumeAt: not null, Ended: not null }
                && e is not RefusedException { Kind: RefusalKind.Invalid }
            )
            {
                Plan(run, _time.GetUtcNow() + AgainIn);
            }
            _logger.LogWarning("Run {Run} was not resumed by itself: {Reason}", run, e.Message);
        }
    }

    void CallOff(long run)
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
