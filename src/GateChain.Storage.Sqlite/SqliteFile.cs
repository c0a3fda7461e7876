using Dapper;
using DbUp;
using GateChain.Storage.Sql;
using Microsoft.Data.Sqlite;

namespace GateChain.Storage.Sqlite;

/// <summary>The database file: how it is opened, and that its schema is current.</summary>
public sealed class SqliteFile
{
    readonly string _connectionString;

    /// <summary>Names the file; nothing is opened.</summary>
    /// <param name="path">Its path.</param>
    public SqliteFile(string path)
    {
        Path = path;
        _connectionString = new SqliteConnectionStringBuilder { DataSource = path, DefaultTimeout = 10 }.ToString();
    }

    /// <summary>The path of the file.</summary>
    public string Path { get; }

    /// <summary>For tests: the most pages the file may have, as if the disk were full behind them.</summary>
    internal int? MaxPages { get; set; }

    /// <summary>Creates the file or brings its schema up to date.</summary>
    /// <exception cref="StorageException">The file can't be opened or is from a newer version.</exception>
    public void Prepare()
    {
        try
        {
            using (var connection = new SqliteConnection(_connectionString))
            {
                connection.Open();
                Execute(connection, "PRAGMA page_size = 16384; PRAGMA journal_mode = WAL;");
                RefuseNewer(connection);
            }
            var result = DeployChanges
                .To.SqliteDatabase(_connectionString)
                .WithScriptsEmbeddedInAssembly(typeof(SqliteFile).Assembly)
                .WithTransactionPerScript()
                .LogToNowhere()
                .Build()
                .PerformUpgrade();
            SchemaVersions.Hold(result.Successful, result.Error, Path);
        }
        catch (SqliteException e)
        {
            throw new StorageException($"the database {Path} can't be opened: {e.Message}", e);
        }
    }

    void RefuseNewer(SqliteConnection connection)
    {
        if (connection.ExecuteScalar<long>("SELECT count(*) FROM sqlite_master WHERE name = 'SchemaVersions'") == 0)
            return;
        SchemaVersions.RefuseNewer(
            connection.Query<string>("SELECT ScriptName FROM SchemaVersions ORDER BY ScriptName"),
            typeof(SqliteFile).Assembly,
            Path
        );
    }

    /// <summary>A connection of its own, with the pragmas that durability asks for.</summary>
    internal SqliteConnection Open()
    {
        var connection = new SqliteConnection(_connectionString);
        connection.Open();
        Execute(
            connection,
            "PRAGMA busy_timeout = 1000; PRAGMA synchronous = FULL; PRAGMA foreign_keys = ON; "
                + "PRAGMA wal_autocheckpoint = 8000; PRAGMA cache_size = -32000; PRAGMA temp_store = MEMORY;"
        );
        if (MaxPages is { } most)
            Execute(connection, $"PRAGMA max_page_count = {most}");
        return connection;
    }

    internal static void Execute(SqliteConnection connection, string sql)
    {
        using var command = connection.CreateCommand();
        command.CommandText = sql;
        command.ExecuteNonQuery();
    }
}
