using Dapper;
using Microsoft.Data.Sqlite;

namespace GateChain.Storage.Sqlite;

/// <summary>The chains in the database file. Thread-safe.</summary>
sealed class Catalogue(SqliteFile file, SqliteWriter writer) : ICatalogue
{
    public Task PushAsync(Push push) =>
        writer.WriteAsync(connection =>
        {
            foreach (var draft in push.Drafts)
                DraftStore.End(connection, draft, push.Audit);
            foreach (var release in push.Releases)
            {
                Keep(connection, release);
                var changed =
                    connection.Execute(
                        "INSERT INTO chains (name, release) VALUES (@Chain, @Hash) ON CONFLICT (name) DO "
                            + "UPDATE SET release = excluded.release WHERE release <> excluded.release",
                        new { release.Chain, release.Hash }
                    ) > 0;
                // A chain that only moved gets no new number.
                connection.Execute(
                    "UPDATE chains SET area = @Path WHERE name = @Chain AND area <> @Path",
                    new { release.Chain, release.Area.Path }
                );
                if (!changed)
                    continue;
                connection.Execute(
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
                );
            }
            foreach (var (path, content) in push.Files)
                FileStore.Put(connection, path, content, push.Audit);
            AuditLog.Add(connection, push.Audit);
        });

    public Task SetRetiredAsync(string chain, Retirement? retirement, AuditLine audit) =>
        writer.WriteAsync(connection =>
        {
            connection.Execute(
                "UPDATE chains SET retired = @at, retired_by = @By, retired_why = @Why WHERE name = @chain",
                new
                {
                    chain,
                    at = retirement is null ? null : Times.Utc(retirement.At),
                    retirement?.By,
                    retirement?.Why,
                }
            );
            AuditLog.Add(connection, audit);
        });

    public Task KeepAsync(Release content) => writer.WriteAsync(connection => Keep(connection, content));

    static void Keep(SqliteConnection connection, Release release)
    {
        var isNew =
            connection.Execute(
                "INSERT OR IGNORE INTO releases (hash, chain, title, source, pushed) VALUES (@Hash, "
                    + "@Chain, @Title, @Source, @pushed)",
                new
                {
                    release.Hash,
                    release.Chain,
                    release.Title,
                    release.Source,
                    pushed = Times.Text(release.Pushed),
                }
            ) > 0;
        foreach (var (name, content) in isNew ? release.Files : new Dictionary<string, byte[]>())
        {
            connection.Execute(
                "INSERT INTO release_files (release, name, content, place) VALUES (@Hash, @name, @content, @place)",
                new
                {
                    release.Hash,
                    name,
                    content,
                    place = release.Places.GetValueOrDefault(name),
                }
            );
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

    public ValueTask<IReadOnlyList<NumberedRelease>> ReleasesAsync(string chain)
    {
        using var connection = file.Open();
        return new([
            .. connection
                .Query<NumberedRow>(
                    "SELECT * FROM numbered_releases WHERE chain = @chain ORDER BY number DESC",
                    new { chain }
                )
                .Select(r => r.ToRelease()),
        ]);
    }

    public ValueTask<IReadOnlyDictionary<string, NumberedRelease>> LatestReleasesAsync()
    {
        using var connection = file.Open();
        return new(
            connection
                .Query<NumberedRow>(
                    "SELECT n.* FROM numbered_releases n JOIN (SELECT chain, max(number) AS number FROM "
                        + "numbered_releases GROUP BY chain) l USING (chain, number)"
                )
                .ToDictionary(r => r.Chain, r => r.ToRelease())
        );
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

    public ValueTask<IReadOnlyList<Release>> ChainsAsync()
    {
        using var connection = file.Open();
        return new([
            .. connection
                .Query<ReleaseRow>($"{Latest} ORDER BY c.name")
                .Select(r => r.ToRelease(new Dictionary<string, byte[]>())),
        ]);
    }

    public ValueTask<Release?> LatestAsync(string chain)
    {
        using var connection = file.Open();
        return new(
            WithFiles(
                connection,
                connection.QueryFirstOrDefault<ReleaseRow>($"{Latest} WHERE c.name = @chain", new { chain })
            )
        );
    }

    public ValueTask<Release?> FindAsync(string hash)
    {
        using var connection = file.Open();
        return new(
            WithFiles(
                connection,
                connection.QueryFirstOrDefault<ReleaseRow>(
                    $"SELECT r.*, {OfChain} FROM releases r LEFT JOIN chains c ON c.name = r.chain "
                        + "WHERE r.hash = @hash",
                    new { hash }
                )
            )
        );
    }

    public ValueTask<IReadOnlyList<AttachmentEntry>> AttachmentsAsync()
    {
        using var connection = file.Open();
        return new([
            .. connection
                .Query<(string Chain, string Name, string? Place, string Area, long Size)>(
                    "SELECT c.name, f.name, f.place, c.area, length(f.content) FROM chains c "
                        + "JOIN release_files f ON f.release = c.release ORDER BY c.name, f.name"
                )
                .Select(a => new AttachmentEntry(
                    a.Chain,
                    a.Name,
                    a.Place ?? new Core.Identity.Area(a.Area).File(a.Name),
                    a.Size
                )),
        ]);
    }

    sealed class AttachmentRow : NumberedRow
    {
        public long Size { get; set; }
    }

    public ValueTask<IReadOnlyList<AttachmentVersion>> AttachmentHistoryAsync(string chain, string name)
    {
        using var connection = file.Open();
        return new([
            .. connection
                .Query<AttachmentRow>(
                    """
                    SELECT chain, number, release, note, author, made, action, size FROM (
                      SELECT n.*, length(f.content) AS size,
                        f.content IS lag(f.content) OVER (ORDER BY n.number) AS same
                      FROM numbered_releases n JOIN release_files f ON f.release = n.release AND f.name = @name
                      WHERE n.chain = @chain)
                    WHERE NOT same ORDER BY number DESC LIMIT 100
                    """,
                    new { chain, name }
                )
                .Select(r => new AttachmentVersion(r.ToRelease(), r.Size)),
        ]);
    }

    public ValueTask<IReadOnlyList<string>> FindReleasesAsync(string chain, string beginning)
    {
        using var connection = file.Open();
        return new([
            .. connection.Query<string>(
                "SELECT hash FROM releases WHERE chain = @chain AND substr(hash, 1, "
                    + "length(@beginning)) = @beginning LIMIT 10",
                new { chain, beginning }
            ),
        ]);
    }

    static Release? WithFiles(SqliteConnection connection, ReleaseRow? row)
    {
        if (row is null)
            return null;
        var files = connection
            .Query<(string Name, byte[] Content, string? Place)>(
                "SELECT name, content, place FROM release_files WHERE release = @Hash",
                new { row.Hash }
            )
            .ToList();
        return row.ToRelease(files.ToDictionary(f => f.Name, f => f.Content)) with
        {
            Places = files.Where(f => f.Place is not null).ToDictionary(f => f.Name, f => f.Place!),
        };
    }
}
