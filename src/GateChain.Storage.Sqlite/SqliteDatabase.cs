using System.Data.Common;
using Dapper;
using GateChain.Storage.Sql;

namespace GateChain.Storage.Sqlite;

/// <summary>The database file as the stores on it use it. SQLite does not wait: every task has ended. Thread-safe.
/// </summary>
sealed class SqliteDatabase : ISqlDatabase
{
    readonly SqliteFile _file;
    readonly SqliteWriter _writer;
    long _lastRun;

    /// <exception cref="StorageException">What an earlier process left in the journal's tail can't be sorted
    /// in.</exception>
    public SqliteDatabase(SqliteFile file, SqliteWriter writer)
    {
        (_file, _writer) = (file, writer);
        _writer
            .WriteAsync(c => _lastRun = c.ExecuteScalar<long>("SELECT coalesce(max(id), 0) FROM runs"), sortIn: true)
            .GetAwaiter()
            .GetResult();
    }

    public SqlWords Words { get; } = new SqliteWords();

    public async ValueTask<T> ReadAsync<T>(Func<DbConnection, Task<T>> read)
    {
        await using var connection = _file.Open();
        return await read(connection).ConfigureAwait(false);
    }

    public Task WriteAsync(Func<DbConnection, Task> write, bool sortIn = false) =>
        _writer.WriteAsync(connection => SqliteWriter.Finish(write(connection)), sortIn);

    public ValueTask<long> NextRunAsync() => new(Interlocked.Increment(ref _lastRun));

    public IUnflushedRuns Unflushed => _writer.Unflushed;

    public OutboxCursors Cursors => _writer.Cursors;

    sealed class SqliteWords : SqlWords
    {
        public override string Texts(string parameter) => $"SELECT value FROM json_each({parameter})";

        public override string Numbers(string parameter) => Texts(parameter);

        // It does not look at the case of letters anyway.
        public override string Like => "LIKE";

        public override string LastPosition =>
            "SELECT coalesce(max(seq), 0) FROM sqlite_sequence WHERE name = 'outbox'";

        public override string ContinueNumbers =>
            """
                DELETE FROM sqlite_sequence WHERE name = 'outbox';
                INSERT INTO sqlite_sequence (name, seq) VALUES ('outbox', @position);
                """;

        public override string Unindexed(string column) => $"+{column}";

        // What stands in the long columns; it does not tell pages by table.
        public override string Room =>
            """
                SELECT 'database' AS what, page_count * page_size AS bytes FROM pragma_page_count, pragma_page_size
                UNION ALL SELECT 'journal', sum(length(body)) FROM journal
                UNION ALL SELECT 'history', sum(length(steps)) FROM history
                UNION ALL SELECT 'files', sum(length(content)) FROM files
                UNION ALL SELECT 'releases', sum(length(source)) FROM releases
                UNION ALL SELECT 'release_files', sum(length(content)) FROM release_files
                """;
    }
}
