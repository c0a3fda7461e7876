namespace GateChain.Storage;

/// <summary>What became of an append.</summary>
public enum AppendOutcome
{
    /// <summary>It is on disk.</summary>
    Written,

    /// <summary>Nothing was written: the run has another owner by now, who must be left alone.</summary>
    Fenced,

    /// <summary>Nothing was written: what it was to begin for was taken already.</summary>
    Taken,
}

/// <summary>Learns that its append has ended. Called on a thread of the pool, which it must not block.</summary>
public interface IAppendListener
{
    /// <summary>The append has ended.</summary>
    void Appended(JournalAppend append, AppendOutcome outcome);
}

/// <summary>One journal row to be written: all events of one decision.</summary>
/// <param name="Run">The run's number.</param>
/// <param name="Epoch">The owner's epoch; an append with an old one writes nothing.</param>
/// <param name="Seq">The row's number within the run, from 1, without gaps.</param>
/// <param name="Body">The row.</param>
/// <param name="Stored">The run's line in lists, when this row changes it; written in the same transaction. The first
/// row of a run must bring it; when it has an origin key that another run has, nothing is written.</param>
/// <param name="Listener">Who learns the outcome.</param>
public sealed record JournalAppend(
    long Run,
    long Epoch,
    long Seq,
    byte[] Body,
    StoredRun? Stored,
    IAppendListener Listener
)
{
    /// <summary>
    /// What others wait for, in order: rows of the outbox, written in the same transaction. Only with a head.
    /// </summary>
    public IReadOnlyList<RunNotificationKind> Notifications { get; init; } = [];

    /// <summary>What else is written in the same transaction, or not at all; null for nothing.</summary>
    public AppendExtras? Extras { get; init; }
}

/// <summary>What a decision brings beside its row.</summary>
/// <param name="Keys">Occasions that it takes: an append with a key that was taken before writes nothing.</param>
/// <param name="Kept">Values that its chain keeps from run to run; null for none.</param>
/// <param name="Audit">Who asked for it; null when nobody did.</param>
public sealed record AppendExtras(IReadOnlyList<string> Keys, KeptSet? Kept, AuditLine? Audit)
{
    /// <summary>
    /// The fire that the run is started for: an append whose occasion was taken before writes nothing. Null for none.
    /// </summary>
    public NewFire? Fire { get; init; }

    /// <summary>How far the step has got that it settles.</summary>
    public IReadOnlyList<KeptPosition> Positions { get; init; } = [];
}

/// <summary>A row as it is on disk: all events of one decision.</summary>
/// <param name="Seq">Its number within the run.</param>
/// <param name="Body">What it holds.</param>
public readonly record struct JournalRow(long Seq, byte[] Body);

/// <summary>
/// The append-only record of all runs. Thread-safe. Appends of one run must be handed over in the order of their
/// numbers. An append that can't be written now (disk full, locked) is tried again until it can: runs hold still
/// meanwhile, and <see cref="WriterState"/> says so.
/// </summary>
public interface IJournal
{
    /// <summary>Hands over a row; its listener learns the outcome.</summary>
    void Append(JournalAppend append);

    /// <summary>
    /// The rows of a run behind a number, in order, as they are when the first one is asked for.
    /// </summary>
    /// <param name="run">The run.</param>
    /// <param name="after">The number; 0 for all.</param>
    /// <param name="cancel">Ends the reading.</param>
    IAsyncEnumerable<JournalRow> ReadAsync(long run, long after = 0, CancellationToken cancel = default);

    /// <summary>How the writer fares.</summary>
    WriterState Writer { get; }
}

/// <summary>How the writer fares.</summary>
/// <param name="Trouble">What keeps it from writing, in a sentence; null when nothing does.</param>
/// <param name="Since">Since when.</param>
public sealed record WriterState(string? Trouble, DateTimeOffset? Since)
{
    /// <summary>Nothing keeps it from writing.</summary>
    public static WriterState Fine { get; } = new(null, null);
}
