namespace GateChain.Storage.Sql;

/// <summary>
/// A store on a database that speaks SQL. What differs from one to the other is the journal, and how transactions end.
/// Thread-safe.
/// </summary>
public abstract class SqlStore : IStore
{
    /// <param name="ownership">How runs are owned, where that is not by their line alone.</param>
    internal SqlStore(ISqlDatabase database, IJournal journal, Func<RunStore, IRunOwnership>? ownership = null)
    {
        (Database, Journal) = (database, journal);
        var runs = new RunStore(database);
        (Runs, Ownership) = (runs, ownership?.Invoke(runs) ?? new RunOwnership(database, runs));
        Outbox = new Outbox(database);
        History = new History(database);
        Retention = new Retention(database);
        Catalogue = new Catalogue(database);
        Drafts = new DraftStore(database);
        Files = new FileStore(database);
        Kept = new KeptValues(database);
        Triggers = new TriggerStore(database);
        Backfills = new Backfills(database);
        Secrets = new SecretStore(database);
        Access = new AccessStore(database);
        Audit = new AuditLog(database);
    }

    internal ISqlDatabase Database { get; }

    /// <inheritdoc/>
    public IJournal Journal { get; }

    /// <inheritdoc/>
    public IOutbox Outbox { get; }

    /// <inheritdoc/>
    public IRunStore Runs { get; }

    /// <inheritdoc/>
    public IHistory History { get; }

    /// <inheritdoc/>
    public IRetention Retention { get; }

    /// <inheritdoc/>
    public IRunOwnership Ownership { get; }

    /// <inheritdoc/>
    public ICatalogue Catalogue { get; }

    /// <inheritdoc/>
    public IDrafts Drafts { get; }

    /// <inheritdoc/>
    public IFileStore Files { get; }

    /// <inheritdoc/>
    public IKeptValues Kept { get; }

    /// <inheritdoc/>
    public ITriggerStore Triggers { get; }

    /// <inheritdoc/>
    public IBackfills Backfills { get; }

    /// <inheritdoc/>
    public ISecretStore Secrets { get; }

    /// <inheritdoc/>
    public IAccessStore Access { get; }

    /// <inheritdoc/>
    public IAuditLog Audit { get; }

    /// <summary>Writes what was handed over, and closes the database.</summary>
    public abstract ValueTask DisposeAsync();
}
