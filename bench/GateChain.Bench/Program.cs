using GateChain.Bench;

// Every figure is a ratio against a floor that is measured in the same minute, interleaved: the machines are shared and noisy.
const int Rounds = 7, Warmup = 4; // the first rounds are spent on code that is not compiled to its best yet
if (args is ["scale", ..])
{
    await ScaleAsync();
    return;
}
Console.WriteLine($"{Environment.ProcessorCount} cores, .NET {Environment.Version}; median of {Rounds} rounds, each round measures both sides");
await Measure("1 run of 1,000 steps in a row", runs: 1, steps: 1000, waves: 3);
await Measure("1,000 runs of 10 steps", runs: 1000, steps: 10, waves: 6);
await Latency();
await ScaleAsync();
return;

async Task ScaleAsync()
{
    await Scale.ScopeAsync(500);
    await Scale.EachAsync(2_000);
    Console.WriteLine($"{Environment.ProcessorCount} cores, .NET {Environment.Version}; n, 2n and 4n (the two lines above only warm up)");
    if (!args.Contains("recovery"))
    {
        foreach (var n in (int[])[2_500, 5_000, 10_000]) { await Scale.ScopeAsync(n); }
    foreach (var n in (int[])[25_000, 50_000, 100_000]) { await Scale.EachAsync(n); }
    }
    foreach (var n in (int[])[250_000, 500_000, 1_000_000]) { await Scale.RecoveryAsync(n); }
    foreach (var n in (int[])[250, 500, 1_000]) { await Scale.RunsAsync(n); }
}

static async Task Measure(string name, int runs, int steps, int waves)
{
    // The floor: as many producers as there are runs, each appending one row at a time and waiting for it.
    // Waves of runs, one after the other in the same database, and as many rows on the floor: both sides get past their start.
    var ratios = new List<double>();
    var engineRates = new List<double>();
    var floorRates = new List<double>();
    for (var round = -Warmup; round < Rounds; round++)
    {
        var floor = await Floor.RateAsync(producers: runs, rowsEach: steps * waves);
        var engine = await EngineRate.StepsPerSecondAsync(runs, steps, waves);
        if (round < 0) { continue; }
        floorRates.Add(floor);
        engineRates.Add(engine);
        ratios.Add(engine / floor);
    }
    Console.WriteLine($"{name}: {Median(engineRates):N0} durable steps/s; floor {Median(floorRates):N0} grouped single-row appends/s with {runs:N0} producers; ratio {Median(ratios):0.00} [{ratios.Min():0.00}-{ratios.Max():0.00}]");
}

static async Task Latency()
{
    var all = await EngineRate.HandOffAsync(runs: 100, steps: 50);
    Console.WriteLine($"hand-off from a step's end to its successor's work with 100 runs in flight: p50 {all[all.Count / 2]:0.00} ms, p99 {all[all.Count * 99 / 100]:0.00} ms");
}

static double Median(List<double> values)
{
    values.Sort();
    return values[values.Count / 2];
}
