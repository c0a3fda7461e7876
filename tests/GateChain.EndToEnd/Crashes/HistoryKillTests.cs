using System.Diagnostics;
using System.Text.Json;
using GateChain.Client;
using GateChain.EndToEnd.House;

namespace GateChain.EndToEnd.Crashes;

/// <summary>kill -9 while history is filled or made again: in the end it is what the journal says.</summary>
public sealed class HistoryKillTests
{
    static int Kills => int.TryParse(Environment.GetEnvironmentVariable("GATECHAIN_KILLS"), out var n) ? n : 4;

    const string Chain = """
        chain: t
        params: { n: { type: int, default: 0 } }
        steps:
          all:
            kind: each
            over: "[1, 2, 3]"
            steps: { x: { kind: assign, assign: { vars.n: vars.n + 1 } } }
          choose:
            kind: decide
            branches: [ { name: bad, when: "params.n % 4 == 0" }, { name: good, otherwise: true } ]
          halt: { kind: stop, set: { outcome: failed, message: it is a fourth } }
        vars: { n: { type: int, initial: 0 } }
        gates: [ { from: all, to: choose }, { from: choose, to: halt, branch: bad } ]
        """;

    [Fact]
    public async Task HistoryIsWhatTheJournalSaysAfterKills()
    {
        var chance = new Random(20261129);
        await using var service = await Service.EmptyAsync();
        await service.PushAsync(Chain);
        for (var kill = 0; kill < Kills; kill++)
        {
            var begun = new TaskCompletionSource(TaskCreationOptions.RunContinuationsAsynchronously);
            var starting = StartManyAsync(service.Client, kill * 1000, begun);
            // A service that has just begun takes its time on a loaded machine.
            await begun.Task;
            await Task.Delay(chance.Next(50, 900));
            await service.KillAsync();
            await starting;
            await service.StartAsync();
        }
        var last = (await service.Client.RunsAsync(new RunFilter { Limit = 1 }))[0].Id;
        Assert.True(last >= Kills, $"only {last} runs");
        await service.EndAsync(last);
        // What is not remembered when it ends in good order is when the next one has begun.
        await service.TerminateAsync();
        await service.StartAsync();
        for (var tries = 0; tries < 200; tries++)
        {
            if ((await service.Client.HistoryAsync("t", 500)).Legs.Count >= Math.Min(last, 500))
                break;
            await Task.Delay(50);
        }
        await service.TerminateAsync();
        var (exit, output, error) = await VerifyAsync(service);
        Assert.True(exit == 0 && !output.Contains("not remembered"), $"{output}{error}");
        Assert.Contains($"{last:N0} runs read".Replace(",", "", StringComparison.Ordinal), output);

        // Killed while it makes all of it again.
        for (var kill = 0; kill < Kills / 2; kill++)
        {
            using var rebuilding = Process.Start(Place.Program, ["verify", "--rebuild", "--data", service.Data]);
            await Task.Delay(chance.Next(300, 1200));
            rebuilding.Kill();
            await rebuilding.WaitForExitAsync();
        }
        Assert.Equal(0, (await VerifyAsync(service, "--rebuild")).Exit);
        (exit, output, error) = await VerifyAsync(service);
        Assert.True(exit == 0 && !output.Contains("not remembered"), $"{output}{error}");
    }

    static Task<(int Exit, string Out, string Err)> VerifyAsync(Service service, params string[] more) =>
        Place.RunAsync(Place.Program, service.Work, null, ["verify", "--data", service.Data, .. more]);

    // Until nobody answers any more.
    static async Task StartManyAsync(GateChainClient client, int from, TaskCompletionSource begun)
    {
        try
        {
            for (var n = from; ; n++)
            {
                await client.StartAsync(
                    new("t", new Dictionary<string, JsonElement> { ["n"] = JsonSerializer.SerializeToElement(n) })
                );
                begun.TrySetResult();
            }
        }
        catch (GateChainException)
        {
            // It was killed.
            begun.TrySetResult();
        }
    }
}
