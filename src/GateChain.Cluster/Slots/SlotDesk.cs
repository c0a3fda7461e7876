using GateChain.Engine.Sharing;
using GateChain.Engine.Slots;
using GateChain.Storage;
using Microsoft.Extensions.Logging;

namespace GateChain.Cluster.Slots;

/// <summary>What slots need of the node that they are on. Thread-safe.</summary>
public sealed class SlotDesk
{
    /// <summary>The name of the question which seats of a slot a node's runs have or want.</summary>
    internal const string Seats = "seats";

    /// <summary>The name of the message that a seat is granted.</summary>
    internal const string Granted = "granted";

    static readonly TimeSpan Pause = TimeSpan.FromMilliseconds(200),
        MostForOrphans = TimeSpan.FromSeconds(12);

    readonly ISharedStore _store;
    readonly INodeLink _link;
    readonly ILogger _logger;

    internal SlotDesk(ISharedStore store, INodeLink link, ILogger logger) =>
        (_store, _link, _logger) = (store, link, logger);

    /// <summary>How many may be in a lane. Set when the engine is there.</summary>
    internal Func<string, int> Widths { get; set; } = _ => 1;

    internal int WidthOf(string lane) => Widths(lane);

    internal IReadOnlyCollection<string> Living => _link.Living;

    /// <summary>Waits until every run that has lost its node is with another one, for 12 s at most.</summary>
    internal async Task OrphansAreTakenAsync(CancellationToken cancel)
    {
        for (var waited = TimeSpan.Zero; waited < MostForOrphans; waited += Pause)
        {
            if (await _store.Nodes.OrphansAsync(_link.Living, Engine.Nodes.NodeWork.TooLong).ConfigureAwait(false) == 0)
            {
                return;
            }
            await Task.Delay(Pause, cancel).ConfigureAwait(false);
        }
        _logger.LogWarning("There are runs without a node; slots go on without them");
    }

    /// <summary>The seats of a slot that a node's runs have or want; none once it is gone.</summary>
    internal async Task<IReadOnlyList<SeatState>> SeatsAsync(string node, SlotName slot, CancellationToken cancel)
    {
        while (_link.Living.Contains(node))
        {
            try
            {
                return await NodeAnswers
                    .AskAsync<SlotName, IReadOnlyList<SeatState>>(_link, node, Seats, slot)
                    .ConfigureAwait(false);
            }
            catch (NodeSilentException)
            {
                await Task.Delay(Pause, cancel).ConfigureAwait(false);
            }
        }
        return [];
    }

    /// <summary>Tells a node that a seat is granted. What gets lost is told again when it says what it waits for.
    /// </summary>
    internal void Grant(string node, SlotName slot, Seat seat) => _ = GrantAsync(node, slot, seat);

    async Task GrantAsync(string node, SlotName slot, Seat seat)
    {
        try
        {
            await NodeAnswers.AskAsync<GrantedSeat, bool>(_link, node, Granted, new(slot, seat)).ConfigureAwait(false);
        }
        catch (Exception e) when (e is not OutOfMemoryException)
        {
            _logger.LogDebug("{Node} was not told of its turn: {Reason}", node, e.Message);
        }
    }

    /// <summary>Whether a run has ended, and whose it is.</summary>
    internal async Task<(bool HasEnded, string? Owner)> OwnerAsync(long run) =>
        (
            await _store.Runs.FindAsync(run).ConfigureAwait(false) is not { Ended: null },
            await _store.Nodes.OwnerAsync(run).ConfigureAwait(false)
        );
}

/// <summary>A seat that is granted.</summary>
sealed record GrantedSeat(SlotName Slot, Seat Seat);
