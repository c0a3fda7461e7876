using System.Data.Common;
using Dapper;

namespace GateChain.Storage.Sql;

/// <summary>The chains in the database file. Thread-safe.</summary>
sealed class Catalogue(ISqlDatabase database) : ICatalogue
{
    public Task PushAsync(Push push) =>
        database.WriteAsync(async connection =>
        {
            foreach (var draft in push.Drafts)
                await DraftStore.EndAsync(connection, draft, push.Audit).ConfigureAwait(false);
            foreach (var release in push.Releases)
            {
                await KeepAsync(connection, release).ConfigureAwait(false);
                var changed =
                    (
                        await connection
                            .ExecuteAsync(
                                "INSERT INTO chains (name, release) VALUES (@Chain, @Hash) ON CONFLICT (name) DO "
                                    + "UPDATE SET release = excluded.release WHERE chains.release <> excluded.release",
                                new { release.Chain, release.Hash }
                            )
                            .ConfigureAwait(false)
                    ) > 0;
                // A chain that only moved gets no new number.
                await connection
                    .ExecuteAsync(
                        "UPDATE chains SET area = @Path WHERE name = @Chain AND area <> @Path",
                        new { release.Chain, release.Area.Path }
                    )
                    .ConfigureAwait(false);
                if (!changed)
                    continue;
                await connection
                    .ExecuteAsync(
                        "INSERT INTO numbered_releases (chain, number, release, note, author, "
                            + "made, action) SELECT @Chain, coalesce(max(number), 0) + 1, @Hash, @Note, @Author, "
                            + "@made, @Action FROM numbered_releases WHERE chain = @Chain",
                        new
                        {
                            release.Chain,
                            release.Hash,
                            push.Note,
                            Author = push.Audit.By.Name,
                            made = Times.Text(release.Pushed),
                            push.Audit.Action,
                        }
                    )
                    .ConfigureAwait(false);
            }
            foreach (var (path, content) in push.Files)
                await FileStore.PutAsync(connection, path, content, push.Audit).ConfigureAwait(false);
            await AuditLog.AddAsync(connection, push.Audit).ConfigureAwait(false);
        });

    public Task SetRetiredAsync(string chain, Retirement? retirement, AuditLine audit) =>
        database.WriteAsync(async connection =>
        {
            await connection
                .ExecuteAsync(
                    "UPDATE chains SET retired = @at, retired_by = @By, retired_why = @Why WHERE name = @chain",
                    new
                    {
                        chain,
                        at = retirement is null ? null : Times.Utc(retirement.At),
                        retirement?.By,
                        retirement?.Why,
                    }
                )
                .ConfigureAwait(false);
            await AuditLog.AddAsync(connection, audit).ConfigureAwait(false);
        });

    public Task KeepAsync(Release content) => database.WriteAsync(connection => KeepAsync(connection, content));

    static async Task KeepAsync(DbConnection connection, Release release)
    {
        var isNew =
            (
                await connection
                    .ExecuteAsync(
                        "INSERT INTO releases (hash, chain, title, source, pushed) VALUES (@Hash, "
                            + "@Chain, @Title, @Source, @pushed) ON CONFLICT (hash) DO NOTHING",
                        new
                        {
                            release.Hash,
                            release.Chain,
                            release.Title,
                            release.Source,
                            pushed = Times.Text(release.Pushed),
                        }
                    )
                    .ConfigureAwait(false)
            ) > 0;
        foreach (var (name, content) in isNew ? release.Files : new Dictionary<string, byte[]>())
        {
            await connection
                .ExecuteAsync(
                    "INSERT INTO release_files (release, name, content, place) VALUES (@Hash, @name, @content, @place)",
                    new
                    {
                        release.Hash,
                        name,
                        content,
                        place = release.Places.GetValueOrDefault(name),
                    }
                )
                .ConfigureAwait(false);
        }
    }

    class NumberedRow
    {
        public string Chain { get; set; } = "";
        public long Number { get; set; }
        public string Release { get; set; } = "";
        public string? Note { get; set; }
        public string Author { get; set; } = "";
        public string Made { get; set; } = "";
        public string? Action { get; set; }

        public NumberedRelease ToRelease() => new(Chain, (int)Number, Release, Note, Author, Times.Of(Made), Action);
    }

    public async ValueTask<IReadOnlyList<NumberedRelease>> ReleasesAsync(string chain)
    {
        return await database
            .ReadAsync<IReadOnlyList<NumberedRelease>>(async connection =>
            {
                return
                [
                    .. (
                        await connection
                            .QueryAsync<NumberedRow>(
                                "SELECT * FROM numbered_releases WHERE chain = @chain ORDER BY number DESC",
                                new { chain }
                            )
                            .ConfigureAwait(false)
                    ).Select(r => r.ToRelease()),
                ];
            })
            .ConfigureAwait(false);
    }

    public async ValueTask<IReadOnlyDictionary<string, NumberedRelease>> LatestReleasesAsync()
    {
        return await database
            .ReadAsync<IReadOnlyDictionary<string, NumberedRelease>>(async connection =>
            {
                return (
                    await connection
                        .QueryAsync<NumberedRow>(
                            "SELECT n.* FROM numbered_releases n JOIN (SELECT chain, max(number) AS number FROM "
                                + "numbered_releases GROUP BY chain) l USING (chain, number)"
                        )
                        .ConfigureAwait(false)
                ).ToDictionary(r => r.Chain, r => r.ToRelease());
            })
            .ConfigureAwait(false);
    }

    sealed class ReleaseRow
    {
        public string Hash { get; set; } = "";
        public string Chain { get; set; } = "";
        public string? Title { get; set; }
        public string Source { get; set; } = "";
        public string Pushed { get; set; } = "";
        public string? Area { get; set; }
        public string? Retired { get; set; }
        public string? RetiredBy { get; set; }
        public string? RetiredWhy { get; set; }

        public Release ToRelease(IReadOnlyDictionary<string, byte[]> files) =>
            new(Hash, Chain, Title, Source, files, Times.Of(Pushed))
            {
                Area = new(Area ?? ""),
                Retired = Retired is { } at ? new(RetiredBy ?? "", Times.Of(at), RetiredWhy) : null,
            };
    }

    const string OfChain = "c.area, c.retired, c.retired_by AS retiredBy, c.retired_why AS retiredWhy";

    const string Latest = $"SELECT r.*, {OfChain} FROM chains c JOIN releases r ON r.hash = c.release";

    public async ValueTask<IReadOnlyList<Release>> ChainsAsync()
    {
        return await database
            .ReadAsync<IReadOnlyList<Release>>(async connection =>
            {
                return
                [
                    .. (
                        await connection.QueryAsync<ReleaseRow>($"{Latest} ORDER BY c.name").ConfigureAwait(false)
                    ).Select(r => r.ToRelease(new Dictionary<string, byte[]>())),
                ];
            })
            .ConfigureAwait(false);
    }

    public async ValueTask<Release?> LatestAsync(string chain)
    {
        return await database
            .ReadAsync<Release?>(async connection =>
            {
                return await WithFilesAsync(
                    connection,
                    connection.QueryFirstOrDefault<ReleaseRow>($"{Latest} WHERE c.name = @chain", new { chain })
                );
            })
            .ConfigureAwait(false);
    }

    public async ValueTask<Release?> FindAsync(string hash)
    {
        return await database
            .ReadAsync<Release?>(async connection =>
            {
                return await WithFilesAsync(
                    connection,
                    connection.QueryFirstOrDefault<ReleaseRow>(
                        $"SELECT r.*, {OfChain} FROM releases r LEFT JOIN chains c ON c.name = r.chain "
                            + "WHERE r.hash = @hash",
                        new { hash }
                    )
                );
            })
            .ConfigureAwait(false);
    }

    public async ValueTask<IReadOnlyList<AttachmentEntry>> AttachmentsAsync()
    {
        return await database
            .ReadAsync<IReadOnlyList<AttachmentEntry>>(async connection =>
            {
                return
                [
                    .. (
                        await connection
                            .QueryAsync<(string Chain, string Name, string? Place, string Area, long Size)>(
                                "SELECT c.name, f.name, f.place, c.area, length(f.content) FROM chains c "
                                    + "JOIN release_files f ON f.release = c.release ORDER BY c.name, f.name"
                            )
                            .ConfigureAwait(false)
                    ).Select(a => new AttachmentEntry(
                        a.Chain,
                        a.Name,
                        a.Place ?? new Core.Identity.Area(a.Area).File(a.Name),
                        a.Size
                    )),
                ];
            })
            .ConfigureAwait(false);
    }

    sealed class AttachmentRow : NumberedRow
    {
        public long Size { get; set; }
    }

    public async ValueTask<IReadOnlyList<AttachmentVersion>> AttachmentHistoryAsync(string chain, string name)
    {
        return await database
            .ReadAsync<IReadOnlyList<AttachmentVersion>>(async connection =>
            {
                return
                [
                    .. (
                        await connection
                            .QueryAsync<AttachmentRow>(
                                """
                                SELECT chain, number, release, note, author, made, action, size FROM (
                                  SELECT n.*, length(f.content) AS size,
                                    f.content IS NOT DISTINCT FROM lag(f.content) OVER (ORDER BY n.number) AS same
                                  FROM numbered_releases n JOIN release_files f ON f.release = n.release AND f.name = @name
                                  WHERE n.chain = @chain) versions
                                WHERE NOT same ORDER BY number DESC LIMIT 100
                                """,
                                new { chain, name }
                            )
                            .ConfigureAwait(false)
                    ).Select(r => new AttachmentVersion(r.ToRelease(), r.Size)),
                ];
            })
            .ConfigureAwait(false);
    }

    public async ValueTask<IReadOnlyList<string>> FindReleasesAsync(string chain, string beginning)
    {
        return await database
            .ReadAsync<IReadOnlyList<string>>(async connection =>
            {
                return
                [
                    .. (
                        await connection
                            .QueryAsync<string>(
                                "SELECT hash FROM releases WHERE chain = @chain AND substr(hash, 1, "
                                    + "length(@beginning)) = @beginning LIMIT 10",
                                new { chain, beginning }
                            )
                            .ConfigureAwait(false)
                    ),
                ];
            })
            .ConfigureAwait(false);
    }

    static async Task<Release?> WithFilesAsync(DbConnection connection, ReleaseRow? row)
    {
        if (row is null)
            return null;
        var files = (
            await connection
                .QueryAsync<(string Name, byte[] Content, string? Place)>(
                    "SELECT name, content, place FROM release_files WHERE release = @Hash",
                    new { row.Hash }
                )
                .ConfigureAwait(false)
        ).ToList();
        return row.ToRelease(files.ToDictionary(f => f.Name, f => f.Content)) with
        {
            Places = files.Where(f => f.Place is not null).ToDictionary(f => f.Name, f => f.Place!),
        };
    }
}
