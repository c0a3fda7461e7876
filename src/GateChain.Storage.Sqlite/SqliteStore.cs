using GateChain.Storage.Sql;
using Microsoft.Data.Sqlite;

namespace GateChain.Storage.Sqlite;

/// <summary>
/// Everything in one SQLite file. Thread-safe; one process at a time. SQLite itself does not wait: what reads ends at
/// once.
/// </summary>
public sealed class SqliteStore : SqlStore
{
    readonly SqliteWriter _writer;
    readonly Timer _checkpoints;
    int _disposed;

    sealed record Parts(SqliteFile File, SqliteWriter Writer, SqliteDatabase Database)
    {
        public static Parts Open(string path, TimeProvider? time)
        {
            var file = new SqliteFile(path);
            file.Prepare();
            var writer = new SqliteWriter(file, time ?? TimeProvider.System);
            try
            {
                return new(file, writer, new(file, writer));
            }
            catch
            {
                writer.Dispose();
                throw;
            }
        }
    }

    /// <exception cref="StorageException">The file can't be opened.</exception>
    public SqliteStore(string path, TimeProvider? time = null)
        : this(Parts.Open(path, time)) { }

    SqliteStore(Parts parts)
        : base(parts.Database, new Journal(parts.File, parts.Writer))
    {
        (File, _writer) = (parts.File, parts.Writer);
        // Keeps the write-ahead log short without making the writer do it.
        _checkpoints = new(_ => Checkpoint(), null, TimeSpan.FromSeconds(2), TimeSpan.FromSeconds(2));
    }

    /// <summary>The database file.</summary>
    public string Path => File.Path;

    internal SqliteFile File { get; }

    void Checkpoint()
    {
        try
        {
            using var connection = File.Open();
            SqliteFile.Execute(connection, "PRAGMA wal_checkpoint(PASSIVE)");
        }
        catch (Exception e) when (e is SqliteException or ObjectDisposedException)
        {
            // The writer's own checkpoint is the backstop; trouble with the disk shows there.
        }
    }

    /// <summary>Writes what was handed over, and closes the file.</summary>
    public override async ValueTask DisposeAsync()
    {
        if (Interlocked.Exchange(ref _disposed, 1) != 0)
            return;
        await _checkpoints.DisposeAsync().ConfigureAwait(false);
        _writer.Dispose();
        SqliteConnection.ClearAllPools();
    }
}
