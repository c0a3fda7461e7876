using System.Diagnostics;
using System.Text;
using GateChain.Core.Chains.Kinds;
using GateChain.Core.Checking;
using GateChain.Core.Expressions;
using GateChain.Core.Identity;
using GateChain.Core.Running;
using GateChain.Core.Running.Events;
using GateChain.Core.Values;
using GateChain.Engine;
using GateChain.Kinds.Contract;
using GateChain.Storage.Sqlite;
using Microsoft.Extensions.Logging.Abstractions;

namespace GateChain.Bench;

/// <summary>
/// How far one run, and the number of runs, can grow: with n, 2n and 4n, so that nothing quadratic can hide.
/// </summary>
static class Scale
{
    /// <summary>Does nothing, notes when; from a number on it works until the engine ends.</summary>
    sealed class NotingKind(int most) : IStepKind
    {
        int _count;

        public KindDescription Description { get; } =
            new("nothing", "Does nothing.", SettingShape.Record(), new Dictionary<string, CelType>());
        public long[] Times { get; } = new long[most + 1];
        public int HangsFrom { get; init; } = int.MaxValue;
        public int Count => Volatile.Read(ref _count);

        public async ValueTask<AttemptResult> RunAsync(Value settings, AttemptContext context, CancellationToken cancel)
        {
            var n = Interlocked.Increment(ref _count);
            if (n <= most)
                Times[n] = Stopwatch.GetTimestamp();
            if (n >= HangsFrom)
            {
                try
                {
                    await Task.Delay(Timeout.Infinite, cancel).ConfigureAwait(false);
                }
                catch (OperationCanceledException)
                {
                    return AttemptResult.Fail("stopped", "ended early");
                }
            }
            return AttemptResult.Done();
        }
    }

    sealed class Place : IDisposable
    {
        readonly string _folder = Directory.CreateTempSubdirectory("gatechain-scale-").FullName;

        public string Database => Path.Combine(_folder, "db");

        public async Task WithEngineAsync(IStepKind kind, Func<ChainEngine, Task> work)
        {
            await using var store = new SqliteStore(Database);
            await using var engine = new ChainEngine(
                new(_folder, _folder) { ShutdownPatience = TimeSpan.FromSeconds(30) },
                store,
                [kind],
                [],
                new NoSecrets(),
                new ChainCheck(new KindCatalogue(kind.Description)),
                TimeProvider.System,
                NullLogger<ChainEngine>.Instance
            );
            await work(engine);
        }

        public void Dispose() => Directory.Delete(_folder, recursive: true);
    }

    static Task PushAsync(ChainEngine engine, string yaml) =>
        engine.Workspace.PushAsync(
            new Dictionary<string, byte[]> { ["bench.chain.yaml"] = Encoding.UTF8.GetBytes(yaml) },
            Actor.Person("bench")
        );

    static async Task<long> RunAsync(ChainEngine engine)
    {
        var done = new TaskCompletionSource<long>(TaskCreationOptions.RunContinuationsAsynchronously);
        using var listening = engine.Feed.Subscribe(null, change =>
        {
            if (change.Decision.Events[^1] is RunSettled)
                done.TrySetResult(change.Run);
        });
        await engine.Starter.StartAsync("bench", new Dictionary<string, Value>(), null, Actor.Person("bench"));
        return await done.Task;
    }

    /// <summary>Steps in one scope: a row that each step hands on, and as many that start at once.</summary>
    public static async Task ScopeAsync(int steps)
    {
        var yaml = new StringBuilder("chain: bench\nsteps:\n");
        for (var i = 0; i < steps; i++)
            yaml.Append($"  s{i}: {{ kind: nothing }}\n");
        yaml.Append("gates:\n");
        for (var i = 2; i < steps; i += 2)
            yaml.Append($"  - {{ from: s{i - 2}, to: s{i} }}\n");
        using var place = new Place();
        var kind = new NotingKind(0);
        await place.WithEngineAsync(kind, async engine =>
        {
            var clock = Stopwatch.StartNew();
            await PushAsync(engine, yaml.ToString());
            var pushed = clock.Elapsed;
            clock.Restart();
            await RunAsync(engine);
            Console.WriteLine(
                $"  {steps, 6:N0} steps in one scope: pushed and checked in {pushed.TotalMilliseconds:N0} "
                    + $"ms, run in {clock.Elapsed.TotalMilliseconds:N0} ms, "
                    + $"{clock.Elapsed.TotalMicroseconds / steps:N0} µs a step"
            );
        });
    }

    /// <summary>Iterations of one each: memory, and the rate of its last tenth against the first.</summary>
    public static async Task EachAsync(int iterations)
    {
        using var place = new Place();
        var kind = new NotingKind(iterations);
        await place.WithEngineAsync(kind, async engine =>
        {
            await PushAsync(
                engine,
                $"chain: bench\nparams: {{ n: {{ type: list<int> }} }}\nsteps:\n  e: {{ kind: each, over: "
                    + $"params.n, parallel: 8, steps: {{ a: {{ kind: nothing }} }} }}"
            );
            var items = Value.List([.. Enumerable.Range(0, iterations).Select(i => Value.Int(i))]);
            GC.Collect();
            var before = GC.GetTotalMemory(forceFullCollection: true);
            var clock = Stopwatch.StartNew();
            var run = 0L;
            var done = new TaskCompletionSource<long>(TaskCreationOptions.RunContinuationsAsynchronously);
            var held = 0L;
            using var listening = engine.Feed.Subscribe(null, change =>
            {
                if (change.Decision.Events[^1] is not RunSettled)
                    return;
                // The state is alive here: what it holds is counted.
                held = GC.GetTotalMemory(forceFullCollection: true) - before;
                done.TrySetResult(change.Run);
            });
            run = await engine.Starter.StartAsync(
                "bench",
                new Dictionary<string, Value> { ["n"] = items },
                null,
                Actor.Person("bench")
            );
            await done.Task;
            var took = clock.Elapsed;
            double Rate(int from, int to) =>
                (to - from) / Stopwatch.GetElapsedTime(kind.Times[from], kind.Times[to]).TotalSeconds;
            var tenth = iterations / 10;
            // The first hundredth is spent on code that is not compiled to its best yet.
            var (first, last) = (Rate(tenth / 10, tenth + tenth / 10), Rate(iterations - tenth, iterations));
            Console.WriteLine(
                $"  {iterations, 7:N0} iterations of one each: {took.TotalSeconds:0.0} s, "
                    + $"{iterations / took.TotalSeconds:N0} a second; the last tenth at {last / first:0.00} of "
                    + $"the first's rate; the run holds {held / 1048576.0:N0} MB, the process "
                    + $"{Process.GetCurrentProcess().PeakWorkingSet64 / 1048576.0:N0} MB at most"
            );
        });
    }

    /// <summary>A run of very many events, cut off near its end: how long until it continues.</summary>
    public static async Task RecoveryAsync(int events)
    {
        // Eight events an iteration: opened, two steps started and settled, a gate, settled, and a variable.
        var iterations = events / 8;
        using var place = new Place();
        var kind = new NotingKind(0) { HangsFrom = iterations * 2 - 100 };
        await place.WithEngineAsync(kind, async engine =>
        {
            await PushAsync(
                engine,
                "chain: bench\nparams: { n: { type: list<int> } }\nvars: { sum: { type: int, initial: "
                    + "0 } }\nsteps:\n  e: { kind: each, over: params.n, parallel: 8, steps: { a: { kind: "
                    + "nothing, assign: { vars.sum: vars.sum + 1 } }, b: { kind: nothing } }, gates: [ { from: "
                    + "a, to: b } ] }"
            );
            await engine.Starter.StartAsync(
                "bench",
                new Dictionary<string, Value>
                {
                    ["n"] = Value.List([.. Enumerable.Range(0, iterations).Select(i => Value.Int(i))]),
                },
                null,
                Actor.Person("bench")
            );
            while (kind.Count < iterations * 2 - 100 + 7)
                await Task.Delay(5);
            await Task.Delay(300);
        });
        GC.Collect();
        var times = new List<double>();
        for (var i = 0; i < 3; i++)
        {
            var again = new NotingKind(0) { HangsFrom = 0 };
            await place.WithEngineAsync(again, async engine =>
            {
                var clock = Stopwatch.StartNew();
                await engine.StartAsync();
                while (again.Count < 8)
                    await Task.Delay(1);
                times.Add(clock.Elapsed.TotalSeconds);
            });
            GC.Collect();
        }
        times.Sort();
        Console.WriteLine(
            $"  {events, 9:N0} events: the run goes on {times[1]:0.00} s after the start [{times[0]:0.00}-"
                + $"{times[2]:0.00}]"
        );
    }

    /// <summary>Runs in flight when the service ended: how long until all continue.</summary>
    public static async Task RunsAsync(int runs)
    {
        using var place = new Place();
        var kind = new NotingKind(0) { HangsFrom = 1 };
        await place.WithEngineAsync(kind, async engine =>
        {
            var yaml = new StringBuilder("chain: bench\nsteps:\n");
            for (var i = 0; i < 10; i++)
                yaml.Append($"  d{i}: {{ kind: assign }}\n");
            await PushAsync(
                engine,
                yaml
                    + "  s: { kind: nothing }\n  t: { kind: nothing }\ngates: [ { from: d9, to: s }, "
                    + "{ from: s, to: t } ]\n"
            );
            await Task.WhenAll(
                Enumerable
                    .Range(0, runs)
                    .Select(_ =>
                        engine.Starter.StartAsync("bench", new Dictionary<string, Value>(), null, Actor.Person("bench"))
                    )
            );
            while (kind.Count < runs)
                await Task.Delay(5);
        });
        var again = new NotingKind(0) { HangsFrom = 0 };
        await place.WithEngineAsync(again, async engine =>
        {
            var clock = Stopwatch.StartNew();
            await engine.StartAsync();
            while (again.Count < runs)
                await Task.Delay(1);
            Console.WriteLine(
                $"  {runs, 6:N0} runs in flight: all go on {clock.Elapsed.TotalSeconds:0.00} s after the start"
            );
        });
    }
}
