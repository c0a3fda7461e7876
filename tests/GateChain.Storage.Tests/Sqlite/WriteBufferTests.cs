using System.Collections.Concurrent;
using Dapper;
using GateChain.Core.Identity;
using GateChain.Storage.Sqlite;
using Microsoft.Data.Sqlite;

namespace GateChain.Storage.Tests.Sqlite;

/// <summary>What is new lies in blocks for all runs, and is sorted in by run later: nobody may notice.</summary>
public sealed class WriteBufferTests : IDisposable
{
    readonly TempFolder _folder = new();

    public void Dispose() => _folder.Dispose();

    /// <summary>
    /// Many runs that append rows of all sizes, each when the one before is on disk; notes what was reported as
    /// written.
    /// </summary>
    sealed class Writers(SqliteStore store, int seed) : IAppendListener
    {
        readonly ConcurrentDictionary<long, TaskCompletionSource<AppendOutcome>> _waiting = new();

        public ConcurrentDictionary<long, long> Written { get; } = new();
        public ConcurrentBag<string> Wrong { get; } = [];

        public static byte[] Body(long run, long seq)
        {
            var random = new Random((int)(run * 1_000_003 + seq));
            var body = new byte[
                random.Next(100) switch
                {
                    0 => 200_000,
                    < 10 => 20_000,
                    < 50 => 300,
                    _ => 8,
                }
            ];
            random.NextBytes(body);
            return body;
        }

        public void Appended(JournalAppend append, AppendOutcome outcome) => _waiting[append.Run].SetResult(outcome);

        public async Task RunAsync(int runs, int rows) =>
            await Task.WhenAll(
                Enumerable.Range(0, runs).Select(i => Task.Run(() => RunOneAsync(new Random(seed + i).Next(1, rows))))
            );

        async Task RunOneAsync(int rows)
        {
            var run = await store.Runs.NextIdAsync();
            for (var seq = 1L; seq <= rows; seq++)
            {
                var done = new TaskCompletionSource<AppendOutcome>(TaskCreationOptions.RunContinuationsAsynchronously);
                _waiting[run] = done;
                var listed = seq == 1 || seq == rows ? Head(run, seq) : null;
                store.Journal.Append(new(run, 1, seq, Body(run, seq), listed, this));
                if (await done.Task != AppendOutcome.Written)
                    Wrong.Add($"{run}/{seq} was not written");
                Written[run] = seq;
                if (seq % 50 == 0 || seq == rows)
                    await LookAsync(store, run, seq, Wrong);
            }
        }

        public static StoredRun Head(long run, long seq) =>
            new(
                run,
                run % 2 == 0 ? "even" : "odd",
                "hash",
                seq == 1 ? "running" : "succeeded",
                1,
                Actor.Person("ann"),
                DateTimeOffset.UnixEpoch.AddSeconds(run),
                seq == 1 ? null : DateTimeOffset.UnixEpoch.AddSeconds(run + seq),
                "{}",
                null
            );

        /// <summary>A run is read whole, behind a number, and in lists.</summary>
        public static async Task LookAsync(SqliteStore store, long run, long last, ConcurrentBag<string> wrong)
        {
            var rows = await store.Journal.ReadAsync(run).ToListAsync();
            if (
                !rows.Select(r => r.Seq).SequenceEqual(Enumerable.Range(1, rows.Count).Select(i => (long)i))
                || rows.Count < last
            )
            {
                wrong.Add($"{run} has {rows.Count} rows of {last}");
            }
            if (rows.Any(r => !r.Body.AsSpan().SequenceEqual(Body(run, r.Seq))))
            {
                var r = rows.First(r => !r.Body.AsSpan().SequenceEqual(Body(run, r.Seq)));
                wrong.Add($"{run}/{r.Seq} has {r.Body.Length} bytes, not {Body(run, r.Seq).Length}");
            }
            var behind = await store.Journal.ReadAsync(run, after: last / 2).Select(r => r.Seq).ToListAsync();
            if (!behind.SequenceEqual(rows.Where(r => r.Seq > last / 2).Select(r => r.Seq)))
                wrong.Add($"{run} behind {last / 2}");
            var listed = await store.Runs.FindAsync(run);
            if (listed is null || listed != Head(run, listed.Ended is null ? 1 : rows.Count))
                wrong.Add($"{run} has another head");
            if (await store.Runs.ListAsync(new(Before: run + 1, Limit: 1)) is not [{ } first] || first.Id != run)
                wrong.Add($"{run} is not listed");
        }
    }

    // A bit that the disk flips is told for the runs that it belongs to, also when the row is sorted in later; all
    // others go on.
    [Theory]
    [InlineData(1)]
    [InlineData(7)]
    public async Task AFlippedBitIsFound(int seed)
    {
        await using (var store = new SqliteStore(_folder["db"]))
        {
            var writers = new Writers(store, seed);
            await writers.RunAsync(runs: 60, rows: 160);
            Assert.Empty(writers.Wrong);
        }
        var random = new Random(seed);
        var hit = new HashSet<long>();
        using (var connection = new SqliteConnection($"Data Source={_folder["db"]};Pooling=False"))
        {
            foreach (var (table, body) in new[] { ("journal", "body"), ("journal_tail", "block") })
            {
                var rows = connection.Query<long>($"SELECT rowid FROM {table} WHERE length({body}) > 600").ToList();
                var row = rows[random.Next(rows.Count)];
                var bytes = connection.QuerySingle<byte[]>($"SELECT {body} FROM {table} WHERE rowid = {row}");
                if (table == "journal")
                {
                    hit.Add(connection.QuerySingle<long>($"SELECT run FROM journal WHERE rowid = {row}"));
                    bytes[random.Next(bytes.Length)] ^= (byte)(1 << random.Next(8));
                }
                else
                {
                    var runs = new List<long>();
                    foreach (var entry in JournalBlocks.Read(bytes))
                    {
                        runs.Add(entry.Run);
                        bytes[entry.Start] ^= entry.Start < 100 ? (byte)1 : (byte)0;
                    }
                    hit.UnionWith(runs);
                }
                connection.Execute($"UPDATE {table} SET {body} = @bytes WHERE rowid = {row}", new { bytes });
            }
        }
        await using var again = new SqliteStore(_folder["db"]);
        for (var sorted = 0; sorted < 2; sorted++)
        {
            for (var run = 1L; run <= 60; run++)
            {
                var wrong = new ConcurrentBag<string>();
                if (hit.Contains(run))
                    await Assert.ThrowsAsync<DamagedRunException>(() => Writers.LookAsync(again, run, 1, wrong));
                else
                    await Writers.LookAsync(again, run, 1, wrong);
                Assert.Empty(wrong);
            }
            // All that lies in the buffer is sorted in by what is written now.
            var writers = new Writers(again, seed + 1);
            await writers.RunAsync(runs: 60, rows: 160);
            Assert.Empty(writers.Wrong);
        }
    }

    [Fact]
    public async Task ReadersFindEveryRowOnceWhileItIsSortedIn()
    {
        await using var store = new SqliteStore(_folder["db"]);
        var writers = new Writers(store, seed: 1);
        await writers.RunAsync(runs: 120, rows: 160);
        Assert.Empty(writers.Wrong);
        using var connection = new SqliteConnection($"Data Source={_folder["db"]}");
        var (packed, most) = connection.QuerySingle<(long, long)>(
            "SELECT count(*), max(length(body)) FROM journal WHERE count > 1"
        );
        Assert.True(packed > 100, $"{packed} packed rows: nothing was sorted in");
        Assert.True(most < 600_000, "a row has grown without bounds");
        Assert.True(connection.ExecuteScalar<long>("SELECT sum(length(block)) FROM journal_tail") < 12 << 20);
        Assert.Equal(
            Enumerable.Range(1, 120).Reverse().Select(i => (long)i),
            (await store.Runs.ListAsync(new(Limit: 500))).Select(h => h.Id)
        );
        Assert.Equal(60, (await store.Runs.ListAsync(new(Chain: "odd", State: "succeeded", Limit: 500))).Count);
        Assert.Empty(await store.Runs.ListAsync(new(State: "running")));
    }

    [Theory]
    [InlineData(10)]
    [InlineData(2_000)]
    [InlineData(6_000)]
    public async Task WhatWasReportedIsThereAfterACutAtAnyTime(long after)
    {
        await using var store = new SqliteStore(_folder["db"]);
        var writers = new Writers(store, seed: (int)after);
        var writing = writers.RunAsync(runs: 60, rows: 300);
        while (!writing.IsCompleted && writers.Written.Values.Sum() < after)
            await Task.Delay(1);
        // As a cut leaves them: the log of the database last, whatever happens meanwhile.
        var reported = writers.Written.ToDictionary();
        using (var reading = new SqliteConnection($"Data Source={_folder["db"]}"))
        {
            reading.Open();
            using var held = reading.BeginTransaction(deferred: true);
            _ = reading.ExecuteScalar<long>("SELECT count(*) FROM runs");
            File.Copy(_folder["db"], _folder["cut"]);
            File.Copy(_folder["db-wal"], _folder["cut-wal"]);
        }
        await using var again = new SqliteStore(_folder["cut"]);
        var wrong = new ConcurrentBag<string>();
        foreach (var (run, last) in reported)
            await Writers.LookAsync(again, run, last, wrong);
        Assert.Empty(wrong);
        Assert.True(await again.Runs.NextIdAsync() > reported.Keys.Max());
        using (var connection = new SqliteConnection($"Data Source={_folder["cut"]}"))
        {
            Assert.Equal(0, connection.ExecuteScalar<long>("SELECT count(*) FROM journal_tail"));
        }
        await writing;
        Assert.Empty(writers.Wrong);
    }

    sealed class Outcomes : IAppendListener
    {
        readonly BlockingCollection<AppendOutcome> _all = [];

        public void Appended(JournalAppend append, AppendOutcome outcome) => _all.Add(outcome);

        public Task<AppendOutcome> NextAsync() =>
            Task.Run(() =>
                _all.TryTake(out var outcome, TimeSpan.FromSeconds(10)) ? outcome : throw new TimeoutException()
            );
    }

    [Fact]
    public async Task ADamagedBlockIsToldInASentence()
    {
        await using (var store = new SqliteStore(_folder["db"]))
        {
            await new Writers(store, seed: 5).RunAsync(runs: 2, rows: 3);
        }
        using (var connection = new SqliteConnection($"Data Source={_folder["db"]}"))
        {
            connection.Execute("UPDATE journal_tail SET block = zeroblob(33)");
        }
        Assert.StartsWith(
            "it could not be stored: the database can't be read or written",
            Assert.Throws<StorageException>(() => new SqliteStore(_folder["db"])).Message
        );
    }

    [Fact]
    public async Task RowsOfAnEarlierVersionAreRead()
    {
        await using (var store = new SqliteStore(_folder["db"]))
        {
            await new Writers(store, seed: 4).RunAsync(runs: 1, rows: 2);
        }
        using (var connection = new SqliteConnection($"Data Source={_folder["db"]}"))
        {
            connection.Execute(
                "INSERT INTO runs (id, chain, release, state, leg, by_whom, started, params, "
                    + "epoch) VALUES (7, 'c', 'h', 'running', 1, 'ann', '2026-01-01T00:00:00Z', '{}', 1)"
            );
            foreach (var seq in (int[])[1, 2, 3])
            {
                connection.Execute(
                    "INSERT INTO journal (run, seq, body) VALUES (7, @seq, @body)",
                    new { seq, body = new[] { (byte)seq } }
                );
            }
        }
        await using var again = new SqliteStore(_folder["db"]);
        var told = new Outcomes();
        again.Journal.Append(new(7, 1, 3, [9], null, told));
        Assert.Equal(AppendOutcome.Fenced, await told.NextAsync());
        again.Journal.Append(new(7, 1, 4, [4], null, told));
        Assert.Equal(AppendOutcome.Written, await told.NextAsync());
        Assert.Equal([1, 2, 3, 4], await again.Journal.ReadAsync(7).Select(r => (int)r.Body[0]).ToListAsync());
        Assert.Equal([3, 4], await again.Journal.ReadAsync(7, after: 2).Select(r => (int)r.Body[0]).ToListAsync());
        Assert.Equal(8, await again.Runs.NextIdAsync());
    }
}
