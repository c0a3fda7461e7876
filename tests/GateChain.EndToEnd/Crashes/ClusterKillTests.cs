using System.Text.Json;
using GateChain.Client;
using GateChain.EndToEnd.House;

namespace GateChain.EndToEnd.Crashes;

/// <summary>
/// Nodes are killed and stopped, and their database goes, at random moments: every run ends well, and nothing of it was
/// ever at work twice at once.
/// </summary>
public sealed class ClusterKillTests
{
    // A tenth of the kills of one service: each round takes some ten seconds.
    static int Rounds =>
        int.TryParse(Environment.GetEnvironmentVariable("GATECHAIN_KILLS"), out var n) ? Math.Max(3, n / 4) : 3;

    static readonly string Worked =
        "chain: worked\nparams:\n  secs: { type: double, default: 0.5 }\nsteps:\n"
        + string.Concat(
            new[] { "one", "two", "three" }.Select(s =>
                $"  {s}:\n    kind: command\n    crashLimit: 100\n"
                + $"    set: {{ shell: \"{Ledger.Program(s, "${params.secs}")}\" }}\n"
            )
        )
        + "gates:\n  - { from: one, to: two }\n  - { from: two, to: three }\n";

    const string Calls =
        "chain: calls\nparams:\n  secs: { type: double, default: 0.5 }\nsteps:\n"
        + "  a: { kind: call, chain: worked, inputs: { secs: params.secs } }\n"
        + "  b: { kind: call, chain: worked, inputs: { secs: params.secs } }\n";

    [Fact]
    public async Task WhateverHappensToNodesEachRunEndsAndNothingIsAtWorkTwice()
    {
        var seed = int.TryParse(Environment.GetEnvironmentVariable("GATECHAIN_SEED"), out var given)
            ? given
            : Environment.TickCount & 0xffff;
        TestContext.Current.TestOutputHelper?.WriteLine($"seed {seed}; GATECHAIN_SEED={seed} repeats");
        var chance = new Random(seed);
        await using var cluster = await Cluster.StartAsync([], [], []);
        var ledger = new Ledger(cluster.Work);
        await cluster
            .Nodes[0]
            .Client.PushAsync(
                new Dictionary<string, byte[]>
                {
                    ["worked.chain.yaml"] = System.Text.Encoding.UTF8.GetBytes(Worked),
                    ["calls.chain.yaml"] = System.Text.Encoding.UTF8.GetBytes(Calls),
                },
                over: true
            );
        var lost = 0;
        for (var round = 0; round < Rounds; round++)
        {
            var runs = new List<long>();
            for (var i = 0; i < 6; i++)
            {
                var secs = JsonSerializer.SerializeToElement(0.2 + chance.NextDouble());
                runs.Add(
                    (
                        await cluster
                            .Nodes[chance.Next(3)]
                            .Client.StartAsync(
                                new(
                                    i % 3 == 0 ? "calls" : "worked",
                                    new Dictionary<string, JsonElement> { ["secs"] = secs }
                                )
                            )
                    ).Id
                );
            }
            await Task.Delay(chance.Next(1200));
            var victim = cluster.Nodes[chance.Next(3)];
            await HarmAsync(cluster, victim, round % 3, chance);
            foreach (var run in runs)
            {
                var ended = await cluster.EndAsync(run, 90);
                Assert.True(ended.State == "succeeded", $"seed {seed}, round {round}, run {run}: {ended.Error}");
                lost += ended.Attempts.Count(a => a.Result == "lost");
            }
            ledger.NobodyWorkedBesideAnother();
            if (victim.ExitCode is not null)
                await cluster.StartAgainAsync(victim);
            await cluster.AreThereAsync(3);
        }
        TestContext.Current.TestOutputHelper?.WriteLine($"{Rounds} rounds cut {lost} attempts off");
        Assert.True(lost > 0, "nothing was ever cut off");
    }

    static async Task HarmAsync(Cluster cluster, Service victim, int how, Random chance)
    {
        switch (how)
        {
            case 0:
                await victim.KillAsync();
                break;
            // It hangs until others have taken over what it had, and goes on then, as if nothing had been.
            case 1:
                await victim.SignalAsync("STOP");
                await Task.Delay(14_000);
                await victim.SignalAsync("CONT");
                // The others have agreed that it is gone: it ends, in words.
                await Cluster.UntilAsync(() => Task.FromResult(victim.ExitCode is not null), "it ends", 30);
                Assert.Equal(5, victim.ExitCode);
                break;
            default:
                cluster.Database.Kill();
                await Task.Delay(chance.Next(1_000, 9_000));
                cluster.Database.Restart();
                break;
        }
    }
}
