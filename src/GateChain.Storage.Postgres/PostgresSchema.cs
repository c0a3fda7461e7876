using Dapper;
using DbUp;
using GateChain.Storage.Sql;
using Npgsql;

namespace GateChain.Storage.Postgres;

/// <summary>Brings the tables to what this version knows.</summary>
static class PostgresSchema
{
    // Services that start at once bring it up to date one after the other.
    const long Lock = 0x6761_7465_6368;

    /// <exception cref="StorageException">It can't be reached, or is from a newer version.</exception>
    public static void Prepare(string connectionString)
    {
        try
        {
            // Used once: no connection is kept for another time.
            connectionString = new NpgsqlConnectionStringBuilder(connectionString) { Pooling = false }.ConnectionString;
            using var connection = new NpgsqlConnection(connectionString);
            connection.Open();
            connection.Execute("SELECT pg_advisory_lock(@Lock)", new { Lock });
            try
            {
                RefuseNewer(connection);
                var result = DeployChanges
                    .To.PostgresqlDatabase(connectionString)
                    .WithScriptsEmbeddedInAssembly(typeof(PostgresSchema).Assembly)
                    .WithVariablesDisabled()
                    .WithTransactionPerScript()
                    .LogToNowhere()
                    .Build()
                    .PerformUpgrade();
                SchemaVersions.Hold(result.Successful, result.Error, "the database");
            }
            finally
            {
                connection.Execute("SELECT pg_advisory_unlock(@Lock)", new { Lock });
            }
        }
        catch (NpgsqlException e)
        {
            throw new StorageException($"the database can't be opened: {e.Message}", e);
        }
    }

    static void RefuseNewer(NpgsqlConnection connection)
    {
        if (connection.ExecuteScalar<string?>("SELECT to_regclass('schemaversions')::text") is null)
            return;
        SchemaVersions.RefuseNewer(
            connection.Query<string>("SELECT scriptname FROM schemaversions ORDER BY scriptname"),
            typeof(PostgresSchema).Assembly,
            connection.Database
        );
    }
}
