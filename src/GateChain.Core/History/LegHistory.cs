using GateChain.Core.Identity;

namespace GateChain.Core.History;

/// <summary>What is remembered of a leg of a run once it has ended. Immutable.</summary>
/// <param name="Run">The run's number.</param>
/// <param name="Leg">The leg, from 1.</param>
/// <param name="Chain">The chain's name.</param>
/// <param name="Number">The number of the release it followed; null for a draft.</param>
/// <param name="State">How it ended, a word of the vocabulary.</param>
/// <param name="Started">When it began.</param>
/// <param name="Ended">When it ended.</param>
/// <param name="IsLate">Whether it took longer than its chain's <c>dueIn</c>.</param>
/// <param name="Source">What it was: a run of its own, a child, or a try.</param>
/// <param name="Steps">The steps of the chain and its handlers that it had come to, outer ones first.</param>
public sealed record LegHistory(
    long Run,
    int Leg,
    string Chain,
    int? Number,
    string State,
    DateTimeOffset Started,
    DateTimeOffset Ended,
    bool IsLate,
    LegSource Source,
    IReadOnlyList<StepHistory> Steps
)
{
    /// <summary>Where its run lies.</summary>
    public Area Area { get; init; }

    /// <summary>How long it took.</summary>
    public TimeSpan Took => Ended - Started;
}

/// <summary>An instance of a step in a loop over items.</summary>
/// <param name="Items">What it was for: the items of the loops around it.</param>
/// <param name="Step">How it went.</param>
public sealed record ItemHistory(string Items, StepHistory Step);

/// <summary>What a leg was of.</summary>
public enum LegSource
{
    /// <summary>A run that somebody or a trigger has started.</summary>
    Run,

    /// <summary>A run that a call has started.</summary>
    Child,

    /// <summary>A draft that was tried.</summary>
    Try,
}

/// <summary>
/// A step of a chain in one leg; in containers all of its instances together. Times are sums over them, in
/// milliseconds. Immutable.
/// </summary>
/// <param name="Address">Its address in the chain.</param>
/// <param name="State">The worst of how its instances ended, a word of the vocabulary.</param>
public sealed record StepHistory(string Address, string State)
{
    /// <summary>
    /// How many instances ran in this leg; 0 for a step that was skipped, or kept from an earlier leg.
    /// </summary>
    public int Count { get; init; }

    /// <summary>How many of them failed.</summary>
    public int Failed { get; init; }

    /// <summary>How many attempts they took together.</summary>
    public int Attempts { get; init; }

    /// <summary>When the first of them began, after the begin of the leg.</summary>
    public long Begin { get; init; }

    /// <summary>From the begin of the first to the end of the last.</summary>
    public long Span { get; init; }

    /// <summary>In attempts.</summary>
    public long Work { get; init; }

    /// <summary>Held by their guard.</summary>
    public long Held { get; init; }

    /// <summary>Waiting for a lane.</summary>
    public long Queued { get; init; }

    /// <summary>Between attempts.</summary>
    public long Rested { get; init; }

    /// <summary>Rows that they said they have read, written, and rejected; null where they said nothing.</summary>
    public long? Read { get; init; }

    /// <inheritdoc cref="Read"/>
    public long? Written { get; init; }

    /// <inheritdoc cref="Read"/>
    public long? Rejected { get; init; }
}
