using System.Data.Common;
using Dapper;

namespace GateChain.Storage.Sql;

/// <summary>The workspace's files in the database file. Thread-safe.</summary>
sealed class FileStore(ISqlDatabase database) : IFileStore
{
    sealed class Row
    {
        public string Path { get; set; } = "";
        public long Version { get; set; }
        public string Author { get; set; } = "";
        public string At { get; set; } = "";
        public string? Content { get; set; }
        public string? Action { get; set; }

        public WorkspaceFile ToFile() => new(Path, Version, Author, Times.Of(At), Content, Action);
    }

    public async ValueTask<WorkspaceFile?> FindAsync(string path)
    {
        return await database
            .ReadAsync<WorkspaceFile?>(async connection =>
            {
                return await LatestAsync(connection, path).ConfigureAwait(false) is { Content: not null } found
                    ? found
                    : null;
            })
            .ConfigureAwait(false);
    }

    static async Task<WorkspaceFile?> LatestAsync(DbConnection connection, string path) =>
        connection
            .QueryFirstOrDefault<Row>(
                "SELECT * FROM files WHERE path = @path ORDER BY version DESC LIMIT 1",
                new { path }
            )
            ?.ToFile();

    public async ValueTask<IReadOnlyList<WorkspaceFile>> AllAsync()
    {
        return await database
            .ReadAsync<IReadOnlyList<WorkspaceFile>>(async connection =>
            {
                return
                [
                    .. (
                        await connection
                            .QueryAsync<Row>(
                                """
                                SELECT f.* FROM files f JOIN (SELECT path, max(version) AS version FROM files GROUP BY path) l
                                USING (path, version) WHERE f.content IS NOT NULL ORDER BY path
                                """
                            )
                            .ConfigureAwait(false)
                    ).Select(r => r.ToFile()),
                ];
            })
            .ConfigureAwait(false);
    }

    public async ValueTask<IReadOnlyList<WorkspaceFile>> HistoryAsync(string path)
    {
        return await database
            .ReadAsync<IReadOnlyList<WorkspaceFile>>(async connection =>
            {
                return
                [
                    .. (
                        await connection
                            .QueryAsync<Row>(
                                "SELECT * FROM files WHERE path = @path ORDER BY version DESC",
                                new { path }
                            )
                            .ConfigureAwait(false)
                    ).Select(r => r.ToFile()),
                ];
            })
            .ConfigureAwait(false);
    }

    public async Task<WorkspaceFile?> SaveAsync(string path, long seen, string? content, AuditLine audit)
    {
        WorkspaceFile? saved = null;
        await database
            .WriteAsync(async connection =>
            {
                var last = await LatestAsync(connection, path).ConfigureAwait(false);
                if ((last is { Content: not null } ? last.Version : 0) != seen)
                    throw new FileChangedException(path);
                saved = await PutAsync(connection, path, content, audit).ConfigureAwait(false);
                if (saved != last)
                    await AuditLog.AddAsync(connection, audit).ConfigureAwait(false);
            })
            .ConfigureAwait(false);
        return saved;
    }

    /// <summary>Makes a new version within a transaction that is continuing, unless it says the same.</summary>
    /// <returns>The newest version.</returns>
    internal static async Task<WorkspaceFile?> PutAsync(
        DbConnection connection,
        string path,
        string? content,
        AuditLine by
    )
    {
        var last = await LatestAsync(connection, path).ConfigureAwait(false);
        if (last?.Content == content)
            return last;
        var saved = new WorkspaceFile(path, (last?.Version ?? 0) + 1, by.By.Name, by.At, content, by.Action);
        await connection
            .ExecuteAsync(
                "INSERT INTO files (path, version, author, at, content, action) "
                    + "VALUES (@Path, @Version, @Author, @at, @Content, @Action)",
                new
                {
                    saved.Path,
                    saved.Version,
                    saved.Author,
                    at = Times.Text(saved.At),
                    saved.Content,
                    saved.Action,
                }
            )
            .ConfigureAwait(false);
        return saved;
    }
}
