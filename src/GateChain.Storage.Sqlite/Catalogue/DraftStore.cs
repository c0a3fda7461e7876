using Dapper;
using GateChain.Core.Identity;
using Microsoft.Data.Sqlite;

namespace GateChain.Storage.Sqlite;

/// <summary>The drafts in the database file. Thread-safe.</summary>
sealed class DraftStore(SqliteFile file, SqliteWriter writer) : IDrafts
{
    // Of one draft; its latest version is always kept.
    const int MaxHistory = 100,
        MaxCharacters = 16 << 20;
    static readonly TimeSpan Coalesce = TimeSpan.FromMinutes(1);

    sealed class Row
    {
        public string Chain { get; set; } = "";
        public long Version { get; set; }
        public string? Source { get; set; }
        public long? Base { get; set; }
        public string Author { get; set; } = "";
        public string Saved { get; set; } = "";
        public string Area { get; set; } = "";

        public Draft? ToDraft() =>
            Source is null
                ? null
                : new(Chain, Version, Source, (int?)Base, Author, Times.Of(Saved)) { Area = new(Area) };
    }

    public ValueTask<Draft?> FindAsync(string chain)
    {
        using var connection = file.Open();
        return new(Latest(connection, chain)?.ToDraft());
    }

    static Row? Latest(SqliteConnection connection, string chain) =>
        connection.QueryFirstOrDefault<Row>(
            "SELECT * FROM drafts WHERE chain = @chain ORDER BY version DESC LIMIT 1",
            new { chain }
        );

    public ValueTask<IReadOnlyList<Draft>> AllAsync()
    {
        using var connection = file.Open();
        return new([
            .. connection
                .Query<Row>(
                    "SELECT d.* FROM drafts d JOIN (SELECT chain, max(version) AS version FROM drafts "
                        + "GROUP BY chain) l USING (chain, version) ORDER BY chain"
                )
                .Select(r => r.ToDraft())
                .OfType<Draft>(),
        ]);
    }

    public ValueTask<IReadOnlyList<Draft>> HistoryAsync(string chain)
    {
        using var connection = file.Open();
        return new([
            .. connection
                .Query<Row>("SELECT * FROM drafts WHERE chain = @chain ORDER BY version DESC", new { chain })
                .Select(r => r.ToDraft())
                .OfType<Draft>(),
        ]);
    }

    public ValueTask<IReadOnlyDictionary<string, byte[]>> FilesAsync(string chain)
    {
        using var connection = file.Open();
        return new(
            connection
                .Query<(string Name, byte[] Content)>(
                    "SELECT name, content FROM draft_files WHERE chain = @chain",
                    new { chain }
                )
                .ToDictionary(f => f.Name, f => f.Content)
        );
    }

    public async Task<Draft> SaveAsync(
        DraftVersion seen,
        string source,
        int? start,
        IReadOnlyDictionary<string, byte[]> files,
        string author,
        DateTimeOffset at,
        Area area = default
    )
    {
        Draft? saved = null;
        await writer
            .WriteAsync(connection =>
            {
                var last = Expect(connection, seen);
                var version = (last?.Version ?? 0) + 1;
                // A keystroke is saved within a second; what stays of an author's minute is its end.
                if (last is { Source: not null } && last.Author == author && at - Times.Of(last.Saved) < Coalesce)
                {
                    connection.Execute(
                        "DELETE FROM drafts WHERE chain = @Chain AND version = @Version",
                        new { last.Chain, last.Version }
                    );
                }

                connection.Execute(
                    "INSERT INTO drafts (chain, version, source, base, author, saved, area) VALUES "
                        + "(@Chain, @version, @source, @start, @author, @saved, @Path)",
                    new
                    {
                        seen.Chain,
                        version,
                        source,
                        start,
                        author,
                        saved = Times.Text(at),
                        area.Path,
                    }
                );
                connection.Execute(
                    """
                    DELETE FROM drafts WHERE chain = @Chain AND version <> @version AND version NOT IN (
                        SELECT version FROM (SELECT version, sum(length(source)) OVER (ORDER BY version DESC) AS size FROM drafts WHERE chain = @Chain ORDER BY version DESC LIMIT @MaxHistory) WHERE size <= @MaxCharacters)
                    """,
                    new
                    {
                        seen.Chain,
                        version,
                        MaxHistory,
                        MaxCharacters,
                    }
                );
                foreach (var (name, content) in files)
                {
                    connection.Execute(
                        "INSERT INTO draft_files (chain, name, content) VALUES (@Chain, @name, "
                            + "@content) ON CONFLICT (chain, name) DO UPDATE SET content = excluded.content",
                        new
                        {
                            seen.Chain,
                            name,
                            content,
                        }
                    );
                }

                saved = new(seen.Chain, version, source, start, author, at) { Area = area };
            })
            .ConfigureAwait(false);
        return saved!;
    }

    public Task DiscardAsync(DraftVersion seen, AuditLine audit) =>
        writer.WriteAsync(connection =>
        {
            End(connection, seen, audit);
            AuditLog.Add(connection, audit);
        });

    /// <summary>Ends a draft within a transaction that is continuing.</summary>
    internal static void End(SqliteConnection connection, DraftVersion seen, AuditLine by)
    {
        if (Expect(connection, seen) is not { Source: not null } last)
            return;
        connection.Execute(
            "INSERT INTO drafts (chain, version, source, base, author, saved) VALUES (@Chain, @version, "
                + "NULL, NULL, @author, @saved)",
            new
            {
                seen.Chain,
                version = last.Version + 1,
                author = by.By.Name,
                saved = Times.Text(by.At),
            }
        );
        connection.Execute("DELETE FROM draft_files WHERE chain = @Chain", new { seen.Chain });
    }

    // A version that says “no draft any more” is the same as none to who looks.
    static Row? Expect(SqliteConnection connection, DraftVersion seen)
    {
        var last = Latest(connection, seen.Chain);
        return (last is { Source: not null } ? last.Version : 0) == seen.Version
            ? last
            : throw new DraftChangedException(seen.Chain);
    }
}
