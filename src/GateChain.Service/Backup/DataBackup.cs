using GateChain.Engine.Basics;
using GateChain.Engine.Triggers;
using GateChain.Service.Access;
using GateChain.Service.Hosting;
using GateChain.Storage;
using GateChain.Storage.Sqlite;

namespace GateChain.Service.Backup;

/// <summary>What goes into a backup, beside the database.</summary>
/// <param name="Keys">The keys of secrets: without them nobody can use the secrets that are restored.</param>
/// <param name="Logs">The logs of attempts, and of the service.</param>
public sealed record BackupContent(bool Keys, bool Logs);

/// <summary>
/// Makes backups of a data folder, whether a service works on it or not, and restores them. All of the database is as
/// it was at one moment; files beside it are those of that moment or a little later.
/// </summary>
public static class DataBackup
{
    const string DatabaseName = "gatechain.db",
        KeysFolder = "keys/",
        LogsFolder = "logs/";

    // Never in a backup: the database is copied by itself, and who works on the folder is no matter.
    static bool IsOwn(string name) => name == "lock" || name.StartsWith(DatabaseName, StringComparison.Ordinal);

    /// <summary>Makes a backup.</summary>
    /// <param name="dataFolder">The data folder.</param>
    /// <param name="database">How the PostgreSQL database is reached; null for the file of the data folder.</param>
    /// <param name="file">The file to write; must not be there.</param>
    /// <param name="content">What goes into it.</param>
    /// <param name="version">The version of the program.</param>
    /// <param name="told">Is told what is done, in sentences.</param>
    /// <param name="cancel">Gives up; there is no file then.</param>
    /// <returns>The size of the file in bytes.</returns>
    /// <exception cref="StorageException">It can't be made; there is no file then.</exception>
    public static async Task<long> MakeAsync(
        string dataFolder,
        string? database,
        string file,
        BackupContent content,
        string version,
        Action<string> told,
        CancellationToken cancel
    )
    {
        var folder = new EngineOptions(Path.GetFullPath(dataFolder), ".");
        file = Path.GetFullPath(file);
        if (File.Exists(file))
            throw new StorageException($"{file} is there already", null);
        if (database is null && !File.Exists(folder.Database))
            throw new StorageException($"there is no database in {dataFolder}", null);
        var (part, copy) = ($"{file}.part", $"{file}.db");
        try
        {
            // What a copy that was cut off has left is nobody's.
            Remove(part, copy);
            var made = DateTimeOffset.UtcNow;
            told("the database is copied as it is at this moment");
            if (database is null)
                SqliteStore.Copy(folder.Database, copy);
            else
                await Stores.CopyAsync(database, copy, cancel);
            var about = new BackupAbout(
                1,
                version,
                made,
                database is null ? "file" : "postgresql",
                content.Keys,
                content.Logs
            );
            await using (var stream = Create(part))
            {
                await using (var archive = new BackupArchive.Writer(stream, about))
                {
                    told($"{await archive.AddAsync(copy, DatabaseName, cancel):N0} bytes of the database");
                    var (count, bytes) = (0, 0L);
                    foreach (var (path, name) in Files(folder.DataFolder, content))
                    {
                        try
                        {
                            bytes += await archive.AddAsync(path, name, cancel);
                            count++;
                        }
                        // Of a run that has ended meanwhile.
                        catch (Exception e) when (e is FileNotFoundException or DirectoryNotFoundException) { }
                    }
                    told($"{bytes:N0} bytes in {count:N0} {(count == 1 ? "file" : "files")} beside it");
                    await archive.EndAsync(cancel);
                }
            }
            Flush(part);
            File.Move(part, file);
            return new FileInfo(file).Length;
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            throw new StorageException($"the backup could not be made: {e.Message}", e);
        }
        finally
        {
            Remove(part, copy);
        }
    }

    // It holds what nobody else may read.
    static FileStream Create(string path) =>
        new(
            path,
            new FileStreamOptions
            {
                Mode = FileMode.Create,
                Access = FileAccess.Write,
                UnixCreateMode = UnixFileMode.UserRead | UnixFileMode.UserWrite,
            }
        );

    static void Flush(string path)
    {
        using var file = new FileStream(path, FileMode.Open, FileAccess.ReadWrite);
        file.Flush(flushToDisk: true);
    }

    static void Remove(params ReadOnlySpan<string> files)
    {
        foreach (var file in files)
        {
            foreach (var ending in (string[])["", "-wal", "-shm", "-journal"])
                File.Delete(file + ending);
        }
    }

    static IEnumerable<(string Path, string Name)> Files(string folder, BackupContent content) =>
        Directory
            .EnumerateFiles(
                folder,
                "*",
                new EnumerationOptions { RecurseSubdirectories = true, AttributesToSkip = FileAttributes.ReparsePoint }
            )
            .Select(path => (path, Name: Path.GetRelativePath(folder, path)))
            .Where(f =>
                !IsOwn(f.Name)
                && (content.Keys || !f.Name.StartsWith(KeysFolder, StringComparison.Ordinal))
                && (content.Logs || !IsLog(f.Name))
            );

    static bool IsLog(string name) =>
        name.StartsWith(LogsFolder, StringComparison.Ordinal)
        || System.IO.Enumeration.FileSystemName.MatchesSimpleExpression(AnchorFiles.Pattern, name);

    /// <summary>
    /// Restores a backup. The next service that works there holds all triggers, and lets runs wait that had not ended,
    /// until somebody says <c>gatechain hold off</c>.
    /// </summary>
    /// <param name="file">The backup.</param>
    /// <param name="dataFolder">The data folder; must not be there, or be empty.</param>
    /// <param name="database">How a PostgreSQL database is reached that gets what was in the database, and is empty;
    /// null for a file in the data folder.</param>
    /// <param name="told">Is told what is done, in sentences.</param>
    /// <param name="cancel">Gives up; there is no data folder then.</param>
    /// <exception cref="StorageException">It can't be restored; there is no data folder then.</exception>
    public static async Task<BackupAbout> RestoreAsync(
        string file,
        string dataFolder,
        string? database,
        Action<string> told,
        CancellationToken cancel
    )
    {
        dataFolder = Path.GetFullPath(dataFolder).TrimEnd('/');
        if (Directory.Exists(dataFolder) && Directory.EnumerateFileSystemEntries(dataFolder).Any())
            throw new StorageException($"{dataFolder} is not empty", null);
        var making = $"{dataFolder}.restoring";
        try
        {
            // What a restore that was cut off has left is nobody's.
            if (Directory.Exists(making))
                Directory.Delete(making, recursive: true);
            const UnixFileMode own = UnixFileMode.UserRead | UnixFileMode.UserWrite | UnixFileMode.UserExecute;
            Directory.CreateDirectory(making, own);
            var about = await BackupArchive.ReadAsync(
                file,
                name =>
                {
                    var path = Path.Combine(making, name);
                    Directory.CreateDirectory(Path.GetDirectoryName(path)!);
                    return Create(path);
                },
                cancel
            );
            told($"everything is as it was at {about.Made:yyyy-MM-dd HH:mm:ss} UTC");
            var copy = Path.Combine(making, DatabaseName);
            if (!File.Exists(copy))
                throw new StorageException($"{file} has no database", null);
            await using (var store = new SqliteStore(copy))
            {
                await store.Triggers.SetPlaceAsync(MovedFolder.Nowhere);
            }
            if (database is not null)
            {
                await Stores.MoveAsync(making, database, _ => { }, cancel);
                Remove(copy);
                told("the database is in PostgreSQL");
            }
            if (Directory.Exists(dataFolder))
                Directory.Delete(dataFolder);
            Directory.Move(making, dataFolder);
            return about;
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            throw new StorageException($"the backup could not be restored: {e.Message}", e);
        }
        finally
        {
            if (Directory.Exists(making))
                Directory.Delete(making, recursive: true);
        }
    }
}
