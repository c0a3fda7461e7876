namespace GateChain.Engine.Lanes;

/// <summary>A step's place in a lane or its queue.</summary>
public readonly record struct LaneSeat(long Run, string Step);

/// <summary>How full a lane is.</summary>
/// <param name="Width">How many steps may be in it at once.</param>
/// <param name="Holders">Those that are.</param>
/// <param name="Waiting">Those that queue, the next one first.</param>
public sealed record LaneView(string Name, int Width, IReadOnlyList<LaneSeat> Holders, IReadOnlyList<LaneSeat> Waiting);

/// <summary>
/// Lets steps into lanes, in the order in which they asked. Thread-safe. Kept in memory only: after a restart the runs
/// ask again.
/// </summary>
public sealed class LaneDesk
{
    readonly Lock _lock = new();
    readonly Dictionary<string, Lane> _lanes = [];
    readonly Dictionary<LaneSeat, Lane> _seats = [];

    sealed class Lane(string name)
    {
        public string Name { get; } = name;
        public HashSet<LaneSeat> Holders { get; } = [];
        public LinkedList<(LaneSeat Seat, Action Granted)> Waiting { get; } = [];

        /// <summary>A lane that is declared nowhere any more lets one step in at a time.</summary>
        public int Width { get; set; } = 1;
    }

    /// <summary>Sets the widths as the workspace has them.</summary>
    public void SetWidths(IReadOnlyDictionary<string, int> widths)
    {
        var granted = new List<Action>();
        lock (_lock)
        {
            foreach (var lane in _lanes.Values)
                lane.Width = widths.GetValueOrDefault(lane.Name, 1);
            foreach (var (name, width) in widths)
                Of(name).Width = width;
            foreach (var lane in _lanes.Values)
                Admit(lane, granted);
        }
        foreach (var grant in granted)
            grant();
    }

    /// <summary>
    /// Queues a step; <paramref name="granted"/> is called when it is its turn, perhaps at once. One that is queued or
    /// in already stays where it is.
    /// </summary>
    public void Ask(string lane, LaneSeat seat, Action granted)
    {
        var grants = new List<Action>();
        lock (_lock)
        {
            var at = Of(lane);
            if (!_seats.TryAdd(seat, at))
                return;
            at.Waiting.AddLast((seat, granted));
            Admit(at, grants);
        }
        foreach (var grant in grants)
            grant();
    }

    /// <summary>Counts a step that is at work already, after a restart.</summary>
    public void Occupy(string lane, LaneSeat seat)
    {
        lock (_lock)
        {
            if (_seats.TryAdd(seat, Of(lane)))
                Of(lane).Holders.Add(seat);
        }
    }

    /// <summary>Frees a step's place or takes it out of the queue.</summary>
    public void Leave(LaneSeat seat)
    {
        var grants = new List<Action>();
        lock (_lock)
        {
            if (!_seats.Remove(seat, out var lane))
                return;
            if (!lane.Holders.Remove(seat))
            {
                for (var node = lane.Waiting.First; node is not null; node = node.Next)
                {
                    if (node.Value.Seat == seat)
                    {
                        lane.Waiting.Remove(node);
                        break;
                    }
                }
            }
            Admit(lane, grants);
        }
        foreach (var grant in grants)
            grant();
    }

    /// <summary>Frees all places of a run.</summary>
    public void LeaveAll(long run)
    {
        List<LaneSeat> seats;
        lock (_lock)
        {
            seats = [.. _seats.Keys.Where(s => s.Run == run)];
        }
        foreach (var seat in seats)
            Leave(seat);
    }

    static void Admit(Lane lane, List<Action> granted)
    {
        while (lane.Holders.Count < lane.Width && lane.Waiting.First is { } next)
        {
            lane.Waiting.RemoveFirst();
            lane.Holders.Add(next.Value.Seat);
            granted.Add(next.Value.Granted);
        }
    }

    Lane Of(string name)
    {
        if (!_lanes.TryGetValue(name, out var lane))
            _lanes[name] = lane = new(name);
        return lane;
    }

    /// <summary>All lanes, by name.</summary>
    public IReadOnlyList<LaneView> Lanes
    {
        get
        {
            lock (_lock)
            {
                return
                [
                    .. _lanes
                        .Values.OrderBy(l => l.Name, StringComparer.Ordinal)
                        .Select(l => new LaneView(l.Name, l.Width, [.. l.Holders], [.. l.Waiting.Select(w => w.Seat)])),
                ];
            }
        }
    }
}
