namespace GateChain.Storage;

/// <summary>What happened to a run that others wait for.</summary>
public enum RunNotificationKind
{
    /// <summary>Its first leg began.</summary>
    Started,

    /// <summary>A further leg began.</summary>
    Resumed,

    /// <summary>It waits for a person.</summary>
    Paused,

    /// <summary>It takes longer than its chain's <c>dueIn</c>.</summary>
    Late,

    /// <summary>A leg ended; or the run will not be resumed by itself any more.</summary>
    Ended,

    /// <summary>A trigger could not start one: there is no run, and the number is that of the fire.</summary>
    Refused,

    /// <summary>It will probably take longer than its chain's <c>dueIn</c>.</summary>
    Endangered,
}

/// <summary>News of a run, stored in the transaction of the decision that made it.</summary>
/// <param name="Position">Grows with every row, from 1; there may be gaps.</param>
/// <param name="Run">The run; 0 for a fire that could not start one.</param>
/// <param name="Seq">The number of the decision in its journal; of a refused fire its own number.</param>
/// <param name="Chain">The chain's name.</param>
/// <param name="Kind">What happened.</param>
/// <param name="State">The run's state from then on, a word of the vocabulary.</param>
public sealed record OutboxRow(long Position, long Run, long Seq, string Chain, RunNotificationKind Kind, string State);

/// <summary>
/// News of runs, for consumers that must not miss any. Thread-safe. Each consumer has a cursor of its own and is told
/// every row behind it at least once, in order; a crash may repeat the newest ones. Rows that all consumers have
/// handled are gone by and by.
/// </summary>
public interface IOutbox
{
    /// <summary>
    /// Names the consumers there are, before the first news. One that is new begins with what comes from now on; of
    /// those that are not named any more the cursors go.
    /// </summary>
    /// <param name="consumers">Their names.</param>
    /// <param name="alone">Whether nobody else reads it: if somebody does, theirs stay.</param>
    /// <returns>The position that each has handled.</returns>
    /// <exception cref="StorageException">It could not be written.</exception>
    Task<IReadOnlyDictionary<string, long>> OpenAsync(IReadOnlyCollection<string> consumers, bool alone = true);

    /// <summary>Forgets a consumer: nothing is kept for it any more.</summary>
    /// <exception cref="StorageException">It could not be written.</exception>
    Task CloseAsync(string consumer);

    /// <summary>The rows behind a position, in order.</summary>
    /// <param name="after">The position; 0 for all.</param>
    /// <param name="most">At most so many, 1 to 10,000.</param>
    ValueTask<IReadOnlyList<OutboxRow>> ReadAsync(long after, int most);

    /// <summary>
    /// A consumer has handled everything up to a position. Written with one of the next transactions, not at once: it
    /// costs no sync to disk of its own.
    /// </summary>
    void Handled(string consumer, long position);
}
