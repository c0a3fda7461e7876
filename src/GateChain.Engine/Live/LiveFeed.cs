using System.Collections.Immutable;
using GateChain.Core.Running.Events;
using GateChain.Core.Running.State;

namespace GateChain.Engine.Live;

/// <summary>A decision that has reached the disk.</summary>
/// <param name="State">The state behind it; to be read only during the call.</param>
public sealed record RunChange(long Run, long Seq, Decision Decision, RunState State);

/// <summary>
/// Tells who listens what happens in runs. Thread-safe. Listeners are called one after the other and must be quick.
/// </summary>
/// <param name="broken">Told when a listener threw; it is not called any more.</param>
public sealed class LiveFeed(Action<Exception> broken)
{
    sealed class Listener(long? run, Action<RunChange> take)
    {
        public long? Run => run;
        public Action<RunChange> Take => take;
    }

    ImmutableArray<Listener> _listeners = [];

    /// <summary>
    /// Listens to one run, or to all when <paramref name="run"/> is null, until the result is disposed of.
    /// </summary>
    public IDisposable Listen(long? run, Action<RunChange> take)
    {
        var listener = new Listener(run, take);
        ImmutableInterlocked.Update(ref _listeners, all => all.Add(listener));
        return new Subscription(() => ImmutableInterlocked.Update(ref _listeners, all => all.Remove(listener)));
    }

    internal bool HasListeners => !_listeners.IsEmpty;

    internal void Tell(RunChange change)
    {
        foreach (var listener in _listeners)
        {
            if (listener.Run is not null && listener.Run != change.Run)
                continue;
            try
            {
                listener.Take(change);
            }
            catch (Exception e)
            {
                // Who looks at a run can end themselves, and nothing else.
                ImmutableInterlocked.Update(ref _listeners, all => all.Remove(listener));
                broken(e);
            }
        }
    }

    sealed class Subscription(Action end) : IDisposable
    {
        public void Dispose() => end();
    }
}
