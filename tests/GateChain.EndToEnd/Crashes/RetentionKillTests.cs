using GateChain.Client;
using GateChain.EndToEnd.House;

namespace GateChain.EndToEnd.Crashes;

/// <summary>
/// The service is killed while it removes old runs: nothing goes that should stay, each run is there as a whole or not
/// at all, and the next pass does the rest.
/// </summary>
public sealed class RetentionKillTests
{
    static int Rounds =>
        int.TryParse(Environment.GetEnvironmentVariable("GATECHAIN_KILLS"), out var n) ? Math.Max(2, n / 10) : 2;

    const int Runs = 120;

    [Fact]
    public async Task NothingGoesThatShouldStay()
    {
        var seed = int.TryParse(Environment.GetEnvironmentVariable("GATECHAIN_SEED"), out var given)
            ? given
            : Environment.TickCount & 0xffff;
        var chance = new Random(seed);
        await using var service = await Service.EmptyAsync();
        await service.Client.PushAsync(
            new Dictionary<string, byte[]>
            {
                ["below.chain.yaml"] =
                    "chain: below\nsteps: { say: { kind: command, set: { run: [echo, hello] } } }"u8.ToArray(),
                ["top.chain.yaml"] = "chain: top\nsteps: { a: { kind: call, chain: below } }"u8.ToArray(),
                ["fails.chain.yaml"] =
                    "chain: fails\nsteps: { a: { kind: stop, set: { outcome: failed } } }"u8.ToArray(),
                ["quick.chain.yaml"] = "chain: quick\nvars: { n: { type: int, initial: 0 } }\n"u8
                    .ToArray()
                    .Concat("steps: { a: { kind: assign, assign: { vars.n: vars.n + 1 } } }"u8.ToArray())
                    .ToArray(),
                ["held.chain.yaml"] = "chain: held\nsteps: { a: { kind: wait, set: { for: 10d } } }"u8.ToArray(),
            }
        );
        for (var round = 0; round < Rounds; round++)
        {
            var held = (await service.Client.StartAsync(new("held"))).Id;
            var pinned = await EndedAsync(service, "top");
            await service.Client.PinAsync(pinned, "for the auditors");
            for (var i = 0; i < Runs; i++)
                await service.Client.StartAsync(new("quick"));
            var succeeded = await EndedAsync(service, "top");
            await EndedAsync(service, "fails");
            await service.Client.SetRetentionAsync(new(Folder: "", AtMost: 1));
            var pass = service.Client.RemoveOldAsync();
            var after = chance.Next(0, 400);
            await Task.Delay(after);
            await service.KillAsync();
            // It may have been through.
            await pass.ContinueWith(_ => { }, TaskScheduler.Default);
            await service.StartAsync();
            var told = $"seed {seed}, round {round}, killed after {after} ms";
            foreach (var run in (long[])[held, pinned, pinned + 1, succeeded, succeeded + 1])
                Assert.True((await service.Client.RunAsync(run)).Id == run, told);
            Assert.Contains("hello", (await service.Client.LogAsync(pinned + 1, "say")).Text);
            // Whatever is listed can be read, with all that it has.
            foreach (var run in await service.Client.RunsAsync(limit: 500))
                Assert.NotEmpty((await service.Client.RunAsync(run.Id)).Steps);
            await service.Client.RemoveOldAsync();
            var left = (await service.Client.RunsAsync(limit: 500)).Select(r => r.Chain).CountBy(c => c).ToDictionary();
            Assert.True(left["quick"] == 1 && left["top"] == round + 2 && left["held"] == round + 1, told);
            Assert.Equal(0, (await service.CliAsync("retention")).Exit);
        }
        var (exit, output, error) = await Verify(service);
        Assert.True(exit == 0, output + error);
    }

    static async Task<(int, string, string)> Verify(Service service)
    {
        await service.TerminateAsync();
        return await Place.RunAsync(Place.Program, Path.GetTempPath(), null, "verify", "--data", service.Data);
    }

    static async Task<long> EndedAsync(Service service, string chain)
    {
        var run = (await service.Client.StartAsync(new(chain))).Id;
        await service.EndAsync(run);
        return run;
    }
}
