using Dapper;
using GateChain.Storage.Sql;
using Npgsql;

namespace GateChain.Storage.Postgres;

/// <summary>
/// Everything in one PostgreSQL database, 15 or later, which several services may share. Thread-safe.
/// </summary>
/// <remarks>Source: PostgreSQL documentation, explicit locking and COPY; Npgsql.</remarks>
public sealed class PostgresStore : SqlStore
{
    readonly PostgresDatabase _database;
    readonly JournalWriter _writer;
    readonly NpgsqlConnection? _alone;
    int _disposed;

    PostgresStore(PostgresDatabase database, JournalWriter writer, NpgsqlConnection? alone)
        : base(database, new PostgresJournal(database, writer)) =>
        (_database, _writer, _alone) = (database, writer, alone);

    /// <summary>Opens a database, and brings its schema up to date.</summary>
    /// <param name="connection">How it is reached, for example <c>Host=db;Database=gatechain;Username=gatechain</c>.
    /// </param>
    /// <param name="time">The clock; the system's when null.</param>
    /// <param name="alone">Whether it is refused when another service that wants it alone has it open.</param>
    /// <exception cref="StorageException">It can't be reached, is from a newer version, or another service has it.
    /// </exception>
    public static async Task<PostgresStore> OpenAsync(string connection, TimeProvider? time = null, bool alone = false)
    {
        var database = PostgresDatabase.Of(connection);
        NpgsqlConnection? held = null;
        try
        {
            await Task.Run(() => PostgresSchema.Prepare(database.ConnectionString)).ConfigureAwait(false);
            if (alone)
                held = await HoldAsync(database).ConfigureAwait(false);
            return new(database, new(database, time ?? TimeProvider.System), held);
        }
        catch
        {
            if (held is not null)
                await held.DisposeAsync().ConfigureAwait(false);
            await database.DisposeAsync().ConfigureAwait(false);
            throw;
        }
    }

    // As long as this connection is open, no other service gets the same.
    static async Task<NpgsqlConnection> HoldAsync(PostgresDatabase database)
    {
        // Not from those that are kept: it lives as long as the store.
        var connection = new NpgsqlConnection(
            new NpgsqlConnectionStringBuilder(database.ConnectionString) { Pooling = false }.ConnectionString
        );
        await connection.OpenAsync().ConfigureAwait(false);
        if (
            await connection
                .ExecuteScalarAsync<bool>("SELECT pg_try_advisory_lock('runs'::regclass::oid::bigint)")
                .ConfigureAwait(false)
        )
        {
            return connection;
        }
        await connection.DisposeAsync().ConfigureAwait(false);
        throw new StorageException("another service works with this database: end it first", null);
    }

    /// <summary>Writes what was handed over, and closes the connections.</summary>
    public override async ValueTask DisposeAsync()
    {
        if (Interlocked.Exchange(ref _disposed, 1) != 0)
            return;
        await _writer.DisposeAsync().ConfigureAwait(false);
        if (_alone is not null)
            await _alone.DisposeAsync().ConfigureAwait(false);
        await _database.DisposeAsync().ConfigureAwait(false);
    }
}
