using GateChain.Bench;

// Every figure is a ratio against a floor that is measured in the same minute, interleaved: the machines are shared and
// noisy.
const int Rounds = 7,
    Warmup = 4; // the first rounds are spent on code that is not compiled to its best yet
if (args is ["scale", ..])
{
    await ScaleAsync();
    return;
}
Console.WriteLine(
    $"{Environment.ProcessorCount} cores, .NET {Environment.Version}; median of {Rounds} rounds, "
        + "each round measures both sides"
);
if (args is ["expressions", ..])
{
    Expressions.Measure();
    return;
}
if (args is ["checks", ..])
{
    Checks.Measure();
    return;
}
if (args is ["postgres", ..])
{
    await OnPostgres.MeasureAsync(Rounds);
    return;
}
if (args is ["nodes", ..])
{
    await Nodes.MeasureAsync(args.Length > 1 ? [.. args.Skip(1).Select(int.Parse)] : [3, 30, 100, 300]);
    return;
}
if (args is ["triggers", ..])
{
    await Triggers.MeasureAsync();
    return;
}
if (args is ["load", ..])
{
    await Loads.MeasureAsync(
        args.Length > 1 ? int.Parse(args[1]) : 500_000,
        args.Length > 2 ? int.Parse(args[2]) : 10_000_000,
        args.Length > 3 ? int.Parse(args[3]) : 5
    );
    return;
}
if (args is ["reading", ..])
{
    await Reading.MeasureAsync(args.Length > 1 ? int.Parse(args[1]) : 1_000_000);
    return;
}
if (args is ["packed", ..])
{
    await Reading.PackedAsync((args.Length > 1 ? long.Parse(args[1]) : 2_000) * 1_000_000);
    return;
}
if (args is ["history", ..])
{
    var (with, without, ratios) = (new List<double>(), new List<double>(), new List<double>());
    for (var round = -1; round < 15; round++)
    {
        var plain = (await EngineRate.WithHistoryAsync(1000, 10, waves: 10, history: false)).Rate;
        var (rate, lag) = await EngineRate.WithHistoryAsync(1000, 10, waves: 10, history: true);
        if (round < 0)
            continue;
        with.Add(rate);
        without.Add(plain);
        ratios.Add(rate / plain);
        Console.WriteLine(
            $"round {round + 1}: {rate:N0} with history, {plain:N0} without; {rate / plain:0.00}; it was there, and "
                + $"looked through, {lag.TotalSeconds:0.0} s after the last run"
        );
    }
    Console.WriteLine(
        $"1,000 runs of 10 steps: {Median(with):N0} durable steps/s with history, {Median(without):N0} without; ratio "
            + $"{Median(ratios):0.00} [{ratios.Min():0.00}-{ratios.Max():0.00}]"
    );
    return;
}
if (args is ["retention", ..])
{
    await Retention(args.Length > 1 ? int.Parse(args[1]) : 1_000_000);
    return;
}
if (args is ["year", var folder, var count])
{
    await Year.MakeAsync(folder, int.Parse(count));
    return;
}
if (args is ["rate", ..])
{
    // The many runs alone, for a profiler to look at.
    for (var i = 0; i < 3; i++)
    {
        var (bytes, collected, paused) = (
            GC.GetTotalAllocatedBytes(),
            GC.CollectionCount(0),
            GC.GetTotalPauseDuration()
        );
        var rate = await EngineRate.StepsPerSecondAsync(1000, 10, waves: 60);
        Console.WriteLine(
            $"{rate:N0} durable steps/s; {(GC.GetTotalAllocatedBytes() - bytes) / 600_000:N0} bytes a "
                + $"step; {GC.CollectionCount(0) - collected} collections, "
                + $"{(GC.GetTotalPauseDuration() - paused).TotalMilliseconds:N0} ms in them"
        );
    }
    return;
}
await Measure("1 run of 1,000 steps in a row", runs: 1, steps: 1000, waves: 3);
await Measure("1,000 runs of 10 steps", runs: 1000, steps: 10, waves: 20);
await Latency();
if (args is not ["steps", ..])
{
    Expressions.Measure();
    Checks.Measure();
    await ScaleAsync();
    await Loads.MeasureAsync(500_000, 10_000_000, 5);
    await Loads.MeasureAsync(500_000, 0, 50);
    await Reading.MeasureAsync(1_000_000);
    await Reading.PackedAsync(2_000_000_000);
}
return;

async Task ScaleAsync()
{
    await Scale.ScopeAsync(500);
    await Scale.EachAsync(2_000);
    Console.WriteLine(
        $"{Environment.ProcessorCount} cores, .NET {Environment.Version}; n, "
            + "2n and 4n (the two lines above only warm up)"
    );
    if (!args.Contains("recovery"))
    {
        foreach (var n in (int[])[2_500, 5_000, 10_000])
            await Scale.ScopeAsync(n);
        foreach (var n in (int[])[25_000, 50_000, 100_000])
            await Scale.EachAsync(n);
    }
    foreach (var n in (int[])[250_000, 500_000, 1_000_000])
        await Scale.RecoveryAsync(n);
    foreach (var n in (int[])[250, 500, 1_000])
        await Scale.RunsAsync(n);
}

static async Task Measure(string name, int runs, int steps, int waves)
{
    // The floors: as many producers as there are runs in flight, each appending one row at a time and waiting for it,
    // and as many rows.
    (string Name, Func<Task<double>> Rate)[] floors =
    [
        ("grouped single-row appends, each producer one run", () =>
            Floor.RateAsync(runs, steps * waves, 1, tuned: false)
        ),
        ("the same, a new run where one has as many rows as ours has steps", () =>
            Floor.RateAsync(runs, steps, waves, tuned: false)
        ),
        ("the same, and with the pragmas of our journal", () => Floor.RateAsync(runs, steps, waves, tuned: true)),
    ];
    List<double> rates = [];
    var measured = floors.Select(_ => (Rates: new List<double>(), Ratios: new List<double>())).ToArray();
    for (var round = -Warmup; round < Rounds; round++)
    {
        var first = await floors[0].Rate();
        var engine = await EngineRate.StepsPerSecondAsync(runs, steps, waves);
        double[] found = [first, await floors[1].Rate(), await floors[2].Rate()];
        if (round < 0)
            continue;
        rates.Add(engine);
        for (var i = 0; i < found.Length; i++)
        {
            measured[i].Rates.Add(found[i]);
            measured[i].Ratios.Add(engine / found[i]);
        }
    }
    Console.WriteLine($"{name}: {Median(rates):N0} durable steps/s");
    foreach (var (floor, (all, ratios)) in floors.Zip(measured))
    {
        Console.WriteLine(
            $"  {floor.Name}: {Median(all):N0} rows/s, ratio {Median(ratios):0.00} [{ratios.Min():0.00}-"
                + $"{ratios.Max():0.00}]"
        );
    }
}

async Task Latency()
{
    var all = await EngineRate.HandOffAsync(runs: 100, steps: 50);
    Console.WriteLine(
        "hand-off from a step's end to its successor's work with 100 runs in flight: "
            + $"p50 {all[all.Count / 2]:0.00} ms, p99 {all[all.Count * 99 / 100]:0.00} ms"
    );
}

async Task Retention(int runs)
{
    var place = Directory.CreateTempSubdirectory("gatechain-bench-").FullName;
    try
    {
        await Year.MakeAsync(place, runs, journals: true);
        var (alone, beside, ratios, gone) = (new List<double>(), new List<double>(), new List<double>(), 0L);
        for (var round = -1; round < Rounds; round++)
        {
            var (plain, with, went) = await EngineRate.BesideRetentionAsync(place, runs: 100, steps: 400);
            gone += went;
            if (round < 0)
                continue;
            alone.Add(plain[plain.Count / 2]);
            beside.Add(with[with.Count / 2]);
            ratios.Add(with[with.Count / 2] / plain[plain.Count / 2]);
            Console.WriteLine(
                $"round {round + 1}: hand-off p50 {plain[plain.Count / 2]:0.00} ms alone, {with[with.Count / 2]:0.00} "
                    + $"beside; p99 {plain[plain.Count * 99 / 100]:0.00} and {with[with.Count * 99 / 100]:0.00}; "
                    + $"{went:N0} runs went meanwhile"
            );
        }
        Console.WriteLine(
            $"100 runs in flight beside {runs:N0} that have ended: hand-off p50 {Median(alone):0.00} ms, while "
                + $"retention lets go {Median(beside):0.00} ms; ratio {Median(ratios):0.00} "
                + $"[{ratios.Min():0.00}-{ratios.Max():0.00}]; "
                + $"{gone:N0} runs went"
        );
    }
    finally
    {
        Directory.Delete(place, recursive: true);
    }
}

static double Median(List<double> values)
{
    values.Sort();
    return values[values.Count / 2];
}
