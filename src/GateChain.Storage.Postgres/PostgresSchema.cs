using Dapper;
using DbUp;
using DbUp.Engine;
using DbUp.ScriptProviders;
using GateChain.Storage.Sql;
using Npgsql;

namespace GateChain.Storage.Postgres;

/// <summary>
/// Brings the tables to what this version knows. A change adds what older services on the same database need not know;
/// one that they can't live with is a script <c>….alone.sql</c>, and waits until the last of them is gone.
/// </summary>
static class PostgresSchema
{
    // Services that start at once bring it up to date one after the other.
    const long Lock = 0x6761_7465_6368;

    const string Alone = ".alone.sql";

    /// <param name="connectionString">How it is reached.</param>
    /// <param name="waits">Told, once, that it waits for older services to end.</param>
    /// <exception cref="StorageException">It can't be reached, or is from a newer version.</exception>
    public static void Prepare(string connectionString, Action<string>? waits = null) =>
        Prepare(
            connectionString,
            new EmbeddedScriptProvider(typeof(PostgresSchema).Assembly, name =>
                name.EndsWith(".sql", StringComparison.Ordinal)
            ),
            waits
        );

    /// <inheritdoc cref="Prepare(string, Action{string}?)"/>
    internal static void Prepare(string connectionString, IScriptProvider scripts, Action<string>? waits)
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
                var upgrade = DeployChanges
                    .To.PostgresqlDatabase(connectionString)
                    .WithScripts(scripts)
                    .WithVariablesDisabled()
                    .WithTransactionPerScript()
                    .LogToNowhere()
                    .Build();
                if (upgrade.GetScriptsToExecute().Any(s => s.Name.EndsWith(Alone, StringComparison.Ordinal)))
                    AwaitOthers(connection, waits);
                var result = upgrade.PerformUpgrade();
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

    // Each service has this lock as long as it is there, or shares it with others.
    static void AwaitOthers(NpgsqlConnection connection, Action<string>? waits)
    {
        if (connection.ExecuteScalar<string?>("SELECT to_regclass('runs')::text") is null)
            return;
        while (!connection.ExecuteScalar<bool>("SELECT pg_try_advisory_lock('runs'::regclass::oid::bigint)"))
        {
            waits?.Invoke(
                "This version changes the database so that older ones can't work with it: it waits until the services "
                    + "that do have ended"
            );
            waits = null;
            Thread.Sleep(500);
        }
        // It ends with the connection.
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
