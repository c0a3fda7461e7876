using System.Collections.Concurrent;
using System.Diagnostics;
using System.Text;
using GateChain.Core.Chains.Kinds;
using GateChain.Core.Checking;
using GateChain.Core.Expressions;
using GateChain.Core.Identity;
using GateChain.Core.Retention;
using GateChain.Core.Running;
using GateChain.Core.Running.Events;
using GateChain.Core.Values;
using GateChain.Engine;
using GateChain.Kinds.Contract;
using GateChain.Storage.Sql;
using GateChain.Storage.Sqlite;
using Microsoft.Extensions.Logging.Abstractions;

namespace GateChain.Bench;

/// <summary>The engine with its real journal, on steps that do nothing.</summary>
static class EngineRate
{
    sealed class NothingKind : IStepKind
    {
        static readonly AttemptResult Done = AttemptResult.Done();

        public ConcurrentDictionary<(long Run, string Step), long>? Began { get; init; }
        public ConcurrentDictionary<(long Run, string Step), long>? Ended { get; init; }

        public KindDescription Description { get; } =
            new("nothing", "Does nothing.", SettingShape.Record(), new Dictionary<string, CelType>());

        public ValueTask<AttemptResult> RunAsync(Value settings, AttemptContext context, CancellationToken cancel)
        {
            if (Began is not null)
            {
                Began[(context.Run, context.Step)] = Stopwatch.GetTimestamp();
                Ended![(context.Run, context.Step)] = Stopwatch.GetTimestamp();
            }
            return new(Done);
        }
    }

    /// <summary>Opens the store that is measured; a file when nobody says otherwise.</summary>
    public static Func<string, Task<SqlStore>> Open { get; set; } =
        folder => Task.FromResult<SqlStore>(new SqliteStore(Path.Combine(folder, "db")));

    /// <summary>
    /// Durable steps per second: every step's end and its successor's start are on disk before the successor works.
    /// </summary>
    public static async Task<double> StepsPerSecondAsync(int runs, int steps, int waves)
    {
        TimeSpan took = default;
        await WithEngineAsync(new NothingKind(), steps, async engine =>
        {
            var clock = Stopwatch.StartNew();
            await RunAllAsync(engine, runs, waves);
            took = clock.Elapsed;
        });
        return runs * (double)steps * waves / took.TotalSeconds;
    }

    /// <summary>
    /// The same with everything that listens to the outbox, and how long after the last run its history is there.
    /// </summary>
    public static async Task<(double Rate, TimeSpan Lag)> WithHistoryAsync(int runs, int steps, int waves, bool history)
    {
        TimeSpan took = default,
            lag = default;
        await WithEngineAsync(
            new NothingKind(),
            steps,
            async engine =>
            {
                await engine.StartAsync();
                var clock = Stopwatch.StartNew();
                await RunAllAsync(engine, runs, waves);
                took = clock.Elapsed;
                while (history && (await engine.History.VerifyAsync(rebuild: false, default)).Wrong.Count > 0)
                    await Task.Delay(20);
                lag = clock.Elapsed - took;
            },
            history
        );
        return (runs * (double)steps * waves / took.TotalSeconds, lag);
    }

    /// <summary>
    /// From the end of each step's work to the beginning of its successor's, in milliseconds, sorted.
    /// </summary>
    public static async Task<List<double>> HandOffAsync(int runs, int steps)
    {
        var kind = new NothingKind { Began = new(), Ended = new() };
        await WithEngineAsync(kind, steps, engine => RunAllAsync(engine, runs, 1));
        return HandOffs(kind);
    }

    /// <summary>
    /// The same in a folder that holds what a year has left, once with nothing beside it and once while retention lets
    /// go half of it; and how many runs went meanwhile.
    /// </summary>
    public static async Task<(List<double> Alone, List<double> Beside, long Gone)> BesideRetentionAsync(
        string folder,
        int runs,
        int steps
    )
    {
        var kind = new NothingKind { Began = new(), Ended = new() };
        var (alone, gone) = (new List<double>(), 0L);
        await WithEngineAsync(
            kind,
            steps,
            async engine =>
            {
                await RunAllAsync(engine, runs, 1);
                alone = HandOffs(kind);
                kind.Began.Clear();
                kind.Ended.Clear();
                await engine.Keeping.SetRuleAsync(
                    KeepPlace.OfFolder(Area.Root),
                    new(180, 0, null),
                    Actor.Person("bench")
                );
                var before = await CountAsync(folder);
                using var cut = new CancellationTokenSource();
                var pass = engine.Keeping.PassAsync(dryRun: false, cut.Token);
                await RunAllAsync(engine, runs, 1);
                await cut.CancelAsync();
                await pass.ContinueWith(_ => { }, TaskScheduler.Default);
                gone = before + runs - await CountAsync(folder);
            },
            history: false,
            folder
        );
        return (alone, HandOffs(kind), gone);
    }

    static async Task<long> CountAsync(string folder)
    {
        await using var connection = new Microsoft.Data.Sqlite.SqliteConnection(
            $"Data Source={Path.Combine(folder, "gatechain.db")};Pooling=False"
        );
        await connection.OpenAsync();
        await using var command = connection.CreateCommand();
        command.CommandText = "SELECT count(*) FROM runs";
        return (long)(await command.ExecuteScalarAsync())!;
    }

    static List<double> HandOffs(NothingKind kind)
    {
        var all = new List<double>();
        foreach (var ((run, step), ended) in kind.Ended!)
        {
            if (kind.Began!.TryGetValue((run, $"s{int.Parse(step[1..]) + 1}"), out var began))
                all.Add(Stopwatch.GetElapsedTime(ended, began).TotalMilliseconds);
        }
        all.Sort();
        return all;
    }

    // So many runs are in flight all the time: where one ends, the next one starts, until there were enough of them.
    static async Task RunAllAsync(ChainEngine engine, int inFlight, int waves)
    {
        var left = inFlight * waves;
        var toStart = left - inFlight;
        var done = new TaskCompletionSource(TaskCreationOptions.RunContinuationsAsynchronously);
        using var listening = engine.Feed.Subscribe(null, change =>
        {
            if (change.Decision.Events[^1] is not RunSettled)
                return;
            if (Interlocked.Decrement(ref toStart) >= 0)
                _ = StartAsync();
            if (Interlocked.Decrement(ref left) == 0)
                done.SetResult();
        });
        await Task.WhenAll(Enumerable.Range(0, inFlight).Select(_ => StartAsync()));
        await done.Task;

        Task<long> StartAsync() =>
            engine.Starter.StartAsync("bench", new Dictionary<string, Value>(), null, Actor.Person("bench"));
    }

    static async Task WithEngineAsync(
        IStepKind kind,
        int steps,
        Func<ChainEngine, Task> work,
        bool history = true,
        string? there = null
    )
    {
        var folder = there ?? Directory.CreateTempSubdirectory("gatechain-bench-").FullName;
        try
        {
            await using var store = there is null
                ? await Open(folder)
                : new SqliteStore(Path.Combine(folder, "gatechain.db"));
            await using var engine = new ChainEngine(
                new(folder, folder) { KeepsHistory = history },
                store,
                [kind],
                [],
                new NoSecrets(),
                new ChainCheck(new KindCatalogue(kind.Description)),
                TimeProvider.System,
                NullLogger<ChainEngine>.Instance
            );
            var chain = new StringBuilder("chain: bench\nsteps:\n");
            for (var i = 0; i < steps; i++)
                chain.Append($"  s{i}: {{ kind: nothing }}\n");
            chain.Append("gates:\n");
            for (var i = 1; i < steps; i++)
                chain.Append($"  - {{ from: s{i - 1}, to: s{i} }}\n");
            await engine.Workspace.PushAsync(
                new Dictionary<string, byte[]> { ["bench.chain.yaml"] = Encoding.UTF8.GetBytes(chain.ToString()) },
                Actor.Person("bench")
            );
            await work(engine);
        }
        finally
        {
            if (there is null)
                Directory.Delete(folder, recursive: true);
        }
    }
}
