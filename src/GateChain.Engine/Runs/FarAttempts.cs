using GateChain.Core.Running;
using GateChain.Engine.Sharing;
using GateChain.Storage;

namespace GateChain.Engine.Runs;

/// <summary>
/// Has attempts done by nodes with the label of their step's place: chooses one, waits for what comes of it, hands on
/// that it is to end. Thread-safe.
/// </summary>
sealed class FarAttempts(Shared shared, RunServices services)
{
    static readonly TimeSpan Pause = TimeSpan.FromSeconds(1);

    /// <summary>Has one done.</summary>
    /// <param name="order">What is to be done.</param>
    /// <param name="place">The label; null for one that may be going on already, somewhere.</param>
    /// <param name="epoch">The owner's.</param>
    /// <param name="isClosed">Whether the run is not this node's any more: what goes on is left to the next.</param>
    /// <param name="cancel">Asked to end it; it is waited for all the same.</param>
    /// <returns>What came of it; null when it is lost, or left.</returns>
    public async Task<AttemptResult?> DoAsync(
        AttemptOrder order,
        string? place,
        long epoch,
        Func<bool> isClosed,
        CancellationToken cancel
    )
    {
        string? node = null;
        var told = false;
        while (!isClosed())
        {
            node ??= place is null
                ? await FindAsync(order, epoch).ConfigureAwait(false)
                : await ChooseAsync(place).ConfigureAwait(false);
            if (node is null)
            {
                if (place is null)
                    return null;
                if (cancel.IsCancellationRequested)
                    return AttemptResult.Fail("stopped", $"ended before a node with the label “{place}” was there");
                if (!told)
                    Note(order, $"waits for a node with the label “{place}”");
                told = true;
                await Task.Delay(Pause, services.Time, CancellationToken.None).ConfigureAwait(false);
                continue;
            }
            using var ending = cancel.Register(() => _ = EndAsync(node, order, epoch, isClosed));
            var (isOver, result, again) = await FollowAsync(order, place, epoch, node, isClosed).ConfigureAwait(false);
            if (isOver)
                return result;
            if (again)
                node = null;
        }
        return null;
    }

    async Task<(bool IsOver, AttemptResult? Result, bool ChooseAgain)> FollowAsync(
        AttemptOrder order,
        string? place,
        long epoch,
        string node,
        Func<bool> isClosed
    )
    {
        var wasKnown = place is null;
        while (!isClosed())
        {
            FarState state;
            try
            {
                state = await NodeAnswers
                    .AskAsync<FarQuestion, FarState>(
                        shared.Link,
                        node,
                        AttemptHost.Ask,
                        new(order.Run, order.Number, epoch, wasKnown ? null : order, place)
                    )
                    .ConfigureAwait(false);
            }
            catch (NodeSilentException)
            {
                if (!shared.Link.Living.Contains(node))
                {
                    // Its guard has ended by then what it had started.
                    await Task.Delay(RunRecovery.Quiet, services.Time, CancellationToken.None).ConfigureAwait(false);
                    return (true, null, false);
                }
                await Task.Delay(Pause, services.Time, CancellationToken.None).ConfigureAwait(false);
                continue;
            }
            if (state.Result is { } result)
                return (true, result, false);
            if (!state.IsKnown)
                return wasKnown ? (true, null, false) : (false, null, true);
            wasKnown = true;
            if (state.Progress is { } progress)
                services.Progress.Tell(order.Run, order.Step, progress);
        }
        return (true, null, false);
    }

    async Task EndAsync(string node, AttemptOrder order, long epoch, Func<bool> isClosed)
    {
        for (var i = 0; i < 30 && !isClosed(); i++)
        {
            try
            {
                await NodeAnswers
                    .AskAsync<FarQuestion, bool>(
                        shared.Link,
                        node,
                        AttemptHost.End,
                        new(order.Run, order.Number, epoch, null, null)
                    )
                    .ConfigureAwait(false);
                return;
            }
            catch (NodeSilentException)
            {
                await Task.Delay(Pause, services.Time, CancellationToken.None).ConfigureAwait(false);
            }
        }
    }

    // Those that are there, and not about to go.
    async Task<string?> ChooseAsync(string label)
    {
        try
        {
            var living = shared.Link.Living;
            var able = (await shared.Store.Nodes.AllAsync().ConfigureAwait(false))
                .Where(n => n is { Draining: false, Left: null } && living.Contains(n.Id) && n.Labels.Contains(label))
                .ToList();
            return able.Count == 0 ? null : able[Random.Shared.Next(able.Count)].Id;
        }
        catch (StorageException)
        {
            return null;
        }
    }

    // The node that does it already; null for none.
    async Task<string?> FindAsync(AttemptOrder order, long epoch)
    {
        foreach (var node in shared.Link.Living)
        {
            try
            {
                var state = await NodeAnswers
                    .AskAsync<FarQuestion, FarState>(
                        shared.Link,
                        node,
                        AttemptHost.Ask,
                        new(order.Run, order.Number, epoch, null, null)
                    )
                    .ConfigureAwait(false);
                if (state.IsKnown)
                    return node;
            }
            catch (NodeSilentException)
            {
                // Whoever does not answer is gone, or will be: what it did is lost.
            }
        }
        return null;
    }

    void Note(AttemptOrder order, string line)
    {
        try
        {
            using var log = services.Logs.Open(order.Run, order.Number);
            log.Write("note", line);
        }
        catch (IOException)
        {
            // A log that can't be written must not fail the work.
        }
    }
}
