using GateChain.Core.Running;
using GateChain.Engine.Basics;
using GateChain.Engine.Sharing;
using GateChain.Storage;

namespace GateChain.Engine.Runs;

/// <summary>
/// Brings what people decide about a run to the node that has it. The store says whose it is; while nobody has it, or
/// its node does not answer, it is waited for. Thread-safe.
/// </summary>
/// <param name="shared">The others; null for a service that has all runs.</param>
/// <param name="store">The lines of runs.</param>
/// <param name="isHere">Whether this node has a run, or keeps it from going on.</param>
/// <param name="time">The clock.</param>
sealed class RunRouter(Shared? shared, IRunStore store, Func<long, bool> isHere, TimeProvider time)
{
    // A node that is gone is missed for some seconds until others have what it had.
    static readonly TimeSpan Patience = TimeSpan.FromSeconds(20),
        Pause = TimeSpan.FromMilliseconds(200);

    /// <summary>The name of the question.</summary>
    public const string Question = "run";

    /// <summary>Does something with a run where it is.</summary>
    /// <param name="order">What.</param>
    /// <param name="here">Does it here.</param>
    /// <exception cref="RefusedException">It is refused, or no node has the run.</exception>
    public async Task<int> SendAsync(RunOrder order, Func<RunOrder, Task<int>> here)
    {
        if (shared is null)
            return await here(order).ConfigureAwait(false);
        for (var since = time.GetTimestamp(); ; )
        {
            if (await NodeOfAsync(order.Run).ConfigureAwait(false) is not { } node)
                return await here(order).ConfigureAwait(false);
            if (shared.Link.Living.Contains(node))
            {
                try
                {
                    return await NodeAnswers
                        .AskAsync<RunOrder, int>(shared.Link, node, Question, order)
                        .ConfigureAwait(false);
                }
                catch (NodeSilentException)
                {
                    // It is gone, or has handed the run over: somebody else has it soon.
                }
            }
            if (time.GetElapsedTime(since) > Patience)
            {
                throw new RefusedException(
                    RefusalKind.Unavailable,
                    $"run {order.Run} is with no node at the moment, or its node does not answer: "
                        + "gatechain nodes shows which are there; try again"
                );
            }
            await Task.Delay(Pause, time).ConfigureAwait(false);
        }
    }

    /// <summary>
    /// The other node that a run is with, empty when none has it for the moment; null when it is to be looked for here:
    /// it is this node's, has ended, or is not there at all.
    /// </summary>
    async Task<string?> NodeOfAsync(long run)
    {
        if (isHere(run))
            return null;
        if (await store.FindAsync(run).ConfigureAwait(false) is not { Ended: null })
            return null;
        var owner = await shared!.Store.Nodes.OwnerAsync(run).ConfigureAwait(false);
        return owner is null || owner == shared.Link.Id ? "" : owner;
    }
}
