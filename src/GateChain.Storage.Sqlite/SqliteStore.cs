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

    /// <summary>Copies a database file as it is at one moment, whether a service works with it or not.</summary>
    /// <param name="from">The file.</param>
    /// <param name="to">The copy; must not be there.</param>
    /// <exception cref="StorageException">It can't be read, or the copy can't be written.</exception>
    public static void Copy(string from, string to)
    {
        try
        {
            using var connection = new SqliteConnection(
                new SqliteConnectionStringBuilder
                {
                    DataSource = from,
                    DefaultTimeout = 60,
                    Pooling = false,
                }.ToString()
            );
            connection.Open();
            using var command = connection.CreateCommand();
            command.CommandText = "VACUUM INTO $to";
            command.Parameters.AddWithValue("$to", to);
            command.ExecuteNonQuery();
        }
        catch (SqliteException e)
        {
            throw new StorageException($"the database {from} can't be copied: {e.Message}", e);
        }
    }

    /// <summary>What is wrong with the file itself, in its own words; nothing when all of its pages fit.</summary>
    /// <exception cref="StorageException">It can't be read at all.</exception>
    public IReadOnlyList<string> Damages()
    {
        try
        {
            using var connection = File.Open();
            using var command = connection.CreateCommand();
            command.CommandText = "PRAGMA integrity_check(20)";
            using var reader = command.ExecuteReader();
            var found = new List<string>();
            while (reader.Read())
                found.Add(reader.GetString(0));
            return found is ["ok"] ? [] : found;
        }
        catch (SqliteException e)
        {
            return [e.Message];
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
