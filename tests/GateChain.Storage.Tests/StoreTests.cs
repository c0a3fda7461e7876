using System.Text;
using Dapper;
using GateChain.Core.Identity;
using GateChain.Storage.Logs;
using GateChain.Storage.Sqlite;
using Microsoft.Data.Sqlite;

namespace GateChain.Storage.Tests;

public sealed class StoreTests : IDisposable
{
    readonly TempFolder _folder = new();
    readonly SqliteStore _store;

    public StoreTests() => _store = new(_folder["db"]);

    public void Dispose()
    {
        _store.Dispose();
        _folder.Dispose();
    }

    readonly Listener _listener = new();

    static RunHead Head(long id = 0, string state = "running", DateTimeOffset? ended = null, string chain = "c") =>
        new(id, chain, "hash", state, 1, Actor.Person("ann"), DateTimeOffset.UnixEpoch, ended, "{}", null);

    // Registers a run with its first row.
    async Task<long> NewRunAsync(string chain = "c")
    {
        var id = _store.NextId();
        Assert.Equal(AppendOutcome.Written, await Append(id, 1, "born", head: Head(id, chain: chain)));
        return id;
    }

    Task<AppendOutcome> Append(long run, long seq, string body = "x", long epoch = 1, RunHead? head = null)
    {
        _store.Append(new(run, epoch, seq, Encoding.UTF8.GetBytes(body), head, _listener));
        return _listener.Outcome(run, seq).WaitAsync(TimeSpan.FromSeconds(20));
    }

    [Fact]
    public async Task RowsComeBackInOrderAndBehindANumber()
    {
        var run = await NewRunAsync();
        for (var i = 2; i <= 2500; i++)
            _store.Append(new(run, 1, i, Encoding.UTF8.GetBytes($"row {i}"), null, _listener));
        Assert.Equal(AppendOutcome.Written, await _listener.Outcome(run, 2500));
        Assert.Equal(
            Enumerable.Range(2, 2499).Select(i => $"row {i}").Prepend("born"),
            _store.Read(run).Select(r => Encoding.UTF8.GetString(r.Body))
        );
        Assert.Equal(2401, _store.Read(run, after: 2400).First().Seq);
    }

    [Fact]
    public async Task AnOldEpochWritesNothing()
    {
        var run = await NewRunAsync();
        Assert.Equal(2, (await _store.TakeOverAsync()).Single(r => r.Head.Id == run).Epoch);
        Assert.Equal(AppendOutcome.Fenced, await Append(run, 2, epoch: 1));
        Assert.Equal(AppendOutcome.Written, await Append(run, 3, epoch: 2));
        Assert.Equal([1, 3], _store.Read(run).Select(r => r.Seq));
    }

    [Fact]
    public async Task TheSameNumberTwiceWritesOnce()
    {
        var run = await NewRunAsync();
        await Append(run, 2, "first");
        var other = new Listener();
        _store.Append(new(run, 1, 2, [1], null, other));
        Assert.Equal(AppendOutcome.Fenced, await other.Outcome(run, 2));
        _store.Append(new(run, 1, 1, [1], Head(run), other));
        Assert.Equal(AppendOutcome.Fenced, await other.Outcome(run, 1));
        Assert.Equal("born first", string.Join(' ', _store.Read(run).Select(r => Encoding.UTF8.GetString(r.Body))));
    }

    [Theory]
    [InlineData(false)]
    [InlineData(true)]
    public async Task ThereIsOneRunForAnOccasion(bool sortedIn)
    {
        var call = new Core.Identity.RunOrigin.Call(9, "a/b", 2);
        RunHead Of(long run, string key) => Head(run) with { Origin = call.Word, OriginKey = key };
        var first = _store.NextId();
        Assert.Equal(AppendOutcome.Written, await Append(first, 1, head: Of(first, call.Key)));
        // Wherever the line of the first one lies.
        if (sortedIn)
            await _store.TakeOverAsync(first);
        var second = _store.NextId();
        Assert.Equal(AppendOutcome.Taken, await Append(second, 1, head: Of(second, call.Key)));
        Assert.Null(_store.Find(second));
        Assert.Empty(_store.Read(second));
        Assert.Equal(first, _store.FindByOrigin(call.Key)!.Id);
        var other = _store.NextId();
        Assert.Equal(AppendOutcome.Written, await Append(other, 1, head: Of(other, "call:9:3:a/b")));
    }

    [Fact]
    public async Task HeadsFollowTheJournalAndCanBeListed()
    {
        for (var i = 0; i < 5; i++)
            await NewRunAsync(i % 2 == 0 ? "even" : "odd");
        await Append(
            3,
            2,
            head: Head(3, "failed", DateTimeOffset.UnixEpoch.AddHours(1), "even") with
            {
                Error = "broke",
                Leg = 2,
            }
        );
        Assert.Equal(("failed", "broke", 2), (_store.Find(3)!.State, _store.Find(3)!.Error, _store.Find(3)!.Leg));
        Assert.Equal([5, 4, 3, 2, 1], _store.List(new()).Select(r => r.Id));
        Assert.Equal([5, 3, 1], _store.List(new(Chain: "even")).Select(r => r.Id));
        Assert.Equal([3], _store.List(new(State: "failed")).Select(r => r.Id));
        Assert.Equal([2, 1], _store.List(new(Before: 3)).Select(r => r.Id));
        Assert.Equal([1, 2, 4, 5], (await _store.TakeOverAsync()).Select(r => r.Head.Id));
        Assert.Null(_store.Find(99));
    }

    [Fact]
    public async Task WhatIsWrittenIsThereAfterANewStart()
    {
        var run = await NewRunAsync();
        await Append(run, 2, "kept");
        _store.Dispose();
        using var again = new SqliteStore(_folder["db"]);
        Assert.Equal("kept", Encoding.UTF8.GetString(again.Read(run).Last().Body));
        Assert.Equal(run + 1, again.NextId());
    }

    [Fact]
    public async Task APushIsStoredWholeAndReleasesStay()
    {
        Release Of(string hash, string source) =>
            new(
                hash,
                "milk",
                "Milk",
                source,
                new Dictionary<string, byte[]> { ["a.sql"] = [1, 2] },
                DateTimeOffset.UnixEpoch
            );
        await _store.PushAsync(new([Of("h1", "one")], new Dictionary<string, string> { ["connections.yaml"] = "a" }));
        await _store.PushAsync(new([Of("h2", "two")], new Dictionary<string, string> { ["connections.yaml"] = "b" }));
        await _store.PushAsync(new([Of("h2", "two")], new Dictionary<string, string>()));
        Assert.Equal(("two", "b"), (_store.Latest("milk")!.Source, _store.Setting("connections.yaml")));
        Assert.Equal("one", _store.Find("h1")!.Source);
        Assert.Equal([1, 2], _store.Find("h2")!.Files["a.sql"]);
        Assert.Equal("milk", Assert.Single(_store.Chains()).Chain);
        Assert.Null(_store.Latest("nothing"));
    }

    [Fact]
    public async Task TheVersionsOfADraftTogetherHaveABoundAndTheLatestIsAlwaysKept()
    {
        var drafts = _store.Drafts;
        var version = 0L;
        // Two authors by turns, so that each save is a version of its own.
        for (var i = 0; i < 8; i++)
        {
            version = (
                await drafts.SaveDraftAsync(
                    new("milk", version),
                    new string((char)('a' + i), 4 << 20),
                    null,
                    new Dictionary<string, byte[]>(),
                    $"author {i % 2}",
                    DateTimeOffset.UnixEpoch.AddSeconds(i)
                )
            ).Version;
        }
        Assert.Equal("hgfe", string.Concat(drafts.DraftHistory("milk").Select(d => d.Source![0])));
        await drafts.SaveDraftAsync(
            new("milk", version),
            new string('z', 20 << 20),
            null,
            new Dictionary<string, byte[]>(),
            "bob",
            DateTimeOffset.UnixEpoch.AddDays(1)
        );
        Assert.Equal("z", string.Concat(drafts.DraftHistory("milk").Select(d => d.Source![0])));
    }

    [Fact]
    public async Task ReleasesAreNumberedAndADraftIsGoneWithItsRelease()
    {
        Release Of(string hash) =>
            new(hash, "milk", "Milk", hash, new Dictionary<string, byte[]>(), DateTimeOffset.UnixEpoch);
        Push Push(string hash, params DraftVersion[] drafts) =>
            new([Of(hash)], new Dictionary<string, string>(), "ann", "why") { Drafts = drafts };
        await _store.PushAsync(Push("h1"));
        await _store.PushAsync(Push("h1"));
        await _store.PushAsync(Push("h2"));
        await _store.PushAsync(Push("h1"));
        Assert.Equal([(3, "h1"), (2, "h2"), (1, "h1")], _store.Releases("milk").Select(r => (r.Number, r.Hash)));
        var drafts = _store.Drafts;
        var none = new Dictionary<string, byte[]>();
        var at = DateTimeOffset.UnixEpoch;
        var first = await drafts.SaveDraftAsync(
            new("milk", 0),
            "one",
            3,
            new Dictionary<string, byte[]> { ["a.sql"] = [1] },
            "ann",
            at
        );
        var second = await drafts.SaveDraftAsync(new("milk", first.Version), "two", 3, none, "bob", at.AddSeconds(5));
        var third = await drafts.SaveDraftAsync(
            new("milk", second.Version),
            "three",
            3,
            none,
            "bob",
            at.AddSeconds(10)
        );
        // Of bob's minute the end stays; ann's work before it stays too.
        Assert.Equal(["three", "one"], drafts.DraftHistory("milk").Select(d => d.Source));
        await Assert.ThrowsAsync<DraftChangedException>(() =>
            drafts.SaveDraftAsync(new("milk", second.Version), "late", 3, none, "ann", at)
        );
        await Assert.ThrowsAsync<DraftChangedException>(() =>
            _store.PushAsync(Push("h3", new DraftVersion("milk", second.Version)))
        );
        Assert.Equal(("three", 3), (drafts.FindDraft("milk")!.Source, _store.Releases("milk").Count));
        Assert.Equal([1], drafts.DraftFiles("milk")["a.sql"]);
        await _store.PushAsync(Push("h3", new DraftVersion("milk", third.Version)));
        Assert.Equal(
            (null, 4, 0),
            (drafts.FindDraft("milk"), _store.Releases("milk").Count, drafts.DraftFiles("milk").Count)
        );
        // What comes after it is a version of its own: nobody who saw an old one can overwrite it.
        var next = await drafts.SaveDraftAsync(new("milk", 0), "four", 4, none, "ann", at.AddHours(1));
        Assert.True(next.Version > third.Version);
        Assert.Equal("milk", Assert.Single(drafts.Drafts()).Chain);
        await drafts.DiscardDraftAsync(new("milk", next.Version), "ann", at.AddHours(2));
        Assert.Empty(drafts.Drafts());
    }

    [Fact]
    public async Task WithAFullDiskJournalRowsWaitAndOtherWritesAreRefused()
    {
        var run = await NewRunAsync();
        await FillUpAsync();
        var waiting = Append(run, 2, new string('x', 100_000));
        await UntilAsync(() => _store.Writer.Trouble is not null);
        Assert.Equal("the disk (or the database's size limit) is full", _store.Writer.Trouble);
        Assert.False(waiting.IsCompleted);
        _store.File.MaxPages = null;
        Assert.Equal(AppendOutcome.Written, await waiting);
        Assert.Null(_store.Writer.Trouble);
        Assert.Equal([1, 2], _store.Read(run).Select(r => r.Seq));

        async Task FillUpAsync()
        {
            _store.File.MaxPages = 1;
            // The writer's connection takes the limit over when it is opened anew, after a failure.
            await Assert.ThrowsAsync<StorageException>(() => LockedOutAsync());
        }

        // A refused write with another connection holding the lock makes the writer report; nothing hangs.
        async Task LockedOutAsync()
        {
            using var other = new SqliteConnection($"Data Source={_folder["db"]}");
            other.Open();
            using var transaction = other.BeginTransaction(deferred: false);
            await _store.PushAsync(
                new(
                    [new("h", "c", null, "s", new Dictionary<string, byte[]>(), DateTimeOffset.UnixEpoch)],
                    new Dictionary<string, string>()
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
            await UntilAsync(() => _store.Writer.Trouble is not null);
            Assert.Equal("the database is locked by another program", _store.Writer.Trouble);
        }
        Assert.Equal(AppendOutcome.Written, await waiting);
        Assert.Null(_store.Writer.Trouble);
    }

    [Fact]
    public async Task AnInputOutputErrorHoldsTheJournalUntilTheDiskWorksAgain()
    {
        var run = await NewRunAsync();
        string? told = null;
        long rows = 1;
        // The trouble lasts for a moment only: as soon as the file is opened anew, it is over.
        for (var i = 0; told is null && i < 20; i++)
        {
            BrokenFile.Break(_folder["db"] + "-wal");
            var waiting = Enumerable.Range(0, 50).Select(_ => Append(run, ++rows)).ToList();
            var all = Task.WhenAll(waiting);
            SpinWait.SpinUntil(() => (told ??= _store.Writer.Trouble) is not null || all.IsCompleted);
            Assert.All(await all, outcome => Assert.Equal(AppendOutcome.Written, outcome));
        }
        Assert.Equal("the disk gave an input/output error", told);
        Assert.Null(_store.Writer.Trouble);
        SqliteConnection.ClearAllPools();
        Assert.Equal(Enumerable.Range(1, (int)rows).Select(seq => (long)seq), _store.Read(run).Select(r => r.Seq));
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
    public void LogsAreReadLineByLineFromAnyPlace()
    {
        var logs = new AttemptLogs(_folder["logs"], TimeProvider.System);
        using (var log = logs.Open(1, 7))
        {
            log.Write("out", "first");
            log.Write("err", "zweite Zeile: ü");
        }
        var (text, next) = logs.Read(1, 7);
        Assert.Matches(@"^\S+Z out  first\n\S+Z err  zweite Zeile: ü\n$", text);
        Assert.Equal(("", next), logs.Read(1, 7, next));
        Assert.Equal(("", 0L), logs.Read(1, 8));
        using (var log = logs.Open(1, 7))
        {
            log.Write("note", "third");
        }
        Assert.EndsWith("third\n", logs.Read(1, 7, next).Text);
    }
}
