using System.Collections.Concurrent;
using GateChain.Engine.Sharing;
using GateChain.Engine.Slots;
using Microsoft.Extensions.Logging;

namespace GateChain.Cluster.Slots;

/// <summary>
/// The slots of all nodes, as the runs of this one use them: each slot is a grain somewhere. What this node's runs have
/// and want is kept here, and said again every few seconds. Questions about one slot go one after the other.
/// Thread-safe.
/// </summary>
/// <param name="node">This node.</param>
/// <param name="grains">Where slots are.</param>
/// <param name="lanes">The names of the lanes.</param>
/// <param name="granted">Is told when a seat that was waited for is granted.</param>
/// <param name="logger">For what gets lost.</param>
sealed class ClusterSlots(
    string node,
    Func<IGrainFactory> grains,
    Func<IEnumerable<string>> lanes,
    Action<SlotName, Seat> granted,
    ILogger logger
) : ISlots, IAsyncDisposable
{
    static readonly TimeSpan SaysAgain = TimeSpan.FromSeconds(5),
        Pause = TimeSpan.FromMilliseconds(250);

    readonly Lock _lock = new();
    readonly Dictionary<Seat, Own> _seats = [];

    // The last question about each slot: the next one waits for it.
    readonly Dictionary<SlotName, Task> _last = [];
    readonly ConcurrentDictionary<SlotName, bool> _unsure = new();
    readonly CancellationTokenSource _ending = new();
    Task _saying = Task.CompletedTask;

    sealed class Own(SlotName slot)
    {
        public SlotName Slot => slot;
        public bool IsHeld { get; set; }

        /// <summary>Whether the slot has been asked for it: what has not is not said to be wanted.</summary>
        public bool IsAsked { get; set; }
    }

    /// <summary>Answers what slots ask of this node, and begins to say again what it has.</summary>
    public void Begin(NodeAnswers answers)
    {
        answers.Add<SlotName, IReadOnlyList<SeatState>>(SlotDesk.Seats, slot => Task.FromResult(Of(slot)));
        answers.Add<GrantedSeat, bool>(SlotDesk.Granted, told => Task.FromResult(Grant(told.Slot, told.Seat)));
        _saying = Task.Run(SayAgainAsync);
    }

    ISlotGrain GrainOf(SlotName slot) => grains().GetGrain<ISlotGrain>(SlotKeys.Of(slot));

    IReadOnlyList<SeatState> Of(SlotName slot)
    {
        lock (_lock)
        {
            return
            [
                .. _seats
                    .Where(s => s.Value.Slot == slot && s.Value.IsAsked)
                    .Select(s => new SeatState(s.Key.Run, s.Key.Step, !s.Value.IsHeld)),
            ];
        }
    }

    bool Grant(SlotName slot, Seat seat)
    {
        lock (_lock)
        {
            if (!_seats.TryGetValue(seat, out var own) || own.Slot != slot || own.IsHeld)
                return false;
            own.IsHeld = true;
        }
        granted(slot, seat);
        return true;
    }

    // One after the other for each slot, in the order in which they come.
    Task<T> InTurn<T>(SlotName slot, Func<Task<T>> ask)
    {
        lock (_lock)
        {
            var before = _last.GetValueOrDefault(slot, Task.CompletedTask);
            var turn = Turn();
            _last[slot] = turn;
            return turn;

            async Task<T> Turn()
            {
                await before.ConfigureAwait(ConfigureAwaitOptions.SuppressThrowing);
                return await ask().ConfigureAwait(false);
            }
        }
    }

    public async ValueTask<SlotAnswer> RequestAsync(SlotName slot, Seat seat, SlotTerms terms)
    {
        lock (_lock)
        {
            if (_seats.TryGetValue(seat, out var known))
                return new(known.IsHeld, []);
            _seats[seat] = new(slot);
        }
        var reply = await InTurn(slot, () => AskAsync(slot, seat, terms)).ConfigureAwait(false);
        return new(reply.Granted, reply.Others, reply.IsFull);
    }

    // Whoever wants a seat waits: until the slot answers, wherever it is by then.
    async Task<SlotReply> AskAsync(SlotName slot, Seat seat, SlotTerms terms)
    {
        lock (_lock)
        {
            if (_seats.TryGetValue(seat, out var own))
                own.IsAsked = true;
        }
        while (true)
        {
            try
            {
                var reply = await GrainOf(slot)
                    .RequestAsync(
                        new(
                            node,
                            new(seat.Run, seat.Step, true),
                            terms.Force,
                            terms.OrNothing,
                            [.. terms.Above ?? []],
                            terms.MostWaiting
                        )
                    )
                    .ConfigureAwait(false);
                lock (_lock)
                {
                    if (reply is { Granted: false } && (terms.OrNothing || reply.IsFull))
                        _seats.Remove(seat);
                    else if (_seats.TryGetValue(seat, out var own) && reply.Granted)
                        own.IsHeld = true;
                }
                return reply;
            }
            catch (Exception e) when (IsGone(e) && !_ending.IsCancellationRequested)
            {
                logger.LogDebug("Slot {Slot} does not answer: {Reason}", slot.Name, e.Message);
                await Task.Delay(Pause, _ending.Token).ConfigureAwait(ConfigureAwaitOptions.SuppressThrowing);
            }
        }
    }

    static bool IsGone(Exception e) => e is OrleansException or TimeoutException or IOException;

    public ValueTask ReleaseAsync(Seat seat)
    {
        Own? own;
        lock (_lock)
        {
            if (!_seats.Remove(seat, out own))
                return default;
        }
        Free(own.Slot, seat);
        return default;
    }

    void Free(SlotName slot, Seat seat) => _ = InTurn(slot, async () =>
        {
            try
            {
                await GrainOf(slot).ReleaseAsync(seat.Run, seat.Step).ConfigureAwait(false);
            }
            catch (Exception e) when (e is not OutOfMemoryException)
            {
                // What is not said to be had is freed.
                _unsure[slot] = true;
            }
            return true;
        });

    public ValueTask ReleaseStepsAsync(long run)
    {
        List<(SlotName Slot, Seat Seat)> freed;
        lock (_lock)
        {
            freed =
            [
                .. _seats.Where(s => s.Key.Run == run && s.Key.Step is not null).Select(s => (s.Value.Slot, s.Key)),
            ];
            foreach (var (_, seat) in freed)
                _seats.Remove(seat);
        }
        foreach (var (slot, seat) in freed)
            Free(slot, seat);
        return default;
    }

    public ValueTask AnnounceAsync(SlotName slot, Seat seat, bool waits)
    {
        lock (_lock)
            _seats.TryAdd(seat, new(slot) { IsHeld = !waits, IsAsked = true });
        // Not waited for: the slot may be waiting for what is announced.
        _ = SayAsync(slot);
        return default;
    }

    Task<bool> SayAsync(SlotName slot) => InTurn(slot, async () =>
        {
            try
            {
                _unsure.TryRemove(slot, out _);
                await GrainOf(slot).SyncAsync(node, Of(slot)).ConfigureAwait(false);
            }
            catch (Exception e) when (e is not OutOfMemoryException)
            {
                _unsure[slot] = true;
            }
            return true;
        });

    async Task SayAgainAsync()
    {
        while (!_ending.IsCancellationRequested)
        {
            await Task.Delay(SaysAgain, _ending.Token).ConfigureAwait(ConfigureAwaitOptions.SuppressThrowing);
            if (_ending.IsCancellationRequested)
                return;
            List<SlotName> slots;
            lock (_lock)
            {
                slots = [.. _seats.Values.Select(s => s.Slot).Concat(_unsure.Keys).Distinct()];
                foreach (var (slot, last) in _last.Where(l => l.Value.IsCompleted).ToList())
                    _last.Remove(slot);
            }
            await Task.WhenAll(slots.Select(SayAsync)).ConfigureAwait(false);
        }
    }

    /// <summary>Nothing: slots grant what is free when all has been said.</summary>
    public ValueTask GrantAsync() => default;

    public ValueTask<bool> HoldsAsync(Seat seat)
    {
        lock (_lock)
            return new(_seats.TryGetValue(seat, out var own) && own.IsHeld);
    }

    public async ValueTask<IReadOnlyList<SlotView>> LanesAsync()
    {
        var views = new List<SlotView>();
        foreach (var lane in lanes().Order(StringComparer.Ordinal))
        {
            var slot = new SlotName(SlotKind.Lane, lane);
            var look = await GrainOf(slot).LookAsync().ConfigureAwait(false);
            views.Add(
                new(
                    slot,
                    look.Width,
                    [.. look.Holders.Select(s => new Seat(s.Run, s.Step))],
                    [.. look.Waiting.Select(s => new Seat(s.Run, s.Step))]
                )
            );
        }
        return views;
    }

    public async ValueTask DisposeAsync()
    {
        await _ending.CancelAsync().ConfigureAwait(false);
        await _saying.ConfigureAwait(false);
    }
}
