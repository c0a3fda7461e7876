using System.Data.Common;
using Dapper;
using GateChain.Core.Identity;

namespace GateChain.Storage.Sql;

/// <summary>The drafts in the database file. Thread-safe.</summary>
sealed class DraftStore(ISqlDatabase database) : IDrafts
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

    public async ValueTask<Draft?> FindAsync(string chain)
    {
        return await database
            .ReadAsync<Draft?>(async connection =>
            {
                return (await LatestAsync(connection, chain).ConfigureAwait(false))?.ToDraft();
            })
            .ConfigureAwait(false);
    }

    static Task<Row?> LatestAsync(DbConnection connection, string chain) =>
        connection.QueryFirstOrDefaultAsync<Row?>(
            "SELECT * FROM drafts WHERE chain = @chain ORDER BY version DESC LIMIT 1",
            new { chain }
        );

    public async ValueTask<IReadOnlyList<Draft>> AllAsync()
    {
        return await database
            .ReadAsync<IReadOnlyList<Draft>>(async connection =>
            {
                return
                [
                    .. (
                        await connection
                            .QueryAsync<Row>(
                                "SELECT d.* FROM drafts d JOIN (SELECT chain, max(version) AS version FROM drafts "
                                    + "GROUP BY chain) l USING (chain, version) ORDER BY chain"
                            )
                            .ConfigureAwait(false)
                    )
                        .Select(r => r.ToDraft())
                        .OfType<Draft>(),
                ];
            })
            .ConfigureAwait(false);
    }

    public async ValueTask<IReadOnlyList<Draft>> HistoryAsync(string chain)
    {
        return await database
            .ReadAsync<IReadOnlyList<Draft>>(async connection =>
            {
                return
                [
                    .. (
                        await connection
                            .QueryAsync<Row>(
                                "SELECT * FROM drafts WHERE chain = @chain ORDER BY version DESC",
                                new { chain }
                            )
                            .ConfigureAwait(false)
                    )
                        .Select(r => r.ToDraft())
                        .OfType<Draft>(),
                ];
            })
            .ConfigureAwait(false);
    }

    public async ValueTask<IReadOnlyDictionary<string, byte[]>> FilesAsync(string chain)
    {
        return await database
            .ReadAsync<IReadOnlyDictionary<string, byte[]>>(async connection =>
            {
                return (
                    await connection
                        .QueryAsync<(string Name, byte[] Content)>(
                            "SELECT name, content FROM draft_files WHERE chain = @chain",
                            new { chain }
                        )
                        .ConfigureAwait(false)
                ).ToDictionary(f => f.Name, f => f.Content);
            })
            .ConfigureAwait(false);
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
        await database
            .WriteAsync(async connection =>
            {
                var last = await ExpectAsync(connection, seen).ConfigureAwait(false);
                var version = (last?.Version ?? 0) + 1;
                // A keystroke is saved within a second; what stays of an author's minute is its end.
                if (last is { Source: not null } && last.Author == author && at - Times.Of(last.Saved) < Coalesce)
                {
                    await connection
                        .ExecuteAsync(
                            "DELETE FROM drafts WHERE chain = @Chain AND version = @Version",
                            new { last.Chain, last.Version }
                        )
                        .ConfigureAwait(false);
                }

                await connection
                    .ExecuteAsync(
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
                    )
                    .ConfigureAwait(false);
                await connection
                    .ExecuteAsync(
                        """
                        DELETE FROM drafts WHERE chain = @Chain AND version <> @version AND version NOT IN (
                            SELECT version FROM (SELECT version, sum(length(source)) OVER (ORDER BY version DESC) AS size FROM drafts
                                WHERE chain = @Chain ORDER BY version DESC LIMIT @MaxHistory) newest
                            WHERE size <= @MaxCharacters)
                        """,
                        new
                        {
                            seen.Chain,
                            version,
                            MaxHistory,
                            MaxCharacters,
                        }
                    )
                    .ConfigureAwait(false);
                foreach (var (name, content) in files)
                {
                    await connection
                        .ExecuteAsync(
                            "INSERT INTO draft_files (chain, name, content) VALUES (@Chain, @name, "
                                + "@content) ON CONFLICT (chain, name) DO UPDATE SET content = excluded.content",
                            new
                            {
                                seen.Chain,
                                name,
                                content,
                            }
                        )
                        .ConfigureAwait(false);
                }

                saved = new(seen.Chain, version, source, start, author, at) { Area = area };
            })
            .ConfigureAwait(false);
        return saved!;
    }

    public Task DiscardAsync(DraftVersion seen, AuditLine audit) =>
        database.WriteAsync(async connection =>
        {
            await EndAsync(connection, seen, audit).ConfigureAwait(false);
            await AuditLog.AddAsync(connection, audit).ConfigureAwait(false);
        });

    /// <summary>Ends a draft within a transaction that is continuing.</summary>
    internal static async Task EndAsync(DbConnection connection, DraftVersion seen, AuditLine by)
    {
        if (await ExpectAsync(connection, seen).ConfigureAwait(false) is not { Source: not null } last)
            return;
        await connection
            .ExecuteAsync(
                "INSERT INTO drafts (chain, version, source, base, author, saved) VALUES (@Chain, @version, "
                    + "NULL, NULL, @author, @saved)",
                new
                {
                    seen.Chain,
                    version = last.Version + 1,
                    author = by.By.Name,
                    saved = Times.Text(by.At),
                }
            )
            .ConfigureAwait(false);
        await connection
            .ExecuteAsync("DELETE FROM draft_files WHERE chain = @Chain", new { seen.Chain })
            .ConfigureAwait(false);
    }

    // A version that says “no draft any more” is the same as none to who looks.
    static async Task<Row?> ExpectAsync(DbConnection connection, DraftVersion seen)
    {
        var last = await LatestAsync(connection, seen.Chain).ConfigureAwait(false);
        return (last is { Source: not null } ? last.Version : 0) == seen.Version
            ? last
            : throw new DraftChangedException(seen.Chain);
    }
}
