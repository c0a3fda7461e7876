using GateChain.Storage.Postgres;
using GateChain.Storage.Tests.Contract;
using Npgsql;

[assembly: AssemblyFixture(typeof(GateChain.Storage.Tests.Postgres.PostgresServer))]

namespace GateChain.Storage.Tests.Postgres;

/// <summary>The server that the tests share; started when the first one asks for it.</summary>
public sealed class PostgresServer : IDisposable
{
    static readonly Lazy<PostgreSqlServer> Server = new(() => PostgreSqlServer.Start());

    /// <summary>How a database of the server is reached.</summary>
    internal static string To(string database) => Server.Value.To(database) + ";Maximum Pool Size=10";

    /// <summary>Makes a database of its own.</summary>
    internal static async Task<string> NewAsync()
    {
        var name = $"t{Guid.NewGuid():N}";
        await using var connection = new NpgsqlConnection(To("larkmoor"));
        await connection.OpenAsync();
        await using var command = new NpgsqlCommand($"CREATE DATABASE {name}", connection);
        await command.ExecuteNonQueryAsync();
        return To(name);
    }

    public void Dispose()
    {
        if (Server.IsValueCreated)
            Server.Value.Dispose();
    }
}

/// <summary>A database of its own.</summary>
sealed class PostgresPlace : IStorePlace
{
    readonly Lazy<Task<string>> _database = new(PostgresServer.NewAsync);

    public Task<string> ConnectionAsync => _database.Value;

    public async Task<IStore> OpenAsync() => await PostgresStore.OpenAsync(await _database.Value);

    public ValueTask DisposeAsync() => default;
}

public sealed class PostgresJournalTests() : JournalContract(new PostgresPlace());

public sealed class PostgresOutboxTests() : OutboxContract(new PostgresPlace());

public sealed class PostgresRunListTests() : RunListContract(new PostgresPlace());

public sealed class PostgresCatalogueTests() : CatalogueContract(new PostgresPlace());

public sealed class PostgresDraftsTests() : DraftsContract(new PostgresPlace());

public sealed class PostgresAccessTests() : AccessContract(new PostgresPlace());

public sealed class PostgresFilesTests() : FilesContract(new PostgresPlace());

public sealed class PostgresTriggersTests() : TriggersContract(new PostgresPlace());

public sealed class PostgresHistoryTests() : HistoryContract(new PostgresPlace());

public sealed class PostgresRetentionTests() : RetentionContract(new PostgresPlace());
