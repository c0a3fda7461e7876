using System.Diagnostics;
using System.Text;
using GateChain.Core.Identity;
using GateChain.Engine.Nodes;
using GateChain.Storage;
using GateChain.Storage.Postgres;
using GateChain.Tests;

namespace GateChain.Bench;

/// <summary>
/// What very many nodes would ask of one database, with no node there: each second that it is there and how the leader
/// is; one after the other who is there, and whether runs have lost theirs; the table of members, as silos do. Then a
/// tenth of them goes.
/// </summary>
static class Nodes
{
    const int Runs = 10_000;

    static readonly TimeSpan Window = TimeSpan.FromSeconds(10),
        Second = TimeSpan.FromSeconds(1);

    sealed class Answers
    {
        readonly List<double> _ms = [];

        public int Rounds { get; private set; }

        public void Add(TimeSpan renewed)
        {
            lock (_ms)
            {
                _ms.Add(renewed.TotalMilliseconds);
                Rounds++;
            }
        }

        public double At(double share) => _ms.Order().ElementAt((int)((_ms.Count - 1) * share));
    }

    public static async Task MeasureAsync(IReadOnlyList<int> counts)
    {
        Console.WriteLine(
            "| nodes | rounds a second of each | renewing, ms p50 / p99 | a tenth goes: its runs, of 10,000 |"
        );
        Console.WriteLine("| --- | --- | --- | --- |");
        foreach (var count in counts)
        {
            using var server = PostgreSqlServer.Start(durable: true);
            await MeasureAsync(server.To("larkmoor") + ";Maximum Pool Size=60", count);
        }
    }

    static async Task MeasureAsync(string database, int count)
    {
        await using var store = await PostgresStore.OpenAsync(database, node: "n0.0");
        var ids = Enumerable.Range(0, count).Select(i => $"n{i}.0").ToArray();
        foreach (var id in ids)
        {
            await store.Nodes.JoinAsync(
                new(id, id[..^2], "http://10.0.0.1:8480", ["warehouse"], "1.0.0", default, default, default, true)
            );
            var version = (await store.Members.ReadAsync()).Version;
            // As long as what Orleans says of a silo.
            await store.Members.WriteAsync(new(id, 1, new string('x', 300)), version + 1);
        }
        await FillAsync(store, database, ids);
        using var ending = new CancellationTokenSource();
        var answers = new Answers();
        IReadOnlyCollection<string> living = ids;
        var taken = 0;
        var gone = new HashSet<string>();
        var clock = Stopwatch.StartNew();
        var nodes = ids.Select(
                (id, i) =>
                    Task.Run(async () =>
                    {
                        await Task.Delay(Random.Shared.Next(1000));
                        // They did not come in one second.
                        var looks = NodeWork.LooksEvery(count) * Random.Shared.NextDouble();
                        for (var round = 0; !ending.IsCancellationRequested; round++)
                        {
                            var began = clock.Elapsed;
                            if (gone.Contains(id))
                                return;
                            await store.Nodes.RenewAsync(id, ids[0]);
                            answers.Add(clock.Elapsed - began);
                            if (began >= looks)
                            {
                                looks = began + NodeWork.LooksEvery(living.Count);
                                await store.Nodes.AllAsync();
                                while (await store.Nodes.OrphansAsync(living, Second * 10) > 0)
                                {
                                    var orphans = await store.Nodes.ClaimOrphansAsync(id, living, Second * 10, 200);
                                    Interlocked.Add(ref taken, orphans.Count);
                                }
                            }
                            if ((round + i) % 10 == 0)
                                await store.Members.ReadAsync();
                            if ((round + i) % 5 == 0)
                                await store.Members.TouchAsync(id, body => body);
                            var left = Second - (clock.Elapsed - began);
                            if (left > TimeSpan.Zero)
                                await Task.Delay(left);
                        }
                    })
            )
            .ToList();
        await Task.Delay(Window + Second);
        var rounds = answers.Rounds / (double)count / (Window + Second).TotalSeconds;
        var (p50, p99) = (answers.At(.5), answers.At(.99));
        // They go, and the others have agreed on it.
        var lost = ids.Skip(1).Take(Math.Max(1, count / 10)).ToList();
        lock (gone)
            gone.UnionWith(lost);
        var expected = Enumerable.Range(0, Runs).Count(r => lost.Contains(ids[r % count]));
        var went = clock.Elapsed;
        living = [.. ids.Except(lost)];
        while (Volatile.Read(ref taken) < expected && clock.Elapsed - went < TimeSpan.FromMinutes(2))
            await Task.Delay(20);
        var took = clock.Elapsed - went;
        await ending.CancelAsync();
        await Task.WhenAll(nodes);
        Console.WriteLine(
            $"| {count:N0} | {rounds:0.00} | {p50:0.0} / {p99:0.0} | {taken:N0} after {took.TotalSeconds:0.0} s |"
        );
    }

    // Runs that wait, of all nodes alike.
    static async Task FillAsync(PostgresStore store, string database, string[] ids)
    {
        var written = new Written(Runs);
        for (var i = 0; i < Runs; i++)
        {
            var run = await store.Runs.NextIdAsync();
            store.Journal.Append(
                new(
                    run,
                    1,
                    1,
                    Encoding.UTF8.GetBytes("{}"),
                    new(
                        run,
                        "waits",
                        "hash",
                        "running",
                        1,
                        Actor.Person("bench"),
                        DateTimeOffset.UnixEpoch,
                        null,
                        "{}",
                        null
                    ),
                    written
                )
            );
        }
        await written.All;
        await using var connection = new Npgsql.NpgsqlConnection(database);
        await connection.OpenAsync();
        await using var command = new Npgsql.NpgsqlCommand(
            "UPDATE runs SET owner = 'n' || ((id - (SELECT min(id) FROM runs)) % $1) || '.0';".Replace(
                "$1",
                ids.Length.ToString(),
                StringComparison.Ordinal
            ) + "INSERT INTO claims (owner) SELECT id FROM nodes ON CONFLICT DO NOTHING",
            connection
        );
        await command.ExecuteNonQueryAsync();
    }

    sealed class Written(int count) : IAppendListener
    {
        readonly TaskCompletionSource _all = new(TaskCreationOptions.RunContinuationsAsynchronously);
        int _left = count;

        public Task All => _all.Task;

        public void Appended(JournalAppend append, AppendOutcome outcome)
        {
            if (Interlocked.Decrement(ref _left) == 0)
                _all.SetResult();
        }
    }
}
