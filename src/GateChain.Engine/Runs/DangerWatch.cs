using System.Collections.Concurrent;
using GateChain.Core.Running;
using GateChain.Engine.Live;
using GateChain.Engine.Reading;
using GateChain.Storage;
using Microsoft.Extensions.Logging;

namespace GateChain.Engine.Runs;

/// <summary>
/// Looks at runs that are due by a moment beside those before them, and tells those that will not make it, once, before
/// they are late. Thread-safe.
/// </summary>
/// <param name="runs">The runs that continue here.</param>
/// <param name="reader">Knows when a run is due.</param>
/// <param name="outlook">Knows when it will end.</param>
/// <param name="time">The clock.</param>
/// <param name="logger">For what could not be looked at.</param>
sealed class DangerWatch(ActiveRuns runs, RunReader reader, RunOutlook outlook, TimeProvider time, ILogger logger)
    : IDisposable
{
    // Who is due in minutes hears of it soon enough, and a look at one run takes some milliseconds.
    static readonly TimeSpan Pace = TimeSpan.FromSeconds(10);

    // Those that may be in danger; what is never due, or was told, is left out.
    readonly ConcurrentDictionary<long, bool> _watched = new();
    IDisposable? _bell;
    ITimer? _timer;
    int _looking;

    /// <summary>Begins to look: at what continues, and at all that begins.</summary>
    public void Start(RunFeed feed)
    {
        _bell = feed.SubscribeToNotifications(notification =>
        {
            if (notification.Kind is RunNotificationKind.Started or RunNotificationKind.Resumed)
                _watched[notification.Run] = true;
        });
        foreach (var actor in runs.All)
            _watched[actor.Run] = true;
        _timer = time.CreateTimer(_ => _ = LookAsync(), null, Pace, Pace);
    }

    // One look at a time; who comes meanwhile is seen at the next.
    async Task LookAsync()
    {
        if (Interlocked.Exchange(ref _looking, 1) == 1)
            return;
        try
        {
            foreach (var run in _watched.Keys)
            {
                if (!runs.Has(run) || !await MayBeEndangeredAsync(run).ConfigureAwait(false))
                    _watched.TryRemove(run, out _);
            }
        }
        finally
        {
            Volatile.Write(ref _looking, 0);
        }
    }

    async Task<bool> MayBeEndangeredAsync(long run)
    {
        try
        {
            // Most are never due; they cost nothing more.
            if (await reader.ReadAsync(run, (s, _) => s.LateAt).ConfigureAwait(false) is not { } due)
                return false;
            var found = await outlook.OfAsync(run).ConfigureAwait(false);
            if (found.Expected is not { } expected || expected.Likely <= due)
                return true;
            runs.Tell(run, new EndangeredInput(time.GetUtcNow(), expected.Likely, expected.Runs));
        }
        catch (Exception e) when (e is not OutOfMemoryException)
        {
            logger.LogDebug("Run {Run} could not be looked at: {Reason}", run, e.Message);
        }
        return false;
    }

    public void Dispose()
    {
        _bell?.Dispose();
        _timer?.Dispose();
    }
}
