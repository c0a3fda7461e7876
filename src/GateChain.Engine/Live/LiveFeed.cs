using System.Collections.Concurrent;
using GateChain.Core.Running.Events;
using GateChain.Core.Running.State;

namespace GateChain.Engine.Live;

/// <summary>A decision that has reached the disk.</summary>
/// <param name="State">The state behind it; to be read only during the call.</param>
public sealed record RunChange(long Run, long Seq, Decision Decision, RunState State);

/// <summary>Tells who listens what happens in runs. Thread-safe. Listeners are called one after the other and must be quick.</summary>
public sealed class LiveFeed
{
    readonly ConcurrentDictionary<object, (long? Run, Action<RunChange> Take)> _listeners = new();

    /// <summary>Listens to one run, or to all when <paramref name="run"/> is null, until the result is disposed of.</summary>
    public IDisposable Listen(long? run, Action<RunChange> take)
    {
        var key = new object();
        _listeners[key] = (run, take);
        return new Subscription(() => _listeners.TryRemove(key, out _));
    }

    internal bool HasListeners => !_listeners.IsEmpty;

    internal void Tell(RunChange change)
    {
        foreach (var (run, take) in _listeners.Values)
        {
            if (run is null || run == change.Run) { take(change); }
        }
    }

    sealed class Subscription(Action end) : IDisposable
    {
        public void Dispose() => end();
    }
}
