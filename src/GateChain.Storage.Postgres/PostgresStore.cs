using Dapper;
using GateChain.Storage.Sql;
using Npgsql;

namespace GateChain.Storage.Postgres;

/// <summary>
/// Everything in one PostgreSQL database, 15 or later, which several services may share. Thread-safe.
/// </summary>
/// <remarks>Source: PostgreSQL documentation, explicit locking and COPY; Npgsql.</remarks>
public sealed class PostgresStore : SqlStore, ISharedStore
{
    readonly PostgresDatabase _database;
    readonly JournalWriter _writer;
    readonly NpgsqlConnection? _alone;
    int _disposed;

    PostgresStore(PostgresDatabase database, JournalWriter writer, NpgsqlConnection? alone)
        : base(database, new PostgresJournal(database, writer), runs => new PostgresOwnership(database, runs)) =>
        (_database, _writer, _alone, Nodes, Members) = (
            database,
            writer,
            alone,
            new Nodes(database),
            new Members(database)
        );

    /// <inheritdoc/>
    public INodes Nodes { get; }

    /// <inheritdoc/>
    public IMembers Members { get; }

    /// <inheritdoc/>
    public IChangeFollowing Follow(Func<IReadOnlyCollection<StoredPart>, Task> changed) =>
        new ChangeListener(_database, changed);

    /// <inheritdoc/>
    public async Task<IAsyncDisposable> HoldAsync(string name)
    {
        try
        {
            // As long as its connection is open; one that is cut lets go.
            var connection = await _database.ConnectAsync().ConfigureAwait(false);
            try
            {
                await connection
                    .ExecuteAsync("SELECT pg_advisory_lock(hashtextextended(@name, 0))", new { name })
                    .ConfigureAwait(false);
                return new Hold(connection, name);
            }
            catch
            {
                await connection.DisposeAsync().ConfigureAwait(false);
                throw;
            }
        }
        catch (NpgsqlException e)
        {
            throw new StorageException($"it could not be stored: {PostgresDatabase.Sentence(e)}", e);
        }
    }

    sealed class Hold(NpgsqlConnection connection, string name) : IAsyncDisposable
    {
        public async ValueTask DisposeAsync()
        {
            await using (connection)
            {
                try
                {
                    await connection
                        .ExecuteAsync("SELECT pg_advisory_unlock(hashtextextended(@name, 0))", new { name })
                        .ConfigureAwait(false);
                }
                catch (NpgsqlException)
                {
                    // With the connection the lock is gone, too.
                }
            }
        }
    }

    /// <summary>Opens a database, and brings its schema up to date.</summary>
    /// <param name="connection">How it is reached, for example <c>Host=db;Database=gatechain;Username=gatechain</c>.
    /// </param>
    /// <param name="time">The clock; the system's when null.</param>
    /// <param name="alone">Whether it is refused when another service has it open, which is kept from it as long as
    /// this one has.</param>
    /// <param name="node">The name of a service that shares it with others; null for one that does not.</param>
    /// <param name="waits">Told what it waits for, when older services have to end first.</param>
    /// <exception cref="StorageException">It can't be reached, is from a newer version, or another service has it.
    /// </exception>
    public static async Task<PostgresStore> OpenAsync(
        string connection,
        TimeProvider? time = null,
        bool alone = false,
        string? node = null,
        Action<string>? waits = null
    )
    {
        var database = PostgresDatabase.Of(connection, node);
        NpgsqlConnection? held = null;
        try
        {
            await Task.Run(() => PostgresSchema.Prepare(database.ConnectionString, waits)).ConfigureAwait(false);
            await database.OpenClaimsAsync().ConfigureAwait(false);
            if (alone || node is not null)
                held = await HoldAsync(database, alone).ConfigureAwait(false);
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
    static async Task<NpgsqlConnection> HoldAsync(PostgresDatabase database, bool alone)
    {
        // Not from those that are kept: it lives as long as the store.
        var connection = new NpgsqlConnection(
            new NpgsqlConnectionStringBuilder(database.ConnectionString) { Pooling = false }.ConnectionString
        );
        await connection.OpenAsync().ConfigureAwait(false);
        if (
            await connection
                .ExecuteScalarAsync<bool>(
                    $"SELECT pg_try_advisory_lock{(alone ? "" : "_shared")}('runs'::regclass::oid::bigint)"
                )
                .ConfigureAwait(false)
        )
        {
            return connection;
        }
        await connection.DisposeAsync().ConfigureAwait(false);
        throw new StorageException(
            alone
                ? "another service works with this database: end it first, or have both share it (--join)"
                : "a service works with this database that does not share it: end it first, and start it with --join",
            null
        );
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
