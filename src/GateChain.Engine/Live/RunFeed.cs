using System.Collections.Immutable;
using GateChain.Core.Running.Events;
using GateChain.Core.Running.State;

namespace GateChain.Engine.Live;

/// <summary>A decision that has reached the disk. Never with a live state: who wants one folds it.</summary>
/// <param name="Run">The run.</param>
/// <param name="Seq">The decision's number in its journal.</param>
/// <param name="Decision">Its events.</param>
public readonly record struct RunChanged(long Run, long Seq, Decision Decision);

/// <summary>
/// A decision that has reached the disk, and the state behind it as it was folded for those who follow.
/// </summary>
/// <param name="State">To be read only during the call.</param>
public sealed record RunChange(long Run, long Seq, Decision Decision, RunState State);

/// <summary>
/// Tells what reached the disk, in the order of each run. Thread-safe. Subscribers are called one after the other on
/// the way of the run, and must be quick. What is told while nobody listens is not told again: the journal has it.
/// </summary>
/// <param name="broken">Told when a subscriber threw; one of decisions is not called any more.</param>
public sealed class RunFeed(Action<Exception> broken)
{
    ImmutableArray<Action<RunNotification>> _notifications = [];

    sealed record Subscriber(long? Run, Action<RunChanged> Changed);

    ImmutableArray<Subscriber> _subscribers = [];

    /// <summary>
    /// Calls <paramref name="changed"/> for one run, or for all when <paramref name="run"/> is null, until the result
    /// is disposed of.
    /// </summary>
    public IDisposable Subscribe(long? run, Action<RunChanged> changed)
    {
        var subscriber = new Subscriber(run, changed);
        ImmutableInterlocked.Update(ref _subscribers, all => all.Add(subscriber));
        return new Subscription(() => ImmutableInterlocked.Update(ref _subscribers, all => all.Remove(subscriber)));
    }

    /// <summary>
    /// Calls <paramref name="told"/> with the notification of all runs, until the result is disposed of. News are told
    /// behind the decision that made them. An end is told when the run is not going any more: not that of a leg which
    /// another one followed at once.
    /// </summary>
    public IDisposable SubscribeToNotifications(Action<RunNotification> told)
    {
        ImmutableInterlocked.Update(ref _notifications, all => all.Add(told));
        return new Subscription(() => ImmutableInterlocked.Update(ref _notifications, all => all.Remove(told)));
    }

    internal void Tell(RunNotification notification)
    {
        foreach (var told in _notifications)
        {
            try
            {
                told(notification);
            }
            catch (Exception e)
            {
                // Who waits for one run must hear of the next.
                broken(e);
            }
        }
    }

    internal void Tell(RunChanged change)
    {
        foreach (var subscriber in _subscribers)
        {
            if (subscriber.Run is not null && subscriber.Run != change.Run)
                continue;
            try
            {
                subscriber.Changed(change);
            }
            catch (Exception e)
            {
                // Who looks at a run can end themselves, and nothing else.
                ImmutableInterlocked.Update(ref _subscribers, all => all.Remove(subscriber));
                broken(e);
            }
        }
    }

    sealed class Subscription(Action end) : IDisposable
    {
        public void Dispose() => end();
    }
}
