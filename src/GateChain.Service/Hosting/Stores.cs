using GateChain.Engine.Basics;
using GateChain.Storage;
using GateChain.Storage.Postgres;
using GateChain.Storage.Sql;
using GateChain.Storage.Sqlite;

namespace GateChain.Service.Hosting;

/// <summary>Opens what a service keeps its data in: the file of its data folder, or a PostgreSQL database.</summary>
public static class Stores
{
    /// <summary>The environment variable that says how the database is reached, where the command line does not.
    /// </summary>
    public const string Variable = "GATECHAIN_DATABASE";

    /// <summary>Opens it; no other service may work with it, but those that share it.</summary>
    /// <param name="folders">The data folder: beside the database it has the logs and keys.</param>
    /// <param name="database">How a PostgreSQL database is reached; null for the file of the data folder.</param>
    /// <param name="node">The id of a service that shares it with others; null for one that has it alone.</param>
    /// <exception cref="StorageException">It can't be opened, or another service works with it.</exception>
    internal static async Task<SqlStore> OpenAsync(EngineOptions folders, string? database, string? node = null)
    {
        // Runs of a new database would get the numbers, and so the logs, of those that were lost.
        var hasLogs = Directory.Exists(folders.Logs) && Directory.EnumerateDirectories(folders.Logs).Any();
        if (database is null)
            return hasLogs && !File.Exists(folders.Database) ? throw Lost(folders) : new SqliteStore(folders.Database);
        var store = await PostgresStore.OpenAsync(
            database,
            alone: node is null,
            node: node,
            waits: Console.Error.WriteLine
        );
        if (!hasLogs || (await store.Runs.ListAsync(new(Limit: 1))).Count > 0)
            return store;
        await store.DisposeAsync();
        throw Lost(folders);
    }

    static StorageException Lost(EngineOptions folders) =>
        new(
            $"the data folder {folders.DataFolder} has logs of runs, and its database is not there or is empty: put it "
                + "back; to start over, take another folder",
            new FileNotFoundException()
        );

    /// <summary>
    /// Takes everything from one place to the other while no service works with either of them. The source stays.
    /// </summary>
    /// <param name="from">A data folder, or how a PostgreSQL database is reached.</param>
    /// <param name="to">The same; has to be empty.</param>
    /// <param name="told">Is told what was copied.</param>
    /// <param name="cancel">Gives up; nothing is in the target then.</param>
    /// <exception cref="StorageException">One of them can't be opened, or a service works with it, or the target is not
    /// empty.</exception>
    public static async Task MoveAsync(string from, string to, Action<Moved> told, CancellationToken cancel)
    {
        await using var source = await PlaceAsync(from, isThere: true);
        await using var target = await PlaceAsync(to, isThere: false);
        await StoreMove.CopyAsync(source.Store, target.Store, told, cancel);
    }

    /// <summary>Copies all that is in a PostgreSQL database now into a file, whoever works with it.</summary>
    /// <param name="database">How it is reached.</param>
    /// <param name="file">The SQLite file to make.</param>
    /// <param name="cancel">Gives up.</param>
    /// <exception cref="StorageException">It can't be read, or the file can't be written.</exception>
    internal static async Task CopyAsync(string database, string file, CancellationToken cancel)
    {
        await using var source = await PostgresStore.OpenAsync(database);
        await using var target = new SqliteStore(file);
        await StoreMove.CopyAsync(source, target, _ => { }, cancel);
    }

    sealed record Place(SqlStore Store, IAsyncDisposable? Lock) : IAsyncDisposable
    {
        public async ValueTask DisposeAsync()
        {
            await Store.DisposeAsync();
            if (Lock is not null)
                await Lock.DisposeAsync();
        }
    }

    // What says how a database is reached has keys and values.
    static async Task<Place> PlaceAsync(string place, bool isThere)
    {
        if (place.Contains('=', StringComparison.Ordinal))
            return new(await PostgresStore.OpenAsync(place, alone: true), null);
        var file = new EngineOptions(Path.GetFullPath(place), ".").Database;
        if (isThere && !File.Exists(file))
            throw new StorageException($"there is no database in {place}", null);
        var dataLock = GateChainService.Lock(Path.GetFullPath(place));
        try
        {
            return new(new SqliteStore(file), dataLock);
        }
        catch
        {
            await dataLock.DisposeAsync();
            throw;
        }
    }
}
