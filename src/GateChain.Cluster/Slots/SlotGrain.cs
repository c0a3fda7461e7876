using GateChain.Engine.Slots;
using Orleans.Placement;

namespace GateChain.Cluster.Slots;

/// <summary>A slot that the runs of all nodes share.</summary>
[Alias("gatechain.slot")]
public interface ISlotGrain : IGrainWithStringKey
{
    /// <summary>Asks for a seat.</summary>
    [Alias("request")]
    Task<SlotReply> RequestAsync(SlotRequest request);

    /// <summary>Gives a seat back.</summary>
    [Alias("release")]
    Task ReleaseAsync(long run, string? step);

    /// <summary>Says all seats that a node's runs have or want: others of it are free.</summary>
    [Alias("sync")]
    Task SyncAsync(string node, IReadOnlyList<SeatState> seats);

    /// <summary>How full it is.</summary>
    [Alias("look")]
    Task<SlotLook> LookAsync();
}

/// <summary>A request for a seat.</summary>
[GenerateSerializer, Immutable, Alias("gatechain.slot-request")]
public sealed record SlotRequest(
    [property: Id(0)] string Node,
    [property: Id(1)] SeatState Seat,
    [property: Id(2)] bool Force,
    [property: Id(3)] bool OrNothing,
    [property: Id(4)] IReadOnlyList<long> Above,
    [property: Id(5)] int? MostWaiting
);

/// <summary>What became of it.</summary>
[GenerateSerializer, Immutable, Alias("gatechain.slot-reply")]
public sealed record SlotReply(
    [property: Id(0)] bool Granted,
    [property: Id(1)] IReadOnlyList<long> Others,
    [property: Id(2)] bool IsFull
);

/// <summary>A seat, and whether it is waited for.</summary>
[GenerateSerializer, Immutable, Alias("gatechain.seat")]
public sealed record SeatState(
    [property: Id(0)] long Run,
    [property: Id(1)] string? Step,
    [property: Id(2)] bool Waits
);

/// <summary>How full a slot is.</summary>
[GenerateSerializer, Immutable, Alias("gatechain.slot-look")]
public sealed record SlotLook(
    [property: Id(0)] int Width,
    [property: Id(1)] IReadOnlyList<SeatState> Holders,
    [property: Id(2)] IReadOnlyList<SeatState> Waiting
);

/// <summary>
/// One slot, in memory: who came first is first. It begins with what the runs of all nodes have and want, and grants
/// nothing before every run that has lost its node is with another one. What gets lost on the way is put right by what
/// the nodes say again every few seconds.
/// </summary>
[PreferLocalPlacement]
public sealed class SlotGrain(SlotDesk desk) : Grain, ISlotGrain
{
    static readonly TimeSpan Pace = TimeSpan.FromSeconds(2);

    readonly Dictionary<Seat, string> _nodes = [];
    LocalSlots _slots = null!;
    SlotName _name;

    /// <inheritdoc/>
    public override async Task OnActivateAsync(CancellationToken cancellationToken)
    {
        _name = SlotKeys.NameOf(this.GetPrimaryKeyString());
        _slots = new((_, seat) => Granted(seat));
        await desk.OrphansAreTakenAsync(cancellationToken);
        foreach (var node in desk.Living)
        {
            foreach (var seat in await desk.SeatsAsync(node, _name, cancellationToken))
                await AnnounceAsync(node, seat);
        }
        await GrantAsync();
        this.RegisterGrainTimer(LookAfterAsync, new GrainTimerCreationOptions(Pace, Pace) { KeepAlive = false });
    }

    void Granted(Seat seat)
    {
        if (_nodes.TryGetValue(seat, out var node))
            desk.Grant(node, _name, seat);
    }

    async Task AnnounceAsync(string node, SeatState seat)
    {
        var place = new Seat(seat.Run, seat.Step);
        _nodes[place] = node;
        await _slots.AnnounceAsync(_name, place, seat.Waits);
    }

    async Task GrantAsync()
    {
        if (_name.Kind == SlotKind.Lane)
            _slots.SetWidths(new Dictionary<string, int> { [_name.Name] = desk.WidthOf(_name.Name) });
        await _slots.GrantAsync();
    }

    /// <inheritdoc/>
    public async Task<SlotReply> RequestAsync(SlotRequest request)
    {
        await GrantAsync();
        var seat = new Seat(request.Seat.Run, request.Seat.Step);
        _nodes[seat] = request.Node;
        var answer = await _slots.RequestAsync(
            _name,
            seat,
            new(request.Force, request.OrNothing, request.Above, request.MostWaiting)
        );
        if (!answer.Granted && (request.OrNothing || answer.IsFull))
            _nodes.Remove(seat);
        return new(answer.Granted, answer.Others, answer.IsFull);
    }

    /// <inheritdoc/>
    public async Task ReleaseAsync(long run, string? step) => await FreeAsync(new(run, step));

    async Task FreeAsync(Seat seat)
    {
        _nodes.Remove(seat);
        await _slots.ReleaseAsync(seat);
    }

    /// <inheritdoc/>
    public async Task SyncAsync(string node, IReadOnlyList<SeatState> seats)
    {
        var said = seats.ToDictionary(s => new Seat(s.Run, s.Step));
        foreach (var seat in _nodes.Where(n => n.Value == node && !said.ContainsKey(n.Key)).Select(n => n.Key).ToList())
            await FreeAsync(seat);
        foreach (var (seat, state) in said)
        {
            var isKnown = _nodes.ContainsKey(seat);
            _nodes[seat] = node;
            var isHeld = isKnown && await _slots.HoldsAsync(seat);
            // It was told, and that got lost; or nobody here knew.
            if (isHeld && state.Waits)
                desk.Grant(node, _name, seat);
            else if (isKnown && !isHeld && !state.Waits)
                await _slots.ReleaseAsync(seat);
            await _slots.AnnounceAsync(_name, seat, state.Waits);
        }
        await GrantAsync();
    }

    // Seats of nodes that are gone are those of whoever has the runs now, if it says so.
    async Task LookAfterAsync(CancellationToken cancel)
    {
        var living = desk.Living;
        var said = new Dictionary<string, HashSet<Seat>>();
        foreach (var (seat, _) in _nodes.Where(n => !living.Contains(n.Value)).ToList())
        {
            var (hasEnded, owner) = await desk.OwnerAsync(seat.Run);
            if (hasEnded)
            {
                await FreeAsync(seat);
                continue;
            }
            if (owner is null || !living.Contains(owner))
                continue;
            if (!said.TryGetValue(owner, out var seats))
            {
                var states = await desk.SeatsAsync(owner, _name, cancel);
                said[owner] = seats = [.. states.Select(s => new Seat(s.Run, s.Step))];
            }
            if (seats.Contains(seat))
                _nodes[seat] = owner;
            else
                await FreeAsync(seat);
        }
        await GrantAsync();
    }

    /// <inheritdoc/>
    public async Task<SlotLook> LookAsync()
    {
        await GrantAsync();
        var look = _slots.Look(_name);
        return new(
            look.Width,
            [.. look.Holders.Select(s => new SeatState(s.Run, s.Step, false))],
            [.. look.Waiting.Select(s => new SeatState(s.Run, s.Step, true))]
        );
    }
}

/// <summary>The keys under which slots are found.</summary>
static class SlotKeys
{
    public static string Of(SlotName name) => $"{(name.Kind == SlotKind.Lane ? "lane" : "chain")}:{name.Name}";

    public static SlotName NameOf(string key)
    {
        var at = key.IndexOf(':', StringComparison.Ordinal);
        return new(key[..at] == "lane" ? SlotKind.Lane : SlotKind.Chain, key[(at + 1)..]);
    }
}
