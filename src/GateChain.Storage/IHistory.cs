using GateChain.Core.History;
using GateChain.Core.Identity;

namespace GateChain.Storage;

/// <summary>How many legs ended in an hour, in a state.</summary>
/// <param name="Hour">Its begin, UTC.</param>
/// <param name="State">A word of the vocabulary.</param>
/// <param name="Count">How many.</param>
public readonly record struct HourCount(DateTimeOffset Hour, string State, int Count);

/// <summary>A leg of a run.</summary>
public readonly record struct LegKey(long Run, int Leg);

/// <summary>
/// What is remembered of legs that have ended. It follows from the journal and can be made again from it at any time.
/// Thread-safe.
/// </summary>
public interface IHistory
{
    /// <summary>Remembers legs; one that is there already is replaced.</summary>
    /// <exception cref="StorageException">They could not be written; then none of them is.</exception>
    Task AddAsync(IReadOnlyList<LegHistory> legs);

    /// <summary>The latest leg of each of a chain's runs, the newest run first.</summary>
    /// <param name="chain">The chain's name.</param>
    /// <param name="most">How many runs, 1 to 1,000.</param>
    /// <param name="before">Only runs with a smaller number; null for all.</param>
    /// <param name="state">Only those that ended so; null for any.</param>
    /// <param name="tries">Whether drafts that were tried are told, too.</param>
    ValueTask<IReadOnlyList<LegHistory>> OfChainAsync(
        string chain,
        int most,
        long? before = null,
        string? state = null,
        bool tries = false
    );

    /// <summary>The legs of a run, in order.</summary>
    ValueTask<IReadOnlyList<LegHistory>> OfRunAsync(long run);

    /// <summary>How runs of their own ended in a time, by hour.</summary>
    /// <param name="from">From then on.</param>
    /// <param name="to">Before then.</param>
    /// <param name="areas">Only runs in these areas and below; null for all.</param>
    ValueTask<IReadOnlyList<HourCount>> CountAsync(
        DateTimeOffset from,
        DateTimeOffset to,
        IReadOnlyList<Area>? areas = null
    );

    /// <summary>Ended runs whose latest leg is not remembered, the newest first.</summary>
    /// <param name="most">How many at most.</param>
    /// <param name="before">Only runs with a smaller number; null for all.</param>
    ValueTask<IReadOnlyList<LegKey>> MissingAsync(int most, long? before = null);

    /// <summary>Forgets everything.</summary>
    /// <exception cref="StorageException">It could not be written.</exception>
    Task ClearAsync();
}
