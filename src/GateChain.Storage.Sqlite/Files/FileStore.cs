using Dapper;
using Microsoft.Data.Sqlite;

namespace GateChain.Storage.Sqlite;

/// <summary>The workspace's files in the database file. Thread-safe.</summary>
sealed class FileStore(SqliteFile file, SqliteWriter writer) : IFileStore
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

    public ValueTask<WorkspaceFile?> FindAsync(string path)
    {
        using var connection = file.Open();
        return new(Latest(connection, path) is { Content: not null } found ? found : null);
    }

    static WorkspaceFile? Latest(SqliteConnection connection, string path) =>
        connection
            .QueryFirstOrDefault<Row>(
                "SELECT * FROM files WHERE path = @path ORDER BY version DESC LIMIT 1",
                new { path }
            )
            ?.ToFile();

    public ValueTask<IReadOnlyList<WorkspaceFile>> AllAsync()
    {
        using var connection = file.Open();
        return new([
            .. connection
                .Query<Row>(
                    """
                    SELECT f.* FROM files f JOIN (SELECT path, max(version) AS version FROM files GROUP BY path) l
                    USING (path, version) WHERE f.content IS NOT NULL ORDER BY path
                    """
                )
                .Select(r => r.ToFile()),
        ]);
    }

    public ValueTask<IReadOnlyList<WorkspaceFile>> HistoryAsync(string path)
    {
        using var connection = file.Open();
        return new([
            .. connection
                .Query<Row>("SELECT * FROM files WHERE path = @path ORDER BY version DESC", new { path })
                .Select(r => r.ToFile()),
        ]);
    }

    public async Task<WorkspaceFile?> SaveAsync(string path, long seen, string? content, AuditLine audit)
    {
        WorkspaceFile? saved = null;
        await writer
            .WriteAsync(connection =>
            {
                var last = Latest(connection, path);
                if ((last is { Content: not null } ? last.Version : 0) != seen)
                    throw new FileChangedException(path);
                saved = Put(connection, path, content, audit);
                if (saved != last)
                    AuditLog.Add(connection, audit);
            })
            .ConfigureAwait(false);
        return saved;
    }

    /// <summary>Makes a new version within a transaction that is continuing, unless it says the same.</summary>
    /// <returns>The newest version.</returns>
    internal static WorkspaceFile? Put(SqliteConnection connection, string path, string? content, AuditLine by)
    {
        var last = Latest(connection, path);
        if (last?.Content == content)
            return last;
        var saved = new WorkspaceFile(path, (last?.Version ?? 0) + 1, by.By.Name, by.At, content, by.Action);
        connection.Execute(
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
        );
        return saved;
    }
}
