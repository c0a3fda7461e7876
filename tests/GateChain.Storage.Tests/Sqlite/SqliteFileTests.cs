using System.Text;
using Dapper;
using GateChain.Core.Identity;
using GateChain.Storage.Sqlite;
using GateChain.Storage.Tests.Contract;
using Microsoft.Data.Sqlite;

namespace GateChain.Storage.Tests.Sqlite;

/// <summary>What can be wrong with the file, and with the disk that it lies on.</summary>
public sealed class SqliteFileTests : IAsyncDisposable
{
    readonly TempFolder _folder = new();
    readonly SqliteStore _store;
    readonly Listener _listener = new();

    public SqliteFileTests() => _store = new(_folder["db"]);

    public async ValueTask DisposeAsync()
    {
        await _store.DisposeAsync();
        _folder.Dispose();
    }

    // Registers a run with its first row.
    async Task<long> NewRunAsync()
    {
        var id = await _store.Runs.NextIdAsync();
        var stored = new StoredRun(
            id,
            "c",
            "hash",
            "running",
            1,
            Actor.Person("ann"),
            DateTimeOffset.UnixEpoch,
            null,
            "{}",
            null
        );
        Assert.Equal(AppendOutcome.Written, await Append(id, 1, "born", stored));
        return id;
    }

    Task<AppendOutcome> Append(long run, long seq, string body = "x", StoredRun? stored = null)
    {
        _store.Journal.Append(new(run, 1, seq, Encoding.UTF8.GetBytes(body), stored, _listener));
        return _listener.Outcome(run, seq).WaitAsync(TimeSpan.FromSeconds(20));
    }

    ValueTask<List<long>> SeqsAsync(long run) => _store.Journal.ReadAsync(run).Select(r => r.Seq).ToListAsync();

    [Fact]
    public async Task WithAFullDiskJournalRowsWaitAndOtherWritesAreRefused()
    {
        var run = await NewRunAsync();
        await FillUpAsync();
        var waiting = Append(run, 2, new string('x', 100_000));
        await UntilAsync(() => _store.Journal.Writer.Trouble is not null);
        Assert.Equal("the disk (or the database's size limit) is full", _store.Journal.Writer.Trouble);
        Assert.False(waiting.IsCompleted);
        _store.File.MaxPages = null;
        Assert.Equal(AppendOutcome.Written, await waiting);
        Assert.Null(_store.Journal.Writer.Trouble);
        Assert.Equal([1, 2], await SeqsAsync(run));

        async Task FillUpAsync()
        {
            _store.File.MaxPages = 1;
            // The writer's connection takes the limit over when it is opened again, after a failure.
            await Assert.ThrowsAsync<StorageException>(() => LockedOutAsync());
        }

        // A refused write with another connection holding the lock makes the writer report; nothing hangs.
        async Task LockedOutAsync()
        {
            using var other = new SqliteConnection($"Data Source={_folder["db"]}");
            other.Open();
            using var transaction = other.BeginTransaction(deferred: false);
            await _store.Catalogue.PushAsync(
                new(
                    [new("h", "c", null, "s", new Dictionary<string, byte[]>(), DateTimeOffset.UnixEpoch)],
                    new Dictionary<string, string>(),
                    new(DateTimeOffset.UnixEpoch, Actor.Person("ann"), "push", "1 chain")
                )
            );
        }
    }

    [Fact]
    public async Task ALockedDatabaseHoldsTheJournalUntilItIsFree()
    {
        var run = await NewRunAsync();
        Task<AppendOutcome> waiting;
        using (var other = new SqliteConnection($"Data Source={_folder["db"]}"))
        {
            other.Open();
            using var transaction = other.BeginTransaction(deferred: false);
            waiting = Append(run, 2);
            await UntilAsync(() => _store.Journal.Writer.Trouble is not null);
            Assert.Equal("the database is locked by another program", _store.Journal.Writer.Trouble);
        }
        Assert.Equal(AppendOutcome.Written, await waiting);
        Assert.Null(_store.Journal.Writer.Trouble);
    }

    [Fact]
    public async Task AnInputOutputErrorHoldsTheJournalUntilTheDiskWorksAgain()
    {
        var run = await NewRunAsync();
        string? told = null;
        long rows = 1;
        // The trouble lasts for a moment only: as soon as the file is opened again, it is over.
        for (var i = 0; told is null && i < 20; i++)
        {
            BrokenFile.Break(_folder["db"] + "-wal");
            var waiting = Enumerable.Range(0, 50).Select(_ => Append(run, ++rows)).ToList();
            var all = Task.WhenAll(waiting);
            SpinWait.SpinUntil(() => (told ??= _store.Journal.Writer.Trouble) is not null || all.IsCompleted);
            Assert.All(await all, outcome => Assert.Equal(AppendOutcome.Written, outcome));
        }
        Assert.Equal("the disk gave an input/output error", told);
        Assert.Null(_store.Journal.Writer.Trouble);
        SqliteConnection.ClearAllPools();
        Assert.Equal(Enumerable.Range(1, (int)rows).Select(seq => (long)seq), await SeqsAsync(run));
    }

    static async Task UntilAsync(Func<bool> holds)
    {
        for (var i = 0; !holds(); i++)
        {
            Assert.True(i < 500, "it did not come about");
            await Task.Delay(20);
        }
    }

    [Fact]
    public void AFileOfANewerVersionIsRefused()
    {
        using (var connection = new SqliteConnection($"Data Source={_folder["db"]}"))
        {
            connection.Execute(
                "INSERT INTO SchemaVersions (ScriptName, Applied) VALUES "
                    + "('GateChain.Storage.Sqlite.Schema.9999-later.sql', '2030-01-01')"
            );
        }
        Assert.Contains(
            "was written by a newer version",
            Assert.Throws<StorageException>(() => new SqliteStore(_folder["db"])).Message
        );
    }

    [Fact]
    public void AFileThatIsNoDatabaseIsToldInASentence()
    {
        var path = _folder.Write("not-a-db", new string('x', 5000));
        Assert.StartsWith(
            $"the database {path} can't be opened",
            Assert.Throws<StorageException>(() => new SqliteStore(path)).Message
        );
    }

    [Fact]
    public async Task NobodyChangesALineOfTheAuditLog()
    {
        await _store.Secrets.SetAsync(
            new("s", Area.Root, "c", "ann", DateTimeOffset.UnixEpoch),
            new(DateTimeOffset.UnixEpoch, Actor.Person("ann"), "set", "secret s")
        );
        using var connection = new SqliteConnection($"Data Source={_folder["db"]}");
        var refused = Assert.Throws<SqliteException>(() => connection.Execute("UPDATE audit SET by_name = 'bob'"));
        Assert.Contains("the audit log is only added to", refused.Message);
    }
}
