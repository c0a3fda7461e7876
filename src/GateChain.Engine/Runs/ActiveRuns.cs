using System.Collections.Concurrent;
using GateChain.Core.Running;

namespace GateChain.Engine.Runs;

/// <summary>The runs that continue in this process. Thread-safe.</summary>
public sealed class ActiveRuns
{
    readonly ConcurrentDictionary<long, RunActor> _actors = new();

    /// <summary>How many there are.</summary>
    public int Count => _actors.Count;

    internal ICollection<RunActor> All => _actors.Values;

    internal RunActor? Find(long run) => _actors.GetValueOrDefault(run);

    /// <summary>Whether a run continues here.</summary>
    public bool Has(long run) => _actors.ContainsKey(run);

    /// <summary>From now on the run's mailbox is this one.</summary>
    internal void Put(RunActor actor) => _actors[actor.Run] = actor;

    /// <summary>The mailbox is not the run's any more; another one of the run stays.</summary>
    internal void Remove(RunActor actor) => _actors.TryRemove(KeyValuePair.Create(actor.Run, actor));

    internal void Remove(long run) => _actors.TryRemove(run, out _);

    /// <summary>Hands an input to a run; nothing happens when it does not continue here.</summary>
    internal void Tell(long run, RunInput input) => Find(run)?.Post(input);
}
