using System.Collections.Concurrent;
using GateChain.Core.Running;
using GateChain.Engine.Basics;
using GateChain.Engine.Live;
using GateChain.Storage;
using Microsoft.Extensions.Logging;

namespace GateChain.Engine.Ownership;

/// <summary>
/// Continues with runs whose moment has come: failed ones that their chain's <c>recover</c> resumes. The moments are on
/// disk with the runs; one timer waits for the first of them. Thread-safe.
/// </summary>
/// <param name="ownership">Knows whose moment comes first.</param>
/// <param name="runs">The lines of runs.</param>
/// <param name="resume">Resumes a run.</param>
/// <param name="time">The clock.</param>
/// <param name="logger">For what could not be resumed.</param>
sealed class DueRuns(
    IRunOwnership ownership,
    IRunStore runs,
    Func<long, Task> resume,
    TimeProvider time,
    ILogger logger
) : IDisposable
{
    // Somebody is in the way for now.
    static readonly TimeSpan AgainIn = TimeSpan.FromSeconds(30);

    // Timers have an upper bound.
    static readonly TimeSpan Longest = TimeSpan.FromDays(20);

    const int Page = 100;

    // What could not be resumed: not before a moment, or not by this process.
    readonly ConcurrentDictionary<long, DateTimeOffset> _later = new();
    readonly ConcurrentDictionary<long, bool> _resuming = new();
    readonly Lock _lock = new();
    ITimer? _timer;
    IDisposable? _bell;
    int _asked;
    volatile bool _ended;

    /// <summary>Begins to wait for moments, those that are past among them.</summary>
    /// <param name="feed">Tells of ends, and of legs that somebody else began.</param>
    public void Start(RunFeed feed)
    {
        _bell = feed.SubscribeToNotifications(notification =>
        {
            if (notification.Kind is RunNotificationKind.Ended or RunNotificationKind.Resumed)
            {
                _later.TryRemove(notification.Run, out _);
                if (notification.End is { ResumeAt: not null })
                    LookSoon();
            }
        });
        LookSoon();
    }

    // Who asks while somebody looks is seen to by them.
    void LookSoon()
    {
        if (Interlocked.Increment(ref _asked) == 1)
            _ = Task.Run(LookAsync);
    }

    async Task LookAsync()
    {
        int asked;
        do
        {
            asked = Volatile.Read(ref _asked);
            try
            {
                await LookOnceAsync().ConfigureAwait(false);
            }
            catch (Exception e) when (e is not OutOfMemoryException)
            {
                // The store may be gone already.
                if (_ended)
                    return;
                logger.LogError(e, "Runs that are due could not be looked for");
                SetTimer(time.GetUtcNow() + AgainIn);
            }
        } while (Interlocked.Add(ref _asked, -asked) > 0);
    }

    async Task LookOnceAsync()
    {
        var now = time.GetUtcNow();
        DateTimeOffset? next = null;
        DueRun? last = null;
        while (!_ended)
        {
            var page = await ownership.NextDueAsync(last, Page).ConfigureAwait(false);
            foreach (var due in page)
            {
                var at = _later.TryGetValue(due.Run, out var later) && later > due.At ? later : due.At;
                if (at <= now)
                    _ = ResumeAsync(due.Run);
                else if (next is null || at < next)
                    next = at;
            }
            if (page.Count < Page || page[^1].At > now)
                break;
            last = page[^1];
        }
        if (next is { } first)
            SetTimer(first);
    }

    void SetTimer(DateTimeOffset at)
    {
        var wait = at - time.GetUtcNow();
        wait =
            wait < TimeSpan.Zero ? TimeSpan.Zero
            : wait > Longest ? Longest
            : wait;
        lock (_lock)
        {
            if (_ended)
                return;
            _timer ??= time.CreateTimer(_ => LookSoon(), null, Timeout.InfiniteTimeSpan, Timeout.InfiniteTimeSpan);
            _timer.Change(wait, Timeout.InfiniteTimeSpan);
        }
    }

    async Task ResumeAsync(long run)
    {
        if (_ended || !_resuming.TryAdd(run, true))
            return;
        try
        {
            await resume(run).ConfigureAwait(false);
        }
        catch (Exception e) when (e is not OutOfMemoryException)
        {
            // What does not fit any more will not fit later either; the next start tries again.
            _later[run] = e is RefusedException { Kind: RefusalKind.Invalid }
                ? DateTimeOffset.MaxValue
                : time.GetUtcNow() + AgainIn;
            logger.LogWarning("Run {Run} was not resumed automatically: {Reason}", run, e.Message);
            if ((await runs.FindAsync(run).ConfigureAwait(false))?.ResumeAt is null)
                _later.TryRemove(run, out _);
        }
        finally
        {
            _resuming.TryRemove(run, out _);
            LookSoon();
        }
    }

    public void Dispose()
    {
        _bell?.Dispose();
        lock (_lock)
        {
            _ended = true;
            _timer?.Dispose();
        }
    }
}
