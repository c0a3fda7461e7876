using System.Text;
using GateChain.Core.Identity;
using GateChain.Storage.Postgres;
using GateChain.Storage.Sql;
using GateChain.Storage.Sqlite;
using GateChain.Storage.Tests.Contract;
using Npgsql;

namespace GateChain.Storage.Tests.Postgres;

/// <summary>Several services on one database, and what becomes of them when it goes away for a while.</summary>
public sealed class PostgresStoreTests
{
    static StoredRun Head(long id, string? origin = null) =>
        new(
            id,
            "c",
            "hash",
            "running",
            1,
            Actor.Person("ann"),
            DateTimeOffset.UnixEpoch,
            null,
            "{}",
            null,
            OriginKey: origin
        );

    static JournalAppend Row(long run, long seq, Listener listener, long epoch = 1, StoredRun? stored = null) =>
        new(run, epoch, seq, Encoding.UTF8.GetBytes($"{run}/{seq}"), stored, listener)
        {
            Notifications = stored is null ? [] : [RunNotificationKind.Started],
        };

    static async Task<int> CountAsync(IStore store, long run) => await store.Journal.ReadAsync(run).CountAsync();

    [Fact]
    public async Task WhoClaimsARunReadsAllOfTheFormerOwnerWhoWritesNothingMore()
    {
        var database = await PostgresServer.NewAsync();
        await using var one = await PostgresStore.OpenAsync(database);
        await using var two = await PostgresStore.OpenAsync(database);
        for (var round = 0; round < 20; round++)
        {
            var run = await one.Runs.NextIdAsync();
            var listener = new Listener();
            one.Journal.Append(Row(run, 1, listener, stored: Head(run)));
            for (var seq = 2; seq <= 200; seq++)
                one.Journal.Append(Row(run, seq, listener));
            // In the middle of it, or before.
            if (round % 2 == 0)
                await listener.Outcome(run, 1 + round * 5);
            var claim = await two.Ownership.ClaimAsync(run);
            while (claim is null)
                claim = await two.Ownership.ClaimAsync(run);
            var seen = await CountAsync(two, run);
            var outcomes = await Task.WhenAll(Enumerable.Range(1, 200).Select(s => listener.Outcome(run, s)));
            Assert.Equal(seen, outcomes.Count(o => o == AppendOutcome.Written));
            Assert.Equal(seen, await CountAsync(two, run));
            Assert.All(outcomes.Skip(seen), o => Assert.Equal(AppendOutcome.Fenced, o));
            two.Journal.Append(Row(run, seen + 1, listener = new(), claim.Epoch));
            Assert.Equal(AppendOutcome.Written, await listener.Outcome(run, seen + 1));
        }
    }

    [Fact]
    public async Task OfTwoServicesThatBeginForOneOccasionOneDoes()
    {
        var database = await PostgresServer.NewAsync();
        await using var one = await PostgresStore.OpenAsync(database);
        await using var two = await PostgresStore.OpenAsync(database);
        var listener = new Listener();
        var runs = new List<long>();
        for (var i = 0; i < 200; i++)
        {
            foreach (var store in (IStore[])[one, two])
            {
                var run = await store.Runs.NextIdAsync();
                runs.Add(run);
                store.Journal.Append(Row(run, 1, listener, stored: Head(run, $"fire {i}")));
            }
        }
        var outcomes = await Task.WhenAll(runs.Select(r => listener.Outcome(r, 1)));
        for (var i = 0; i < 200; i++)
        {
            Assert.Equal(
                [AppendOutcome.Written, AppendOutcome.Taken],
                outcomes[(2 * i)..(2 * i + 2)].Order().ToArray()
            );
        }
        // Of each a line, a row and news, of the others nothing.
        Assert.Equal(200, (await one.Runs.ListAsync(new(Limit: 500))).Count);
        Assert.Equal(200, (await two.Outbox.ReadAsync(0, 1000)).Count);
    }

    [Fact]
    public async Task NobodyMissesNewsThatOthersWriteAtTheSameTime()
    {
        var database = await PostgresServer.NewAsync();
        await using var one = await PostgresStore.OpenAsync(database);
        await using var two = await PostgresStore.OpenAsync(database);
        await one.Outbox.OpenAsync(["reader"]);
        var listener = new Listener();
        var writing = Task.WhenAll(
            ((IStore[])[one, two]).Select(store =>
                Task.Run(async () =>
                {
                    for (var i = 0; i < 300; i++)
                    {
                        var run = await store.Runs.NextIdAsync();
                        store.Journal.Append(Row(run, 1, listener, stored: Head(run)));
                        if (i % 7 == 0)
                            await listener.Outcome(run, 1);
                    }
                })
            )
        );
        // Read as a consumer does: only what lies behind the newest that was seen.
        var seen = new List<long>();
        var last = 0L;
        for (var quiet = 0; quiet < 3; quiet = writing.IsCompleted ? quiet + 1 : 0)
        {
            foreach (var row in await one.Outbox.ReadAsync(last, 1000))
            {
                seen.Add(row.Run);
                last = row.Position;
            }
            await Task.Delay(5);
        }
        await writing;
        await Task.WhenAll(seen.Select(r => listener.Outcome(r, 1)));
        foreach (var row in await one.Outbox.ReadAsync(last, 1000))
            seen.Add(row.Run);
        Assert.Equal(600, seen.Distinct().Count());
        Assert.Equal(600, seen.Count);
    }

    [Fact]
    public async Task WhileTheDatabaseIsAwayRunsHoldStillAndNothingIsLostOrDoubled()
    {
        using var server = PostgreSqlServer.Start();
        var database = server.To("larkmoor") + ";Timeout=3";
        await using var store = await PostgresStore.OpenAsync(database);
        var listener = new Listener();
        var run = await store.Runs.NextIdAsync();
        store.Journal.Append(Row(run, 1, listener, stored: Head(run)));
        Assert.Equal(AppendOutcome.Written, await listener.Outcome(run, 1));
        var seq = 1;
        for (var round = 0; round < 3; round++)
        {
            for (var i = 0; i < 100; i++)
                store.Journal.Append(Row(run, ++seq, listener));
            // In the middle of writing, as a power cut would.
            server.Kill();
            for (var i = 0; i < 100; i++)
                store.Journal.Append(Row(run, ++seq, listener));
            for (var i = 0; store.Journal.Writer.Trouble is null; i++)
            {
                Assert.True(i < 2000, "the writer does not tell its trouble");
                await Task.Delay(10);
            }
            Assert.Contains("can't be reached", store.Journal.Writer.Trouble, StringComparison.Ordinal);
            await Assert.ThrowsAsync<StorageException>(() =>
                store.Secrets.RemoveAsync("x", new(DateTimeOffset.UnixEpoch, Actor.Person("ann"), "remove", "secret x"))
            );
            server.Restart();
            Assert.Equal(AppendOutcome.Written, await listener.Outcome(run, seq).WaitAsync(TimeSpan.FromSeconds(60)));
        }
        var outcomes = await Task.WhenAll(Enumerable.Range(1, seq).Select(s => listener.Outcome(run, s)));
        Assert.All(outcomes, o => Assert.Equal(AppendOutcome.Written, o));
        Assert.Equal(
            Enumerable.Range(1, seq).Select(s => (long)s),
            await store.Journal.ReadAsync(run).Select(r => r.Seq).ToListAsync()
        );
        Assert.Null(store.Journal.Writer.Trouble);
    }

    [Fact]
    public async Task ASecondServiceIsRefusedAndADatabaseOfANewerVersionToo()
    {
        var database = await PostgresServer.NewAsync();
        await using (await PostgresStore.OpenAsync(database, alone: true))
        {
            Assert.Contains(
                "another service works with this database",
                (
                    await Assert.ThrowsAsync<StorageException>(() => PostgresStore.OpenAsync(database, alone: true))
                ).Message
            );
        }
        await using var again = await PostgresStore.OpenAsync(database, alone: true);
        await using (var connection = new NpgsqlConnection(database))
        {
            await connection.OpenAsync();
            await using var command = new NpgsqlCommand(
                "INSERT INTO schemaversions (scriptname, applied) VALUES ('x.Schema.9999-later.sql', now())",
                connection
            );
            await command.ExecuteNonQueryAsync();
        }
        Assert.Contains(
            "written by a newer version",
            (await Assert.ThrowsAsync<StorageException>(() => PostgresStore.OpenAsync(database))).Message
        );
        Assert.StartsWith(
            "the database can't be opened",
            (
                await Assert.ThrowsAsync<StorageException>(() =>
                    PostgresStore.OpenAsync("Host=127.0.0.1;Port=1;Username=x;Database=y;Timeout=2")
                )
            ).Message
        );
    }

    [Fact]
    public async Task EverythingGoesToPostgresAndBack()
    {
        using var folder = new TempFolder();
        var database = await PostgresServer.NewAsync();
        await using (var file = new SqliteStore(folder["from.db"]))
        {
            await StoreFilling.FillAsync(file);
            await using var postgres = await PostgresStore.OpenAsync(database);
            var told = new List<Moved>();
            await StoreMove.CopyAsync(file, postgres, told.Add, default);
            Assert.Equal(Tables.All.Select(t => t.Name).Append("journal"), told.Select(t => t.Table));
            Assert.All(told, t => Assert.True(t.Rows > 0, $"{t.Table} was not filled"));
            Assert.Equal(await StoreFilling.TellAsync(file), await StoreFilling.TellAsync(postgres));
            // What is there is not written over.
            Assert.Contains(
                "is not empty",
                (
                    await Assert.ThrowsAsync<StorageException>(() =>
                        StoreMove.CopyAsync(file, postgres, _ => { }, default)
                    )
                ).Message
            );
        }
        await using var source = await PostgresStore.OpenAsync(database);
        await using (var target = new SqliteStore(folder["back.db"]))
            await StoreMove.CopyAsync(source, target, _ => { }, default);
        await using var back = new SqliteStore(folder["back.db"]);
        Assert.Equal(await StoreFilling.TellAsync(source), await StoreFilling.TellAsync(back));
        // Both go on behind what came along.
        foreach (var store in (IStore[])[source, back])
            await StoreFilling.ContinueAsync(store);
    }
}
