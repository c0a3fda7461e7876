using GateChain.Storage.Postgres;
using GateChain.Storage.Sql;
using GateChain.Storage.Sqlite;
using Npgsql;

[assembly: AssemblyFixture(typeof(GateChain.Engine.Tests.TestStore))]

namespace GateChain.Engine.Tests;

/// <summary>
/// The store that the tests run on: a file each, or with <c>GATECHAIN_TEST_STORE=postgres</c> a database each on a
/// server that they share.
/// </summary>
public sealed class TestStore : IDisposable
{
    static readonly Lazy<PostgreSqlServer> Server = new(() => PostgreSqlServer.Start());

    internal static bool IsPostgres { get; } = Environment.GetEnvironmentVariable("GATECHAIN_TEST_STORE") == "postgres";

    /// <summary>What a test asks of a database that only a file can do.</summary>
    internal static void NeedsFile() => Assert.SkipWhen(IsPostgres, "it damages, fills or locks the database file");

    /// <summary>Opens the store of a folder, as often as somebody asks.</summary>
    /// <param name="folder">A folder of the test's own.</param>
    internal static SqlStore Open(TempFolder folder)
    {
        if (!IsPostgres)
            return new SqliteStore(folder["data.db"]);
        var name = folder["database"];
        if (!File.Exists(name))
        {
            File.WriteAllText(name, $"t{Guid.NewGuid():N}");
            using var connection = new NpgsqlConnection(To("larkmoor") + ";Pooling=False");
            connection.Open();
            using var command = new NpgsqlCommand($"CREATE DATABASE {File.ReadAllText(name)}", connection);
            command.ExecuteNonQuery();
        }
        return PostgresStore.OpenAsync(To(File.ReadAllText(name))).GetAwaiter().GetResult();
    }

    static string To(string database) => Server.Value.To(database) + ";Maximum Pool Size=6";

    public void Dispose()
    {
        if (Server.IsValueCreated)
            Server.Value.Dispose();
    }
}
