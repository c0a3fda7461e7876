using System.Collections.Concurrent;
using System.Diagnostics;
using System.Text;
using GateChain.Core.Chains.Kinds;
using GateChain.Core.Checking;
using GateChain.Core.Identity;
using GateChain.Core.Running.Events;
using GateChain.Engine;
using GateChain.Engine.Triggers;
using GateChain.Kinds;
using GateChain.Storage.Sqlite;
using Microsoft.Extensions.Logging.Abstractions;

namespace GateChain.Bench;

/// <summary>What triggers cost: from a file to its first step, a thousand of them armed, and calls a second.</summary>
static class Triggers
{
    public const string Chain =
        "chain: note\nparams: { what: { type: any, default: 0 } }\nvars: { n: { type: int } }\n"
        + "steps: { a: { kind: assign, assign: { vars.n: 1 } } }";

    public static async Task MeasureAsync()
    {
        await ArrivalAsync();
        await ArmedAsync();
        await HooksAsync();
        await HookCalls.MeasureAsync();
    }

    static async Task WithEngineAsync(string triggers, Func<ChainEngine, string, Task> work)
    {
        var folder = Directory.CreateTempSubdirectory("gatechain-bench-").FullName;
        try
        {
            var kinds = KindSet.Of(null);
            await using var store = new SqliteStore(Path.Combine(folder, "db"));
            await using var engine = new ChainEngine(
                new(Directory.CreateDirectory(Path.Combine(folder, "data")).FullName, folder),
                store,
                kinds.Runners,
                kinds.Probes,
                new NoSecrets(),
                new ChainCheck(kinds.Catalogue),
                TimeProvider.System,
                NullLogger<ChainEngine>.Instance
            );
            await engine.StartAsync();
            Directory.CreateDirectory(Path.Combine(folder, "in"));
            var workspace = await engine.Workspace.PushAsync(
                new Dictionary<string, byte[]>
                {
                    ["note.chain.yaml"] = Encoding.UTF8.GetBytes(Chain),
                    ["triggers.yaml"] = Encoding.UTF8.GetBytes(triggers),
                },
                Actor.Person("bench")
            );
            if (workspace.HasErrors)
                throw new InvalidOperationException(workspace.Problems[0].ToString());
            await work(engine, folder);
        }
        finally
        {
            Directory.Delete(folder, recursive: true);
        }
    }

    // From the last write of a file to the start of its first step, without the time that it has to be quiet.
    static async Task ArrivalAsync()
    {
        const int Files = 200;
        const double Quiet = 200;
        var written = new ConcurrentDictionary<string, long>();
        var late = new ConcurrentBag<double>();
        await WithEngineAsync(
            "come: { chain: note, arrival: { path: \"in/*\", quiet: 200ms }, params: { what: event.name } }",
            async (engine, folder) =>
            {
                using var listening = engine.Feed.Subscribe(null, change =>
                {
                    if (
                        change.Decision.Events.OfType<RunStarted>().FirstOrDefault() is { Fire: { } fire }
                        && fire.Event.AsMap.Find("name") is { } name
                        && written.TryGetValue(name.AsString, out var at)
                    )
                    {
                        late.Add(Stopwatch.GetElapsedTime(at).TotalMilliseconds - Quiet);
                    }
                });
                await Task.Delay(1000);
                // The first ones are spent on code that is not compiled to its best yet.
                for (var i = 0; i < 50; i++)
                {
                    await File.WriteAllTextAsync(Path.Combine(folder, "in", $"warm{i}"), "x");
                    await Task.Delay(20);
                }
                await Task.Delay(1000);
                for (var i = 0; i < Files; i++)
                {
                    await File.WriteAllTextAsync(Path.Combine(folder, "in", $"{i}"), "x");
                    written[$"{i}"] = Stopwatch.GetTimestamp();
                    await Task.Delay(i % 7 * 10);
                }
                while (late.Count < Files)
                    await Task.Delay(50);
            }
        );
        var all = late.Order().ToList();
        Console.WriteLine(
            $"a file to its first step, beyond quiet: p50 {all[Files / 2]:N0} ms, p99 {all[Files * 99 / 100]:N0} ms "
                + $"({Files} files)"
        );
    }

    // A thousand triggers of all kinds, armed: memory and idle work, beside an engine with one.
    static async Task ArmedAsync()
    {
        async Task<(double Megabytes, double Cpu)> OfAsync(int count)
        {
            var text = new StringBuilder();
            for (var i = 0; i < count; i++)
            {
                text.Append(
                    (i % 4) switch
                    {
                        0 => $"t{i}: {{ chain: note, schedule: {{ every: day, at: \"0{i % 10}:{i % 60:00}\" }} }}\n",
                        1 => $"t{i}: {{ chain: note, arrival: {{ path: \"in/{i}-*\" }} }}\n",
                        2 => $"t{i}: {{ chain: note, hook: {{ path: h{i}, open: true }} }}\n",
                        _ => $"t{i}: {{ chain: note, outcome: {{ chains: other{i}, is: failed }} }}\n",
                    }
                );
            }
            var result = (0.0, 0.0);
            await WithEngineAsync(text.ToString(), async (_, _) =>
            {
                await Task.Delay(3000);
                GC.Collect();
                var (before, clock) = (Process.GetCurrentProcess().TotalProcessorTime, Stopwatch.StartNew());
                await Task.Delay(5000);
                var used = Process.GetCurrentProcess().TotalProcessorTime - before;
                result = (GC.GetTotalMemory(true) / 1048576.0, 100 * used / clock.Elapsed);
            });
            return result;
        }
        var one = await OfAsync(1);
        var many = await OfAsync(1000);
        Console.WriteLine(
            $"1,000 triggers armed: {many.Megabytes - one.Megabytes:N1} MB more than one, "
                + $"{many.Cpu:N2} % of a core when idle (one: {one.Cpu:N2} %)"
        );
    }

    // Calls that are on disk when they are answered, each the start of a run.
    static async Task HooksAsync()
    {
        var rates = new List<(double Hooks, double Floor)>();
        for (var round = 0; round < 5; round++)
        {
            const int Calls = 8000,
                Callers = 200;
            var rate = 0.0;
            await WithEngineAsync("call: { chain: note, hook: { path: call, open: true } }", async (engine, _) =>
            {
                var clock = Stopwatch.StartNew();
                await Task.WhenAll(
                    Enumerable
                        .Range(0, Callers)
                        .Select(async caller =>
                        {
                            for (var i = caller; i < Calls; i += Callers)
                            {
                                var answer = await engine.Hooks.TakeAsync(
                                    new(
                                        "call",
                                        new Dictionary<string, string> { ["webhook-id"] = $"{i}" },
                                        new Dictionary<string, string>(),
                                        "application/json",
                                        "{\"n\": 1}"u8.ToArray()
                                    ),
                                    CancellationToken.None
                                );
                                if (answer.Status != 202)
                                    throw new InvalidOperationException($"{answer.Status} {answer.Sentence}");
                            }
                        })
                );
                rate = Calls / clock.Elapsed.TotalSeconds;
            });
            rates.Add((rate, await Floor.RateAsync(Callers, 40, 1, tuned: true)));
        }
        var (hooks, floor) = (
            rates.Select(r => r.Hooks).Order().ElementAt(2),
            rates.Select(r => r.Floor).Order().ElementAt(2)
        );
        Console.WriteLine(
            $"{hooks:N0} calls/s accepted durably, {floor:N0} bare appends/s: {hooks / floor:P0} (median of 5 rounds)"
        );
    }
}
