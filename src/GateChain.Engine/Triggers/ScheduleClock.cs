using GateChain.Core.Triggers;
using GateChain.Core.Values;
using GateChain.Engine.Basics;
using GateChain.Storage;
using Microsoft.Extensions.Logging;

namespace GateChain.Engine.Triggers;

/// <summary>
/// Fires schedules at their due times: one loop and one timer for all of them. What fires is said by
/// <see cref="DuePlan"/>. Thread-safe.
/// </summary>
sealed class ScheduleClock(
    TriggerIndex index,
    FireService fireService,
    ITriggerStore store,
    TimeProvider time,
    ILogger logger
) : IAsyncDisposable
{
    // A clock that is put forward shows at the next look; what it leaps over was missed.
    static readonly TimeSpan Longest = TimeSpan.FromSeconds(30);

    /// <summary>Whoever wakes this much too late was not there.</summary>
    static readonly TimeSpan TooLate = TimeSpan.FromMinutes(1);

    static readonly TimeSpan AgainIn = TimeSpan.FromSeconds(1);

    readonly CancellationTokenSource _ending = new();
    readonly WakeTimer _sleeper = new(time);
    readonly Dictionary<string, Planned> _planned = [];
    Task? _loop;
    DateTimeOffset _lookedLast;
    long _looked;

    /// <summary>The moment of the last look that is through.</summary>
    internal DateTimeOffset LookedAt => new(Interlocked.Read(ref _looked), TimeSpan.Zero);

    /// <summary>What is known of one schedule. Used by the loop only.</summary>
    sealed class Planned
    {
        public required Trigger Trigger { get; set; }
        public DateTimeOffset? Mark { get; set; }
        public DateTimeOffset PresentSince { get; set; }
        public DateTimeOffset? Next { get; set; }

        // Of missed times that were asked for when it was switched on.
        public bool MakeUp { get; set; }
    }

    /// <summary>Begins to wait for due times; those that passed while nobody was there are seen to first.</summary>
    public void Start()
    {
        index.Changed += Ring;
        _lookedLast = time.GetUtcNow();
        _loop = Task.Run(LoopAsync);
    }

    internal void Ring() => _sleeper.Ring();

    async Task LoopAsync()
    {
        Follow();
        while (!_ending.IsCancellationRequested)
        {
            try
            {
                await LookAsync().ConfigureAwait(false);
                await WaitAsync().ConfigureAwait(false);
            }
            catch (OperationCanceledException) when (_ending.IsCancellationRequested)
            {
                return;
            }
            catch (Exception e) when (e is not OutOfMemoryException)
            {
                logger.LogError(e, "Schedules could not be looked at");
                await Task.Delay(AgainIn, time, _ending.Token).ConfigureAwait(ConfigureAwaitOptions.SuppressThrowing);
            }
        }
    }

    async Task WaitAsync()
    {
        var now = time.GetUtcNow();
        var wait = (_planned.Values.Select(p => p.Next).Min() ?? DateTimeOffset.MaxValue) - now;
        if (await _sleeper.SleepAsync(wait < Longest ? wait : Longest, _ending.Token).ConfigureAwait(false))
            Follow();
    }

    // Takes the triggers as the index has them now.
    void Follow()
    {
        var now = time.GetUtcNow();
        var armed = index.All.Where(t => t.IsArmed && t.Definition.Source is ScheduleSource).ToList();
        foreach (var gone in _planned.Keys.Except(armed.Select(t => t.Name)).ToList())
            _planned.Remove(gone);
        foreach (var trigger in armed)
        {
            var mark = trigger.State.Mark;
            if (_planned.TryGetValue(trigger.Name, out var known))
            {
                known.Trigger = trigger;
                known.Mark = known.Mark > mark ? known.Mark : mark;
            }
            else
            {
                // Whatever was due before was missed: nobody was there, or it was held, or switched off.
                known = new()
                {
                    Trigger = trigger,
                    Mark = mark,
                    PresentSince = now,
                    MakeUp = trigger.State.Switched > trigger.State.Since,
                };
                _planned.Add(trigger.Name, known);
            }
            known.Next = DateTimeOffset.MinValue;
        }
    }

    async Task LookAsync()
    {
        var now = time.GetUtcNow();
        // Asleep, stopped by a debugger, or the clock was put forward.
        if (now - _lookedLast > Longest + TooLate)
        {
            foreach (var planned in _planned.Values)
                planned.PresentSince = now;
        }
        _lookedLast = now;
        await Task.WhenAll(_planned.Values.Where(p => p.Next <= now).Select(p => DoAsync(p, now)))
            .ConfigureAwait(false);
        Interlocked.Exchange(ref _looked, now.UtcTicks);
    }

    async Task DoAsync(Planned planned, DateTimeOffset now)
    {
        var (trigger, source) = (planned.Trigger, (ScheduleSource)planned.Trigger.Definition.Source);
        var plan = DuePlan.At(
            trigger.Name,
            source,
            new(planned.Mark, trigger.State.Since, planned.PresentSince),
            now,
            planned.MakeUp
        );
        foreach (var fire in plan.Now)
        {
            if (_ending.IsCancellationRequested)
                return;
            try
            {
                await fireService
                    .FireAsync(
                        trigger.Definition,
                        new(fire.Key, fire.Event(trigger.Name, now))
                        {
                            Due = fire.Due,
                            By = source.DeadlineOf(fire.Due),
                            Mark = fire.Due,
                            Settled = fire.PassedOver is { } why ? (FireFate.PassedOver, why) : null,
                        }
                    )
                    .ConfigureAwait(false);
            }
            catch (StorageException e)
            {
                // The database is away. What passes until it is back counts as missed.
                logger.LogWarning("Trigger {Trigger} could not fire: {Reason}", trigger.Name, e.Message);
                planned.PresentSince = now + AgainIn;
                planned.Next = now + AgainIn;
                return;
            }
            planned.Mark = fire.Due;
            index.Note(trigger.Name, s => s with { Mark = fire.Due });
        }
        planned.MakeUp = false;
        planned.Next = plan.Next;
        // There is more to fire at once.
        if (plan.Next <= now)
            return;
        var deadline = await DeadlineAsync(trigger, source, now).ConfigureAwait(false);
        if (plan.Next is null || deadline < plan.Next)
            planned.Next = deadline;
    }

    // Whether somebody should be told that nothing has begun; gives when to ask again.
    async Task<DateTimeOffset?> DeadlineAsync(Trigger trigger, ScheduleSource source, DateTimeOffset now)
    {
        var (passed, next) = source.DeadlinesAt(now);
        if (passed is not { } due || due.At <= trigger.State.Since)
            return next;
        var fire = await store.FindAsync(trigger.Name, DueFire.KeyOf(due.At)).ConfigureAwait(false);
        var late = $"late:{TimeText.Timestamp(Value.Timestamp(due.At))}";
        // Keys are forgotten earlier than fires.
        if (
            fire is { Said.Fate: FireFate.Started or FireFate.PassedOver }
            || await store.FindAsync(trigger.Name, late).ConfigureAwait(false) is not null
        )
        {
            return next;
        }
        var by = TimeText.Timestamp(Value.Timestamp(source.DeadlineOf(due.At)!.Value));
        await fireService
            .FireAsync(
                trigger.Definition,
                new(late, new DueFire(due.At, due.From, 0, null).Event(trigger.Name, now))
                {
                    Takes = [late],
                    Settled = (
                        FireFate.Late,
                        $"no run had begun by {by}"
                            + (fire is { Said.Fate: FireFate.Refused } refused ? $": {refused.Said.Why}" : "")
                    ),
                }
            )
            .ConfigureAwait(false);
        return next;
    }

    /// <summary>When a schedule fires next; null when it does not, or is not armed.</summary>
    public static IEnumerable<(DateTimeOffset Due, DateTimeOffset At)> Next(Trigger trigger, DateTimeOffset after)
    {
        if (trigger.Definition.Source is not ScheduleSource source)
            yield break;
        foreach (var due in source.Times.Between(after, DateTimeOffset.MaxValue))
            yield return (due.At, due.At + source.DelayOf(trigger.Name, due.At));
    }

    /// <summary>Ends; what is due from here on is missed.</summary>
    public async ValueTask DisposeAsync()
    {
        index.Changed -= Ring;
        await _ending.CancelAsync().ConfigureAwait(false);
        if (_loop is not null)
            await _loop.ConfigureAwait(ConfigureAwaitOptions.SuppressThrowing);
        _sleeper.Dispose();
    }
}
