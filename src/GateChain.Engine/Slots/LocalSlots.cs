namespace GateChain.Engine.Slots;

/// <summary>The slots of one process, in memory. Thread-safe.</summary>
/// <param name="granted">Called when a seat that was waited for is granted, not under a lock.</param>
sealed class LocalSlots(Action<SlotName, Seat> granted) : ISlots
{
    readonly Lock _lock = new();
    readonly Dictionary<SlotName, Slot> _slots = [];
    readonly Dictionary<Seat, Place> _places = [];

    // The steps of each run that have or want a seat.
    readonly Dictionary<long, HashSet<Seat>> _steps = [];

    /// <summary>
    /// A lane that is declared nowhere any more lets one step in at a time; of a busy chain one run goes.
    /// </summary>
    sealed class Slot(SlotName name)
    {
        public SlotName Name { get; } = name;
        public int Width { get; set; } = 1;
        public LinkedList<Seat> Holders { get; } = [];
        public LinkedList<Seat> Waiting { get; } = [];
    }

    /// <summary>Where a seat is; going in and out costs the same however many there are.</summary>
    sealed record Place(Slot Slot, LinkedListNode<Seat> Node)
    {
        public bool IsHeld => Node.List == Slot.Holders;
    }

    /// <summary>Sets the widths of lanes as the workspace has them.</summary>
    public void SetWidths(IReadOnlyDictionary<string, int> widths)
    {
        var grants = new List<(SlotName, Seat)>();
        lock (_lock)
        {
            foreach (var (name, width) in widths)
                Of(new(SlotKind.Lane, name)).Width = width;
            foreach (var lane in _slots.Values.Where(s => s.Name.Kind == SlotKind.Lane))
            {
                lane.Width = widths.GetValueOrDefault(lane.Name.Name, 1);
                Grant(lane, grants);
            }
        }
        Tell(grants);
    }

    public ValueTask<SlotAnswer> RequestAsync(SlotName slot, Seat seat, SlotTerms terms)
    {
        lock (_lock)
        {
            if (_places.TryGetValue(seat, out var known))
                return new(new SlotAnswer(known.IsHeld, []));
            var at = Of(slot);
            var others = terms.Force ? [] : InTheWay(at, terms.Above ?? []);
            if (others.Count > 0 && !terms.OrNothing && at.Waiting.Count >= (terms.MostWaiting ?? int.MaxValue))
                return new(new SlotAnswer(false, others, IsFull: true));
            if (others.Count == 0)
                Put(at, seat, at.Holders);
            else if (!terms.OrNothing)
                Put(at, seat, at.Waiting);
            return new(new SlotAnswer(others.Count == 0, others));
        }
    }

    // Whoever is called from within does not queue behind those that wait for its caller.
    static List<long> InTheWay(Slot slot, IReadOnlyCollection<long> above)
    {
        var holders = slot.Holders.Select(s => s.Run).Where(r => !above.Contains(r)).ToList();
        var isWithin = holders.Count < slot.Holders.Count;
        return holders.Count >= slot.Width || (slot.Waiting.Count > 0 && !isWithin)
            ? [.. holders, .. slot.Waiting.Select(s => s.Run).Where(r => !above.Contains(r))]
            : [];
    }

    void Put(Slot slot, Seat seat, LinkedList<Seat> list)
    {
        _places[seat] = new(slot, list.AddLast(seat));
        if (seat.Step is null)
            return;
        if (!_steps.TryGetValue(seat.Run, out var steps))
            _steps[seat.Run] = steps = [];
        steps.Add(seat);
    }

    public ValueTask ReleaseAsync(Seat seat)
    {
        var grants = new List<(SlotName, Seat)>();
        lock (_lock)
            Remove(seat, grants);
        Tell(grants);
        return default;
    }

    public ValueTask ReleaseStepsAsync(long run)
    {
        var grants = new List<(SlotName, Seat)>();
        lock (_lock)
        {
            if (_steps.TryGetValue(run, out var steps))
            {
                foreach (var seat in steps.OrderBy(s => _places[s].IsHeld).ToList())
                    Remove(seat, grants);
            }
        }
        Tell(grants);
        return default;
    }

    void Remove(Seat seat, List<(SlotName, Seat)> grants)
    {
        if (!_places.Remove(seat, out var place))
            return;
        place.Node.List!.Remove(place.Node);
        if (seat.Step is not null && _steps.TryGetValue(seat.Run, out var steps))
        {
            steps.Remove(seat);
            if (steps.Count == 0)
                _steps.Remove(seat.Run);
        }
        Grant(place.Slot, grants);
        if (place.Slot is { Name.Kind: SlotKind.Chain, Holders.Count: 0, Waiting.Count: 0 })
            _slots.Remove(place.Slot.Name);
    }

    public ValueTask AnnounceAsync(SlotName slot, Seat seat, bool waits)
    {
        lock (_lock)
        {
            var at = Of(slot);
            if (!_places.ContainsKey(seat))
                Put(at, seat, waits ? at.Waiting : at.Holders);
        }
        return default;
    }

    public ValueTask GrantAsync()
    {
        var grants = new List<(SlotName, Seat)>();
        lock (_lock)
        {
            foreach (var slot in _slots.Values)
                Grant(slot, grants);
        }
        Tell(grants);
        return default;
    }

    static void Grant(Slot slot, List<(SlotName, Seat)> grants)
    {
        while (slot.Holders.Count < slot.Width && slot.Waiting.First is { } next)
        {
            slot.Waiting.Remove(next);
            slot.Holders.AddLast(next);
            grants.Add((slot.Name, next.Value));
        }
    }

    void Tell(List<(SlotName Slot, Seat Seat)> grants)
    {
        foreach (var (slot, seat) in grants)
            granted(slot, seat);
    }

    public ValueTask<bool> HoldsAsync(Seat seat)
    {
        lock (_lock)
            return new(_places.TryGetValue(seat, out var place) && place.IsHeld);
    }

    public ValueTask<IReadOnlyList<SlotView>> LanesAsync()
    {
        lock (_lock)
        {
            return new([
                .. _slots
                    .Values.Where(s => s.Name.Kind == SlotKind.Lane)
                    .OrderBy(s => s.Name.Name, StringComparer.Ordinal)
                    .Select(s => new SlotView(s.Name, s.Width, [.. s.Holders], [.. s.Waiting])),
            ]);
        }
    }

    /// <summary>How full a slot is.</summary>
    public SlotView Look(SlotName name)
    {
        lock (_lock)
        {
            var slot = Of(name);
            return new(name, slot.Width, [.. slot.Holders], [.. slot.Waiting]);
        }
    }

    Slot Of(SlotName name)
    {
        if (!_slots.TryGetValue(name, out var slot))
            _slots[name] = slot = new(name);
        return slot;
    }
}
