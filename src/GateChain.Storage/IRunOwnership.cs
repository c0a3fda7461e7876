namespace GateChain.Storage;

/// <summary>A run that the caller owns from now on.</summary>
/// <param name="Run">Its line in lists.</param>
/// <param name="Epoch">What its appends have to bring: whoever owned it before writes nothing any more.</param>
public sealed record Claim(StoredRun Run, long Epoch);

/// <summary>
/// Who may continue with a run: whoever claimed it last. A claim reads all that the former owner has written, and lets
/// it write nothing more. Thread-safe.
/// </summary>
public interface IRunOwnership
{
    /// <summary>Claims a run, whatever its state; null when there is no such run.</summary>
    /// <exception cref="StorageException">It could not be written.</exception>
    Task<Claim?> ClaimAsync(long run);

    /// <summary>Claims every run that has not ended, by number.</summary>
    /// <exception cref="StorageException">It could not be written.</exception>
    Task<IReadOnlyList<Claim>> ClaimUnendedAsync();

    /// <summary>
    /// The runs whose moment comes first: ended ones that are to be resumed by themselves. Nothing is claimed.
    /// </summary>
    /// <param name="after">Only those behind this one: the next page; null for the first.</param>
    /// <param name="most">At most so many, 1 to 500.</param>
    /// <returns>By moment, then number.</returns>
    ValueTask<IReadOnlyList<DueRun>> NextDueAsync(DueRun? after, int most);
}

/// <summary>A run that has something to do by itself.</summary>
/// <param name="Run">Its number.</param>
/// <param name="At">When.</param>
public readonly record struct DueRun(long Run, DateTimeOffset At);
