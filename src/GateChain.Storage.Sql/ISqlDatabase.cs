using System.Data.Common;

namespace GateChain.Storage.Sql;

/// <summary>A database as the stores on it use it; what it does by itself is behind this. Thread-safe.</summary>
interface ISqlDatabase
{
    /// <summary>What it says in words of its own.</summary>
    SqlWords Words { get; }

    /// <summary>Reads something. It may be done twice, when the database had gone meanwhile.</summary>
    /// <param name="read">What reads; it changes nothing.</param>
    /// <exception cref="StorageException">It could not be read.</exception>
    ValueTask<T> ReadAsync<T>(Func<DbConnection, Task<T>> read);

    /// <summary>
    /// Does a write in one transaction; ends when it is on disk. It may be done again when somebody else came in
    /// between, so it changes nothing but the database and what it gives back.
    /// </summary>
    /// <param name="write">The write.</param>
    /// <param name="sortIn">Whether all that the journal has written has to stand in the tables before.</param>
    /// <exception cref="StorageException">It could not be written.</exception>
    Task WriteAsync(Func<DbConnection, Task> write, bool sortIn = false);

    /// <summary>
    /// Gives their places in the outbox and the audit log to what is on disk and has none yet: before somebody reads
    /// there.
    /// </summary>
    /// <exception cref="StorageException">It could not be written.</exception>
    ValueTask GivePlacesAsync() => default;

    /// <summary>A number for a new run.</summary>
    ValueTask<long> NextRunAsync();

    /// <summary>The lines of runs that are on disk, and not in their table yet.</summary>
    IUnflushedRuns Unflushed { get; }

    /// <summary>What the outbox's consumers have handled.</summary>
    OutboxCursors Cursors { get; }
}

/// <summary>What databases say in different words.</summary>
abstract class SqlWords
{
    /// <summary>The texts of a parameter that is a JSON list, as a query of one column.</summary>
    public abstract string Texts(string parameter);

    /// <summary>The numbers of a parameter that is a JSON list, as a query of one column.</summary>
    public abstract string Numbers(string parameter);

    /// <summary>Compares with a pattern, whatever the case of letters.</summary>
    public abstract string Like { get; }

    /// <summary>The position of the outbox's newest row, also when it is gone by now.</summary>
    public abstract string LastPosition { get; }

    /// <summary>
    /// Has numbers continue behind those of rows that came with theirs, and the outbox behind <c>@position</c>.
    /// </summary>
    public abstract string ContinueNumbers { get; }

    /// <summary>
    /// A column that is not to be looked up by its index here, where another condition finds less.
    /// </summary>
    public abstract string Unindexed(string column);

    /// <summary>
    /// The decisions of all runs in order, as a query of <c>run</c>, <c>seq</c> and <c>body</c>; null where they do not
    /// lie in rows of their own.
    /// </summary>
    public virtual string? Decisions => null;

    /// <summary>
    /// How many bytes the <c>database</c> takes, and tables as far as it can tell, as a query of <c>what</c> and
    /// <c>bytes</c>.
    /// </summary>
    public abstract string Room { get; }
}

/// <summary>Lines of runs that their table does not have yet. Thread-safe.</summary>
interface IUnflushedRuns
{
    /// <summary>The line of a run; null when there is none.</summary>
    StoredRun? Find(long run);

    /// <summary>All of them, as they are at this moment.</summary>
    IReadOnlyCollection<StoredRun> All { get; }
}
