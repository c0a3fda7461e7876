using Microsoft.Data.Sqlite;

namespace GateChain.Storage.Sqlite;

/// <summary>
/// Everything in one SQLite file. Thread-safe; one process at a time. SQLite itself does not wait: what reads ends at
/// once.
/// </summary>
public sealed class SqliteStore : IStore
{
    readonly SqliteFile _file;
    readonly SqliteWriter _writer;
    readonly Timer _checkpoints;
    int _disposed;

    /// <exception cref="StorageException">The file can't be opened.</exception>
    public SqliteStore(string path, TimeProvider? time = null)
    {
        _file = new(path);
        _file.Prepare();
        _writer = new(_file, time ?? TimeProvider.System);
        try
        {
            var runs = new RunStore(_file, _writer);
            (Runs, Ownership) = (runs, new RunOwnership(_writer, runs));
        }
        catch
        {
            _writer.Dispose();
            throw;
        }
        Journal = new Journal(_file, _writer);
        Outbox = new Outbox(_file, _writer);
        History = new History(_file, _writer);
        Catalogue = new Catalogue(_file, _writer);
        Drafts = new DraftStore(_file, _writer);
        Files = new FileStore(_file, _writer);
        Kept = new KeptValues(_file, _writer);
        Triggers = new TriggerStore(_file, _writer);
        Backfills = new Backfills(_file, _writer);
        Secrets = new SecretStore(_file, _writer);
        Access = new AccessStore(_file, _writer);
        Audit = new AuditLog(_file, _writer);
        // Keeps the write-ahead log short without making the writer do it.
        _checkpoints = new(_ => Checkpoint(), null, TimeSpan.FromSeconds(2), TimeSpan.FromSeconds(2));
    }

    /// <summary>The database file.</summary>
    public string Path => _file.Path;

    internal SqliteFile File => _file;

    /// <inheritdoc/>
    public IJournal Journal { get; }

    /// <inheritdoc/>
    public IOutbox Outbox { get; }

    /// <inheritdoc/>
    public IRunStore Runs { get; }

    /// <inheritdoc/>
    public IHistory History { get; }

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

    void Checkpoint()
    {
        try
        {
            using var connection = _file.Open();
            SqliteFile.Execute(connection, "PRAGMA wal_checkpoint(PASSIVE)");
        }
        catch (Exception e) when (e is SqliteException or ObjectDisposedException)
        {
            // The writer's own checkpoint is the backstop; trouble with the disk shows there.
        }
    }

    /// <summary>Writes what was handed over, and closes the file.</summary>
    public async ValueTask DisposeAsync()
    {
        if (Interlocked.Exchange(ref _disposed, 1) != 0)
            return;
        await _checkpoints.DisposeAsync().ConfigureAwait(false);
        _writer.Dispose();
        SqliteConnection.ClearAllPools();
    }
}
