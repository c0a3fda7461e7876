namespace GateChain.Engine.Slots;

/// <summary>What seats are in.</summary>
public enum SlotKind
{
    /// <summary>A lane of the workspace; its seats are steps.</summary>
    Lane,

    /// <summary>The line of a chain's runs; its seats are runs.</summary>
    Chain,
}

/// <summary>Something that only so many may have at once.</summary>
/// <param name="Kind">What it is.</param>
/// <param name="Name">Its name among its kind.</param>
public readonly record struct SlotName(SlotKind Kind, string Name);

/// <summary>Who has a place in a slot, or waits for one.</summary>
/// <param name="Run">The run.</param>
/// <param name="Step">The path of its step; null for the run itself.</param>
public readonly record struct Seat(long Run, string? Step = null);

/// <summary>How a seat is asked for.</summary>
/// <param name="Force">It is taken however many have one.</param>
/// <param name="OrNothing">Whoever can't have it at once does not wait for it.</param>
/// <param name="Above">Runs that wait for this one: it can't wait for them.</param>
/// <param name="MostWaiting">Nobody waits for it where so many do already; null for any number.</param>
public sealed record SlotTerms(
    bool Force = false,
    bool OrNothing = false,
    IReadOnlyCollection<long>? Above = null,
    int? MostWaiting = null
)
{
    /// <summary>It waits until there is room.</summary>
    public static SlotTerms Queue { get; } = new();
}

/// <summary>What became of a request.</summary>
/// <param name="Granted">Whether the seat is held now.</param>
/// <param name="Others">The runs that are in the way, oldest first; none when it is granted.</param>
/// <param name="IsFull">Whether nobody may wait for it any more.</param>
public readonly record struct SlotAnswer(bool Granted, IReadOnlyList<long> Others, bool IsFull = false);

/// <summary>How full a slot is.</summary>
/// <param name="Slot">The slot.</param>
/// <param name="Width">How many may have a seat at once.</param>
/// <param name="Holders">Those that do.</param>
/// <param name="Waiting">Those that queue, the next one first.</param>
public sealed record SlotView(SlotName Slot, int Width, IReadOnlyList<Seat> Holders, IReadOnlyList<Seat> Waiting);

/// <summary>
/// Seats of which there are only so many: in lanes, and in the lines of chains that are busy. Who came first is first.
/// A seat that is granted later is told to its run as an input. Thread-safe. Nothing of it is on disk: after a restart
/// the runs announce what they hold and wait for.
/// </summary>
public interface ISlots
{
    /// <summary>Asks for a seat. One that is held or waited for already stays as it is.</summary>
    ValueTask<SlotAnswer> RequestAsync(SlotName slot, Seat seat, SlotTerms terms);

    /// <summary>Gives a seat back, or ends waiting for it.</summary>
    ValueTask ReleaseAsync(Seat seat);

    /// <summary>Gives back all seats of a run's steps.</summary>
    ValueTask ReleaseStepsAsync(long run);

    /// <summary>Says what a run had before a restart. Nobody is granted anything by that.</summary>
    /// <param name="slot">The slot.</param>
    /// <param name="seat">The seat.</param>
    /// <param name="waits">Whether it was waited for; else it was held.</param>
    ValueTask AnnounceAsync(SlotName slot, Seat seat, bool waits);

    /// <summary>Grants what is free, when all has been announced.</summary>
    ValueTask GrantAsync();

    /// <summary>Whether a seat is held.</summary>
    ValueTask<bool> HoldsAsync(Seat seat);

    /// <summary>The lanes, by name.</summary>
    ValueTask<IReadOnlyList<SlotView>> LanesAsync();
}
