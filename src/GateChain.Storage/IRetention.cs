using GateChain.Core.Identity;
using GateChain.Core.Retention;

namespace GateChain.Storage;

/// <summary>A run that stays whatever the rules say.</summary>
/// <param name="Run">The run.</param>
/// <param name="By">Who pinned it.</param>
/// <param name="At">When.</param>
/// <param name="Why">Why; null when nobody said it.</param>
public sealed record Pin(long Run, string By, DateTimeOffset At, string? Why);

/// <summary>A chain of which there are runs.</summary>
/// <param name="Name">Its name.</param>
/// <param name="Area">The folder of its newest run.</param>
public sealed record ChainOfRuns(string Name, Area Area);

/// <summary>A run that may go, as it was seen.</summary>
/// <param name="Run">The run.</param>
/// <param name="Epoch">Of its owner: who continues with it meanwhile has another one, and keeps it.</param>
public readonly record struct OldRun(long Run, long Epoch);

/// <summary>How much room a part of the store takes.</summary>
/// <param name="What">Of what.</param>
/// <param name="Rows">How many rows.</param>
/// <param name="Bytes">How many bytes; null where nobody can say.</param>
/// <param name="IsPart">Whether it is a part of something else that is told: a table of the database.</param>
public sealed record RoomUse(string What, long Rows, long? Bytes, bool IsPart = false);

/// <summary>
/// How long runs are kept that have ended, and how they go: with their children, journals and what is remembered of
/// them. Thread-safe.
/// </summary>
public interface IRetention
{
    /// <summary>What people have said.</summary>
    ValueTask<KeepRules> RulesAsync();

    /// <summary>Says how long runs of a place are kept; null takes what was said away.</summary>
    /// <exception cref="StorageException">It could not be written.</exception>
    Task SetRuleAsync(KeepPlace place, KeepRule? rule, AuditLine audit);

    /// <summary>The runs that somebody pinned, by number.</summary>
    ValueTask<IReadOnlyList<Pin>> PinsAsync();

    /// <summary>Keeps a run, in the place of what was said before; false when there is no such run.</summary>
    /// <exception cref="StorageException">It could not be written.</exception>
    Task<bool> PinAsync(Pin pin, AuditLine audit);

    /// <summary>Keeps a run no longer than others.</summary>
    /// <exception cref="StorageException">It could not be written.</exception>
    Task UnpinAsync(long run, AuditLine audit);

    /// <summary>
    /// The chains of which there are runs of their own, by name. What was decided before is looked at by
    /// <see cref="OldAsync"/> from then on.
    /// </summary>
    ValueTask<IReadOnlyList<ChainOfRuns>> ChainsAsync();

    /// <summary>Runs of a chain that a rule lets go, the oldest first; children go with the runs that called
    /// them.</summary>
    /// <param name="chain">The chain.</param>
    /// <param name="rule">The rule.</param>
    /// <param name="now">The time that ages are counted from.</param>
    /// <param name="after">Only runs with a larger number.</param>
    /// <param name="most">How many at most.</param>
    ValueTask<IReadOnlyList<OldRun>> OldAsync(string chain, KeepRule rule, DateTimeOffset now, long after, int most);

    /// <summary>
    /// Takes runs away, in one transaction, with all that they have called. Those that somebody has continued with or
    /// pinned meanwhile stay, and those that have called a run that has not ended.
    /// </summary>
    /// <returns>All that are gone, children included.</returns>
    /// <exception cref="StorageException">It could not be written; nothing is gone then.</exception>
    Task<IReadOnlyList<long>> RemoveAsync(IReadOnlyCollection<OldRun> runs);

    /// <summary>Which of some numbers are those of runs.</summary>
    ValueTask<IReadOnlySet<long>> ThereAsync(IReadOnlyCollection<long> runs);

    /// <summary>What takes the room: the database, and its tables.</summary>
    ValueTask<IReadOnlyList<RoomUse>> UseAsync();
}
