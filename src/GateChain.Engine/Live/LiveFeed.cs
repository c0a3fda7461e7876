using System.Collections.Immutable;
using GateChain.Core.Running.Events;
using GateChain.Core.Running.State;

namespace GateChain.Engine.Live;

/// <summary>A decision that has reached the disk.</summary>
/// <param name="State">The state behind it; to be read only during the call.</param>
public sealed record RunChange(long Run, long Seq, Decision Decision, RunState State);

/// <summary>Tells who listens what happens in runs. Thread-safe. Listeners are called one after the other and must be quick.</summary>
public sealed class LiveFeed
{
    sealed record Listener(long? Run, Action<RunChange> Take);

    ImmutableArray<Listener> _listeners = [];

    /// <summary>Listens to one run, or to all when <paramref name="run"/> is null, until the result is disposed of.</summary>
    public IDisposable Listen(long? run, Action<RunChange> take)
    {
        var listener = new Listener(run, take);
        ImmutableInterlocked.Update(ref _listeners, all => all.Add(listener));
        return new Subscription(() => ImmutableInterlocked.Update(ref _listeners, all => all.RemoveAll(l => ReferenceEquals(l, listener))));
    }

    internal bool HasListeners => !_listeners.IsEmpty;

    internal void Tell(RunChange change)
    {
        foreach (var listener in _listeners)
        {
            if (listener.Run is null || listener.Run == change.Run) { listener.Take(change); }
        }
    }

    sealed class Subscription(Action end) : IDisposable
    {
        public void Dispose() => end();
    }
}
