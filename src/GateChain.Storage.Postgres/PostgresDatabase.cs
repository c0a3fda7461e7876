using System.Data.Common;
using Dapper;
using GateChain.Storage.Sql;
using Npgsql;

namespace GateChain.Storage.Postgres;

/// <summary>The database as the stores on it use it. Thread-safe.</summary>
sealed class PostgresDatabase : ISqlDatabase, IAsyncDisposable
{
    const int MostTries = 10,
        MostConnections = 20,
        PreparedStatements = 30;

    readonly NpgsqlDataSource _source;

    // One write of this service at a time, as with a file: they seldom meet those of others.
    readonly SemaphoreSlim _writing = new(1, 1);

    readonly RunNumbers _numbers;

    PostgresDatabase(NpgsqlDataSource source, string connectionString, string? node)
    {
        (_source, ConnectionString, _numbers) = (source, connectionString, new(this));
        Node = node ?? "";
    }

    /// <exception cref="StorageException">It is no way to reach a database.</exception>
    public static PostgresDatabase Of(string connection, string? node = null)
    {
        try
        {
            var options = new NpgsqlConnectionStringBuilder(connection) { ApplicationName = "gatechain" };
            // Who has died in the middle of a transaction holds nobody up.
            options.Options ??= "-c idle_in_transaction_session_timeout=10000";
            // A server lets a hundred in, and there are others: who finds none free waits for a moment.
            if (options.MaxPoolSize == new NpgsqlConnectionStringBuilder().MaxPoolSize)
                options.MaxPoolSize = MostConnections;
            // The same few statements again and again: the server plans them once.
            if (options.MaxAutoPrepare == 0)
                options.MaxAutoPrepare = PreparedStatements;
            var text = options.ConnectionString;
            return new(new NpgsqlDataSourceBuilder(text).Build(), text, node);
        }
        catch (Exception e) when (e is ArgumentException or FormatException)
        {
            throw new StorageException($"that is no way to reach a PostgreSQL database: {e.Message}", e);
        }
    }

    /// <summary>How it is reached.</summary>
    public string ConnectionString { get; }

    /// <summary>The service that works with it, among others; empty for one that has it alone.</summary>
    public string Node { get; }

    public SqlWords Words { get; } = new PostgresWords();

    public IUnflushedRuns Unflushed { get; } = new None();

    public OutboxCursors Cursors { get; } = new();

    public async ValueTask<T> ReadAsync<T>(Func<DbConnection, Task<T>> read)
    {
        for (var again = false; ; again = true)
        {
            try
            {
                await using var connection = await ConnectAsync().ConfigureAwait(false);
                return await read(connection).ConfigureAwait(false);
            }
            // Connections that were kept from before an end of the database are of no use: none of them stays.
            catch (NpgsqlException e) when (!again && IsGone(e))
            {
                _source.Clear();
            }
            catch (NpgsqlException e)
            {
                throw new NotReadException($"it could not be read: {Sentence(e)}", e);
            }
        }
    }

    static bool IsGone(NpgsqlException e) =>
        e is not PostgresException p || p.SqlState.StartsWith("57P", StringComparison.Ordinal);

    /// <summary>From here on runs of this service can be claimed by others.</summary>
    public Task OpenClaimsAsync() =>
        WriteAsync(connection =>
            connection.ExecuteAsync("INSERT INTO claims (owner) VALUES (@Node) ON CONFLICT DO NOTHING", new { Node })
        );

    /// <summary>A connection, to be disposed of by who asked.</summary>
    /// <exception cref="NpgsqlException">It can't be reached.</exception>
    public ValueTask<NpgsqlConnection> ConnectAsync() => _source.OpenConnectionAsync();

    /// <summary>Closes connections that are kept: after trouble nobody knows which of them still work.</summary>
    public void Clear() => _source.Clear();

    public ValueTask<long> NextRunAsync() => new(_numbers.NextAsync());

    // Each in a transaction of its own: seldom is there anything, and a look costs little.
    public async ValueTask GivePlacesAsync()
    {
        const string isThere = "SELECT EXISTS (SELECT 1 FROM outbox_aside) OR EXISTS (SELECT 1 FROM audit_aside)";
        await ReadAsync(async connection =>
            {
                if (await connection.ExecuteScalarAsync<bool>(isThere).ConfigureAwait(false))
                    await connection.ExecuteAsync("SELECT give_places()").ConfigureAwait(false);
                return true;
            })
            .ConfigureAwait(false);
    }

    public async Task WriteAsync(Func<DbConnection, Task> write, bool sortIn = false)
    {
        await _writing.WaitAsync().ConfigureAwait(false);
        try
        {
            for (var i = 1; ; i++)
            {
                try
                {
                    await using var connection = await _source.OpenConnectionAsync().ConfigureAwait(false);
                    await using var transaction = await connection.BeginTransactionAsync().ConfigureAwait(false);
                    await write(connection).ConfigureAwait(false);
                    await transaction.CommitAsync().ConfigureAwait(false);
                    return;
                }
                // Another service has written the same meanwhile: what it wrote is seen now.
                catch (PostgresException e) when (CameBetween(e) && i < MostTries)
                {
                    await Task.Delay(Random.Shared.Next(5, 20 * i)).ConfigureAwait(false);
                }
            }
        }
        catch (NpgsqlException e)
        {
            _source.Clear();
            throw new StorageException($"it could not be stored: {Sentence(e)}", e);
        }
        finally
        {
            _writing.Release();
        }
    }

    /// <summary>Whether a transaction failed for what another one did, and may be done again.</summary>
    public static bool CameBetween(PostgresException e) =>
        e.SqlState
            is PostgresErrorCodes.UniqueViolation
                or PostgresErrorCodes.SerializationFailure
                or PostgresErrorCodes.DeadlockDetected;

    /// <summary>What keeps the database from it, in a sentence.</summary>
    public static string Sentence(Exception e) =>
        e switch
        {
            PostgresException { SqlState: PostgresErrorCodes.DiskFull } => "the disk of the database is full",
            PostgresException { SqlState: PostgresErrorCodes.ReadOnlySqlTransaction } =>
                "the database can't be written: it is read-only",
            // It ends, or has just begun.
            PostgresException p when p.SqlState.StartsWith("57P", StringComparison.Ordinal) =>
                $"the database can't be reached: {p.MessageText}",
            PostgresException p => p.MessageText,
            NpgsqlException => $"the database can't be reached: {e.Message}",
            _ => $"the database can't be read or written: {e.Message}",
        };

    public async ValueTask DisposeAsync()
    {
        await _source.DisposeAsync().ConfigureAwait(false);
        _writing.Dispose();
    }

    // What is written stands in its table at once.
    sealed class None : IUnflushedRuns
    {
        public StoredRun? Find(long run) => null;

        public IReadOnlyCollection<StoredRun> All => [];
    }

    sealed class PostgresWords : SqlWords
    {
        public override string Texts(string parameter) =>
            $"SELECT value FROM jsonb_array_elements_text({parameter}::jsonb) AS items (value)";

        public override string Numbers(string parameter) =>
            $"SELECT value::bigint AS value FROM jsonb_array_elements_text({parameter}::jsonb) AS items (value)";

        public override string Like => "ILIKE";

        public override string LastPosition =>
            "SELECT coalesce(pg_sequence_last_value(pg_get_serial_sequence('outbox', 'position')::regclass), 0)";

        static readonly (string Table, string Column)[] Numbered =
        [
            ("audit", "number"),
            ("fires", "number"),
            ("backfills", "number"),
            ("history_shapes", "id"),
        ];

        public override string ContinueNumbers =>
            string.Join(
                ";\n",
                Numbered
                    .Select(c => Continue($"pg_get_serial_sequence('{c.Table}', '{c.Column}')", c.Table, c.Column))
                    .Append(Continue("'run_numbers'", "runs", "id"))
                    .Append(
                        "SELECT setval(pg_get_serial_sequence('outbox', 'position'), @position) WHERE @position > 0"
                    )
            );

        static string Continue(string sequence, string table, string column) =>
            $"SELECT setval({sequence}, max({column})) FROM {table} HAVING max({column}) > 0";

        public override string Unindexed(string column) => column;

        public override string Decisions => "SELECT run, seq, body FROM journal ORDER BY run, seq";

        public override string Room =>
            """
                SELECT relname AS what, pg_total_relation_size(oid) AS bytes FROM pg_class
                WHERE relkind = 'r' AND relnamespace = current_schema()::regnamespace
                UNION ALL SELECT 'database', pg_database_size(current_database())
                """;
    }
}
