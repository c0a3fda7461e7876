using GateChain.Core.Values;
using GateChain.Kinds.Load.Modes;

namespace GateChain.Kinds.Load.Targets;

/// <summary>Where rows go. They are there all at once, at the end, or not at all. Used by one thread.</summary>
abstract class LoadTarget : IDisposable
{
    /// <summary>
    /// What an earlier attempt at this work has left: its outputs when it was done, or how far it got.
    /// </summary>
    /// <param name="fingerprint">What it is done from; progress with another one counts for nothing.</param>
    public abstract (Value? Done, string? Progress) Begin(string fingerprint);

    /// <summary>
    /// Takes over rows. Those that it refuses are rejects; when there are too many of them it may leave the rest.
    /// </summary>
    public abstract void Add(RowBatch rows, Rejects rejects);

    /// <summary>
    /// Keeps what was added so far, so that a later attempt continues behind it; a target that can't do that does
    /// nothing.
    /// </summary>
    public abstract void Checkpoint(string progress);

    /// <summary>
    /// Makes all rows count; the outputs are remembered where the rows are, if it has a place for them.
    /// </summary>
    /// <param name="rejects">Takes rows that are refused only now; when there are too many of them nothing counts, and
    /// the outputs are null.</param>
    /// <param name="outputs">Makes the outputs of what became of the rows that were not written.</param>
    public abstract Value? Finish(Rejects rejects, Func<RowCounts, Value> outputs);

    /// <summary>Takes everything back: the target is as it was.</summary>
    public abstract void Abandon();

    public abstract void Dispose();
}
