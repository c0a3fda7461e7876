using System.Globalization;
using System.Text;
using GateChain.Core.Chains.Kinds;
using GateChain.Core.Checking;
using GateChain.Core.Expressions;
using GateChain.Core.History;
using GateChain.Core.Identity;
using GateChain.Core.Running.Events;
using GateChain.Core.Values;
using GateChain.Engine;
using GateChain.Storage.Sqlite;
using Microsoft.Data.Sqlite;
using Microsoft.Extensions.Logging.Abstractions;

namespace GateChain.Bench;

/// <summary>
/// A data folder as it is after a year: lines of runs and what is remembered of them, written without running
/// anything. Their journals are not there.
/// </summary>
static class Year
{
    const int Chains = 20,
        Steps = 20;

    static string Name(int chain) => $"nightly-{chain:00}";

    /// <param name="folder">Where it is made; must be empty.</param>
    /// <param name="runs">How many runs.</param>
    /// <param name="journals">Whether each has a journal too: that of one that was really run.</param>
    public static async Task MakeAsync(string folder, int runs, bool journals = false)
    {
        Directory.CreateDirectory(folder);
        var file = Path.Combine(folder, "gatechain.db");
        await using (var store = new SqliteStore(file))
        {
            await using var engine = new ChainEngine(
                new(folder, folder),
                store,
                [],
                [],
                new NoSecrets(),
                new ChainCheck(new KindCatalogue()),
                TimeProvider.System,
                NullLogger<ChainEngine>.Instance
            );
            await engine.Workspace.PushAsync(
                Enumerable
                    .Range(0, Chains)
                    .ToDictionary(c => $"{Name(c)}.chain.yaml", c => Encoding.UTF8.GetBytes(Source(Name(c)))),
                Actor.Person("bench")
            );
            if (journals)
                await OneAsync(engine);
        }
        using var connection = new SqliteConnection($"Data Source={file};Pooling=False");
        connection.Open();
        Execute(connection, "PRAGMA synchronous = OFF");
        using (var transaction = connection.BeginTransaction())
        {
            if (journals)
            {
                Execute(
                    connection,
                    "CREATE TEMP TABLE one AS SELECT seq, count, body, sum FROM journal WHERE run = 1; "
                        + "DELETE FROM journal; DELETE FROM runs; DELETE FROM history; DELETE FROM outbox; "
                        + "DELETE FROM occasions"
                );
            }
            Fill(connection, runs);
            if (journals)
            {
                Execute(
                    connection,
                    "INSERT INTO journal (run, seq, count, body, sum) "
                        + "SELECT r.id, o.seq, o.count, o.body, o.sum FROM runs r, one o"
                );
            }
            transaction.Commit();
        }
        Execute(connection, "PRAGMA wal_checkpoint(TRUNCATE)");
        Console.WriteLine($"{runs:N0} runs, {new FileInfo(file).Length / 1e6:N0} MB, in {folder}");
    }

    // A run with all of its decisions sorted into the journal.
    static async Task OneAsync(ChainEngine engine)
    {
        var ended = new TaskCompletionSource(TaskCreationOptions.RunContinuationsAsynchronously);
        using var listening = engine.Feed.Subscribe(null, change =>
        {
            if (change.Decision.Events[^1] is RunSettled)
                ended.TrySetResult();
        });
        await engine.Starter.StartAsync(Name(0), new Dictionary<string, Value>(), null, Actor.Person("bench"));
        await ended.Task;
    }

    static string Source(string name)
    {
        var text = new StringBuilder($"chain: {name}\nparams: {{ day: {{ type: string, default: \"\" }} }}\nsteps:\n");
        for (var i = 0; i < Steps; i++)
            text.Append(CultureInfo.InvariantCulture, $"  s{i}: {{ kind: wait, set: {{ for: 1ms }} }}\n");
        text.Append("gates:\n");
        for (var i = 1; i < Steps; i++)
            text.Append(CultureInfo.InvariantCulture, $"  - {{ from: s{i - 1}, to: s{i} }}\n");
        return text.ToString();
    }

    static void Fill(SqliteConnection connection, int runs)
    {
        var chance = new Random(20261129);
        var addresses = Enumerable.Range(0, Steps).Select(i => $"s{i}").ToList();
        Execute(connection, $"INSERT INTO history_shapes VALUES (1, '[\"{string.Join("\",\"", addresses)}\"]')");
        using var run = connection.CreateCommand();
        run.CommandText =
            "INSERT INTO runs (id, chain, release, state, leg, by_whom, started, ended, params, error, epoch, origin) "
            + "SELECT @id, name, release, @state, 1, 'nightly', @started, @ended, @params, @error, 1, 'fire' "
            + "FROM chains WHERE name = @chain";
        using var leg = connection.CreateCommand();
        leg.CommandText =
            "INSERT INTO history (run, leg, chain, number, state, started, ended, late, source, latest, shape, steps) "
            + "VALUES (@id, 1, @chain, 1, @state, @started, @ended, 0, 0, 1, 1, @steps)";
        var end = DateTimeOffset.UtcNow.AddMinutes(-1);
        for (var id = 1; id <= runs; id++)
        {
            var started = end - TimeSpan.FromDays(365) * ((runs - id) / (double)runs);
            var fails = chance.Next(50) == 0 ? chance.Next(Steps) : Steps;
            var at = 0L;
            var steps = new List<StepHistory>(Steps);
            for (var i = 0; i < Steps; i++)
            {
                var span = 20 + chance.Next(2000);
                steps.Add(
                    i > fails
                        ? new(addresses[i], "skipped")
                        : new(addresses[i], i == fails ? "failed" : "succeeded")
                        {
                            Count = 1,
                            Failed = i == fails ? 1 : 0,
                            Attempts = 1,
                            Begin = at,
                            Span = span,
                            Work = span,
                            Read = i % 4 == 0 ? chance.Next(10_000) : null,
                        }
                );
                at += i > fails ? 0 : span;
            }
            var state = fails < Steps ? "failed" : "succeeded";
            foreach (var command in (SqliteCommand[])[run, leg])
            {
                command.Parameters.Clear();
                Add(command, "@id", id);
                Add(command, "@chain", Name(id % Chains));
                Add(command, "@state", state);
                Add(command, "@started", Text(started));
                Add(command, "@ended", Text(started.AddMilliseconds(at)));
            }
            Add(run, "@params", $$"""{"day":"{{started:yyyy-MM-dd}}"}""");
            Add(run, "@error", fails < Steps ? $"s{fails} broke" : null);
            Add(leg, "@steps", LegPacking.Pack(steps));
            run.ExecuteNonQuery();
            leg.ExecuteNonQuery();
        }
    }

    static void Add(SqliteCommand command, string name, object? value) =>
        command.Parameters.AddWithValue(name, value ?? DBNull.Value);

    static string Text(DateTimeOffset time) => time.ToString("O", CultureInfo.InvariantCulture);

    static void Execute(SqliteConnection connection, string sql)
    {
        using var command = connection.CreateCommand();
        command.CommandText = sql;
        command.ExecuteNonQuery();
    }
}
