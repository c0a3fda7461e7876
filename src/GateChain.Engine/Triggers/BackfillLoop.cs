using System.Collections.Concurrent;
using GateChain.Core.Triggers;
using GateChain.Engine.Basics;
using GateChain.Engine.Live;
using GateChain.Storage;
using Microsoft.Extensions.Logging;

namespace GateChain.Engine.Triggers;

/// <summary>
/// Starts the runs of backfills, so many at once as each says. What is left of them is read once, and known from then
/// on. Thread-safe.
/// </summary>
sealed class BackfillLoop(
    TriggerIndex index,
    FireService fireService,
    IBackfills store,
    IRunStore runs,
    TimeProvider time,
    ILogger logger
) : IAsyncDisposable
{
    static readonly TimeSpan AgainIn = TimeSpan.FromSeconds(5);

    // News wake it: it need not look by itself.
    static readonly TimeSpan Longest = TimeSpan.FromDays(1);

    readonly WakeTimer _sleeper = new(time);
    readonly CancellationTokenSource _ending = new();
    readonly ConcurrentQueue<long> _ended = new();
    readonly Dictionary<long, Work> _works = [];
    IDisposable? _notifications;
    Task? _loop;
    volatile bool _reload = true;
    volatile bool _isBusy = true;

    /// <summary>One backfill that is not over.</summary>
    /// <param name="backfill">What it is.</param>
    /// <param name="left">What has not fired.</param>
    /// <param name="going">The runs that have not ended.</param>
    sealed class Work(Backfill backfill, Queue<BackfillTime> left, HashSet<long> going)
    {
        public Backfill Backfill { get; set; } = backfill;
        public Queue<BackfillTime> Left => left;
        public HashSet<long> Going => going;
    }

    public void Start(RunFeed feed)
    {
        _notifications = feed.SubscribeToNotifications(notification =>
        {
            // Mostly there is no backfill, and many runs.
            if (notification.Kind != RunNotificationKind.Ended || !_isBusy)
                return;
            _ended.Enqueue(notification.Run);
            _sleeper.Ring();
        });
        index.Changed += Reload;
        _loop = Task.Run(LoopAsync);
    }

    /// <summary>Backfills or triggers have changed.</summary>
    public void Reload()
    {
        (_isBusy, _reload) = (true, true);
        _sleeper.Ring();
    }

    async Task LoopAsync()
    {
        while (!_ending.IsCancellationRequested)
        {
            var wait = Longest;
            try
            {
                await LookAsync().ConfigureAwait(false);
            }
            catch (OperationCanceledException) when (_ending.IsCancellationRequested)
            {
                return;
            }
            catch (Exception e) when (e is not OutOfMemoryException)
            {
                logger.LogWarning("A backfill could not continue: {Reason}", e.Message);
                // What is on disk counts.
                (_reload, wait) = (true, AgainIn);
                _works.Clear();
            }
            Task sleep = _sleeper.SleepAsync(wait, _ending.Token);
            await sleep.ConfigureAwait(ConfigureAwaitOptions.SuppressThrowing);
        }
    }

    async Task LookAsync()
    {
        if (_reload)
        {
            _reload = false;
            await ReadAsync().ConfigureAwait(false);
        }
        while (_ended.TryDequeue(out var run))
        {
            foreach (var work in _works.Values)
                work.Going.Remove(run);
        }
        foreach (var work in _works.Values.ToList())
            await ContinueAsync(work).ConfigureAwait(false);
    }

    // Of those that are known, only where they are may have changed.
    async Task ReadAsync()
    {
        _isBusy = true;
        var all = (await store.ListAsync().ConfigureAwait(false))
            .Where(b => b.State is BackfillState.Running or BackfillState.Paused)
            .ToList();
        foreach (var over in _works.Keys.Except(all.Select(b => b.Number)).ToList())
            _works.Remove(over);
        // The oldest first, as they were begun.
        foreach (var backfill in all.OrderBy(b => b.Number))
        {
            if (_works.TryGetValue(backfill.Number, out var known))
            {
                known.Backfill = backfill;
                continue;
            }
            var times = await store.TimesAsync(backfill.Number).ConfigureAwait(false);
            var fires = await store.FiresAsync(backfill.Number).ConfigureAwait(false);
            var fired = fires.Select(f => f.Key).ToHashSet();
            var started = await runs.FindAsync([.. fires.Select(f => f.Run).OfType<long>()]).ConfigureAwait(false);
            _works.Add(
                backfill.Number,
                new(
                    backfill,
                    new(times.Where(t => !fired.Contains(BackfillService.KeyOf(t.Due, backfill.Number)))),
                    [.. started.Values.Where(h => h.Ended is null).Select(h => h.Id)]
                )
            );
        }
        _isBusy = _works.Count > 0 || _reload;
    }

    async Task ContinueAsync(Work work)
    {
        var backfill = work.Backfill;
        if (backfill.State == BackfillState.Running && index.Find(backfill.Trigger) is { } trigger)
        {
            while (
                !_ending.IsCancellationRequested
                && !_reload
                && work.Going.Count < backfill.Parallel
                && work.Left.TryPeek(out var next)
            )
            {
                if (await FireAsync(trigger.Definition, backfill, next).ConfigureAwait(false) is { } run)
                    work.Going.Add(run);
                work.Left.Dequeue();
            }
        }
        if (work.Left.Count > 0 || work.Going.Count > 0)
            return;
        await store.SetStateAsync(backfill.Number, BackfillState.Ended, null).ConfigureAwait(false);
        _works.Remove(backfill.Number);
        _isBusy = _works.Count > 0 || _reload;
    }

    async Task<long?> FireAsync(TriggerDefinition trigger, Backfill backfill, BackfillTime at)
    {
        var key = BackfillService.KeyOf(at.Due, backfill.Number);
        var fire = new DueFire(at.Due, at.From, 0, null);
        var result = await fireService
            .FireAsync(
                trigger,
                new(key, fire.Event(trigger.Name, time.GetUtcNow(), backfill: true))
                {
                    Takes = [key],
                    Due = null,
                    Backfill = backfill.Number,
                    Release = backfill.Release,
                    KeepsNothing = !backfill.Keeps,
                }
            )
            .ConfigureAwait(false);
        return result.Run;
    }

    /// <summary>Ends; what is left continues with the next start.</summary>
    public async ValueTask DisposeAsync()
    {
        index.Changed -= Reload;
        _notifications?.Dispose();
        await _ending.CancelAsync().ConfigureAwait(false);
        if (_loop is not null)
            await _loop.ConfigureAwait(ConfigureAwaitOptions.SuppressThrowing);
        _sleeper.Dispose();
    }
}
