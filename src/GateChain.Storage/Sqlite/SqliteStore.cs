using System.Globalization;
using Dapper;
using Microsoft.Data.Sqlite;

namespace GateChain.Storage.Sqlite;

/// <summary>Journal, run register and catalogue in one SQLite file. Thread-safe; one process at a time.</summary>
public sealed class SqliteStore : IJournal, IRunRegister, ICatalogue, IDisposable
{
    readonly SqliteFile _file;
    readonly SqliteWriter _writer;
    readonly Timer _checkpoints;
    readonly RunRegister _register;
    int _disposed;

    /// <exception cref="StorageException">The file can't be opened.</exception>
    public SqliteStore(string path, TimeProvider? time = null)
    {
        _file = new(path);
        _file.Prepare();
        _writer = new(_file, time ?? TimeProvider.System);
        try
        {
            _register = new(_file, _writer);
        }
        catch
        {
            _writer.Dispose();
            throw;
        }
        Drafts = new DraftStore(_file, _writer);
        Secrets = new SecretStore(_file, _writer);
        Outbox = new Outbox(_file, _writer);
        // Keeps the write-ahead log short without making the writer do it.
        _checkpoints = new(_ => Checkpoint(), null, TimeSpan.FromSeconds(2), TimeSpan.FromSeconds(2));
    }

    /// <summary>The database file.</summary>
    public string Path => _file.Path;

    internal SqliteFile File => _file;

    /// <summary>The drafts of chains.</summary>
    public IDrafts Drafts { get; }

    /// <summary>What nobody is shown.</summary>
    public ISecretStore Secrets { get; }

    /// <summary>News of runs.</summary>
    public IOutbox Outbox { get; }

    /// <inheritdoc/>
    public WriterState Writer => _writer.State;

    /// <inheritdoc/>
    public void Append(JournalAppend append) => _writer.Append(append);

    /// <inheritdoc/>
    public IEnumerable<(long Seq, byte[] Body)> Read(long run, long after = 0)
    {
        using var connection = _file.Open();
        foreach (var decision in JournalReader.Read(connection, run, after))
            yield return decision;
    }

    /// <inheritdoc/>
    public long NextId() => _register.NextId();

    /// <inheritdoc/>
    public Task<IReadOnlyList<(RunHead Head, long Epoch)>> TakeOverAsync() => _register.TakeOverAsync();

    /// <inheritdoc/>
    public Task<long> TakeOverAsync(long run) => _register.TakeOverAsync(run);

    /// <inheritdoc/>
    public RunHead? Find(long run) => _register.Find(run);

    /// <inheritdoc/>
    public RunHead? FindByOrigin(string key) => _register.FindByOrigin(key);

    /// <inheritdoc/>
    public IReadOnlyList<RunHead> ToResume() => _register.ToResume();

    /// <inheritdoc/>
    public IReadOnlyList<RunHead> List(RunQuery query) => _register.List(query);

    /// <inheritdoc/>
    public IReadOnlyDictionary<string, IReadOnlyList<RunHead>> Newest(IEnumerable<string> chains, int each) =>
        _register.Newest(chains, each);

    internal static DateTimeOffset Time(string text) =>
        DateTimeOffset.Parse(text, CultureInfo.InvariantCulture, DateTimeStyles.RoundtripKind);

    internal static string Text(DateTimeOffset time) => time.ToString("O", CultureInfo.InvariantCulture);

    /// <inheritdoc/>
    public Task PushAsync(Push push) =>
        _writer.WriteAsync(connection =>
        {
            foreach (var draft in push.Drafts)
                DraftStore.End(connection, draft, push.Author, push.Releases[0].Pushed);
            foreach (var release in push.Releases)
            {
                Keep(connection, release);
                var changed =
                    connection.Execute(
                        "INSERT INTO chains (name, release) VALUES (@Chain, @Hash) ON CONFLICT (name) DO "
                            + "UPDATE SET release = excluded.release WHERE release <> excluded.release",
                        new { release.Chain, release.Hash }
                    ) > 0;
                if (!changed)
                    continue;
                connection.Execute(
                    "INSERT INTO numbered_releases (chain, number, release, note, author, "
                        + "made) SELECT @Chain, coalesce(max(number), 0) + 1, @Hash, @Note, @Author, "
                        + "@made FROM numbered_releases WHERE chain = @Chain",
                    new
                    {
                        release.Chain,
                        release.Hash,
                        push.Note,
                        push.Author,
                        made = Text(release.Pushed),
                    }
                );
            }
            foreach (var (name, content) in push.Settings)
            {
                connection.Execute(
                    "INSERT INTO settings (name, content) VALUES (@name, @content) ON CONFLICT (name) DO "
                        + "UPDATE SET content = excluded.content",
                    new { name, content }
                );
            }
        });

    /// <inheritdoc/>
    public Task KeepAsync(Release content) => _writer.WriteAsync(connection => Keep(connection, content));

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
                    pushed = Text(release.Pushed),
                }
            ) > 0;
        foreach (var (name, content) in isNew ? release.Files : new Dictionary<string, byte[]>())
        {
            connection.Execute(
                "INSERT INTO release_files (release, name, content) VALUES (@Hash, @name, @content)",
                new
                {
                    release.Hash,
                    name,
                    content,
                }
            );
        }
    }

    sealed class NumberedRow
    {
        public string Chain { get; set; } = "";
        public long Number { get; set; }
        public string Release { get; set; } = "";
        public string? Note { get; set; }
        public string Author { get; set; } = "";
        public string Made { get; set; } = "";

        public NumberedRelease ToRelease() => new(Chain, (int)Number, Release, Note, Author, Time(Made));
    }

    /// <inheritdoc/>
    public IReadOnlyList<NumberedRelease> Releases(string chain)
    {
        using var connection = _file.Open();
        return
        [
            .. connection
                .Query<NumberedRow>(
                    "SELECT * FROM numbered_releases WHERE chain = @chain ORDER BY number DESC",
                    new { chain }
                )
                .Select(r => r.ToRelease()),
        ];
    }

    /// <inheritdoc/>
    public IReadOnlyDictionary<string, NumberedRelease> LatestReleases()
    {
        using var connection = _file.Open();
        return connection
            .Query<NumberedRow>(
                "SELECT n.* FROM numbered_releases n JOIN (SELECT chain, max(number) AS number FROM "
                    + "numbered_releases GROUP BY chain) l USING (chain, number)"
            )
            .ToDictionary(r => r.Chain, r => r.ToRelease());
    }

    sealed class ReleaseRow
    {
        public string Hash { get; set; } = "";
        public string Chain { get; set; } = "";
        public string? Title { get; set; }
        public string Source { get; set; } = "";
        public string Pushed { get; set; } = "";

        public Release ToRelease(IReadOnlyDictionary<string, byte[]> files) =>
            new(Hash, Chain, Title, Source, files, Time(Pushed));
    }

    /// <inheritdoc/>
    public IReadOnlyList<Release> Chains()
    {
        using var connection = _file.Open();
        return
        [
            .. connection
                .Query<ReleaseRow>("SELECT r.* FROM chains c JOIN releases r ON r.hash = c.release ORDER BY c.name")
                .Select(r => r.ToRelease(new Dictionary<string, byte[]>())),
        ];
    }

    /// <inheritdoc/>
    public Release? Latest(string chain)
    {
        using var connection = _file.Open();
        return WithFiles(
            connection,
            connection.QueryFirstOrDefault<ReleaseRow>(
                "SELECT r.* FROM chains c JOIN releases r ON r.hash = c.release WHERE c.name = @chain",
                new { chain }
            )
        );
    }

    /// <inheritdoc/>
    public Release? Find(string hash)
    {
        using var connection = _file.Open();
        return WithFiles(
            connection,
            connection.QueryFirstOrDefault<ReleaseRow>("SELECT * FROM releases WHERE hash = @hash", new { hash })
        );
    }

    /// <inheritdoc/>
    public IReadOnlyList<string> FindReleases(string chain, string beginning)
    {
        using var connection = _file.Open();
        return
        [
            .. connection.Query<string>(
                "SELECT hash FROM releases WHERE chain = @chain AND substr(hash, 1, "
                    + "length(@beginning)) = @beginning LIMIT 10",
                new { chain, beginning }
            ),
        ];
    }

    static Release? WithFiles(SqliteConnection connection, ReleaseRow? row) =>
        row?.ToRelease(
            connection
                .Query<(string Name, byte[] Content)>(
                    "SELECT name, content FROM release_files WHERE release = @Hash",
                    new { row.Hash }
                )
                .ToDictionary(f => f.Name, f => f.Content)
        );

    /// <inheritdoc/>
    public string? Setting(string name)
    {
        using var connection = _file.Open();
        return connection.QueryFirstOrDefault<string>("SELECT content FROM settings WHERE name = @name", new { name });
    }

    void Checkpoint()
    {
        try
        {
            using var connection = _file.Open();
            SqliteFile.Execute(connection, "PRAGMA wal_checkpoint(PASSIVE)");
        }
        catch (Exception e) when (e is SqliteException or ObjectDisposedException)
        {
            // The writer's own checkpoint is the backstop; trouble with the disk shows there.
        }
    }

    /// <summary>Writes what was handed over, and closes the file.</summary>
    public void Dispose()
    {
        if (Interlocked.Exchange(ref _disposed, 1) != 0)
            return;
        _checkpoints.Dispose();
        _writer.Dispose();
        SqliteConnection.ClearAllPools();
    }
}
