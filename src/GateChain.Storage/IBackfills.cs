namespace GateChain.Storage;

/// <summary>Where a backfill is.</summary>
public enum BackfillState
{
    /// <summary>It starts runs.</summary>
    Running,

    /// <summary>It starts none until somebody says so.</summary>
    Paused,

    /// <summary>Somebody ended it: what is left of it is not started.</summary>
    Stopped,

    /// <summary>All of its runs have ended.</summary>
    Ended,
}

/// <summary>Fires for due times of a span that were not served yet.</summary>
/// <param name="Number">Grows with every one, from 1.</param>
/// <param name="Trigger">The trigger's name.</param>
/// <param name="From">The first due time that may be in it.</param>
/// <param name="To">Due times from here on are not in it.</param>
/// <param name="Release">The content that its runs follow.</param>
/// <param name="Parallel">How many runs go at once.</param>
/// <param name="NewestFirst">Whether it begins with the newest.</param>
/// <param name="Keeps">Whether its runs write what their chain keeps.</param>
/// <param name="By">Who began it.</param>
/// <param name="At">When.</param>
/// <param name="State">Where it is.</param>
public sealed record Backfill(
    long Number,
    string Trigger,
    DateTimeOffset From,
    DateTimeOffset To,
    string Release,
    int Parallel,
    bool NewestFirst,
    bool Keeps,
    string By,
    DateTimeOffset At,
    BackfillState State
);

/// <summary>A due time of a backfill.</summary>
/// <param name="Due">The due time.</param>
/// <param name="From">The one before it.</param>
public readonly record struct BackfillTime(DateTimeOffset Due, DateTimeOffset From);

/// <summary>A fire of a backfill.</summary>
/// <param name="Key">Its key.</param>
/// <param name="Fate">What became of it.</param>
/// <param name="Run">The run that it started; null for none.</param>
/// <param name="Why">Why there is no run; null when there is one.</param>
public sealed record BackfillFire(string Key, FireFate Fate, long? Run, string? Why);

/// <summary>The backfills there are. What became of their due times stands in the fires. Thread-safe.</summary>
public interface IBackfills
{
    /// <summary>Begins one.</summary>
    /// <param name="backfill">What it is; its number is not looked at.</param>
    /// <param name="times">Its due times, in the order in which they fire.</param>
    /// <param name="audit">Who begins it.</param>
    /// <returns>Its number.</returns>
    /// <exception cref="StorageException">It could not be written.</exception>
    Task<long> CreateAsync(Backfill backfill, IReadOnlyList<BackfillTime> times, AuditLine audit);

    /// <summary>One by its number; null when there is none.</summary>
    ValueTask<Backfill?> FindAsync(long number);

    /// <summary>Newest first, at most 500.</summary>
    ValueTask<IReadOnlyList<Backfill>> ListAsync();

    /// <summary>Its due times, in the order in which they fire.</summary>
    ValueTask<IReadOnlyList<BackfillTime>> TimesAsync(long number);

    /// <summary>What has fired of one, in that order.</summary>
    ValueTask<IReadOnlyList<BackfillFire>> FiresAsync(long number);

    /// <summary>Says where one is from here on.</summary>
    /// <exception cref="StorageException">It could not be written.</exception>
    Task SetStateAsync(long number, BackfillState state, AuditLine? audit);
}
