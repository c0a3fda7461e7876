using System.Globalization;
using GateChain.Engine.Triggers;

namespace GateChain.Engine.Tests.Triggers;

/// <summary>What other runs come to, and what probes see.</summary>
public class OutcomeAndWatchTests
{
    const string Chains =
        "chain: t\nsteps: { a: { kind: count } }\n---\n"
        + "chain: tell\nparams: { run: { type: int }, why: { type: string } }\nsteps: { b: { kind: count } }";

    const string Tell = """
        tell:
          chain: tell
          outcome: { chains: ["*", "!other"], is: [failed, stopped, refused] }
          params: { run: event.run, why: event.error.message }
        """;

    static Task<long> StartAsync(TriggerHouse house, string chain = "t") =>
        house.Engine.Starter.StartAsync(chain, new Dictionary<string, Core.Values.Value>(), null, Ann);

    [Fact]
    public async Task AFailedRunIsToldOnceAndNothingFeedsItself()
    {
        await using var house = await TriggerHouse.OpenAsync(Tell, Chains);
        await house.House.EndAsync(await StartAsync(house));
        house.House.Count.Failing["a"] = true;
        house.House.Count.Failing["b"] = true;
        var failed = await StartAsync(house);
        await house.WaitForAsync(2, "tell", "outcome");
        Assert.Equal(
            ["\"failed\" run 3", "\"failed\" PassedOver: it would feed itself: the run goes back to a fire of “tell”"],
            await house.FiresAsync("tell", "outcome")
        );
        Assert.Equal(
            ("2", "\"a: told to fail\""),
            ((await house.ParamAsync(3, "run")).ToString(), (await house.ParamAsync(3, "why")).ToString())
        );
        Assert.Equal(2, failed);
    }

    [Fact]
    public async Task ARunThatGoesOnByItselfHasNotFailedYet()
    {
        await using var house = await TriggerHouse.OpenAsync(
            Tell,
            Chains.Replace("chain: t\n", "chain: t\nrecover: { attempts: 1, wait: 1m }\n", StringComparison.Ordinal)
        );
        house.House.Count.Failing["a"] = true;
        var run = await StartAsync(house);
        await house.House.EndAsync(run);
        await house.House.TurnToEndAsync(run);
        await house.WaitForAsync(1, "tell");
        Assert.Equal(["\"failed\" run 2"], await house.FiresAsync("tell", "outcome"));
        Assert.Equal(2, await house.Engine.Reader.ReadAsync(run, (s, _) => s.Leg));
    }

    [Fact]
    public async Task ARefusedFireIsAnOutcomeToo()
    {
        await using var house = await TriggerHouse.OpenAsync(
            Tell + "\nodd: { chain: t, schedule: { every: hour }, when: \"1 / event.missed == 1\" }",
            Chains,
            "2026-11-23T00:30:00Z"
        );
        await house.TurnToAsync("2026-11-23T01:00:00Z");
        await house.WaitForAsync(1, "tell");
        Assert.Equal(["\"refused\" run 1"], await house.FiresAsync("tell", "outcome"));
        Assert.Contains(
            "trigger “odd”: its when can't be computed",
            (await house.ParamAsync(1, "why")).AsString,
            StringComparison.Ordinal
        );
    }

    [Fact]
    public async Task WhatHappenedBeforeACrashIsToldAfterIt()
    {
        await using var house = await TriggerHouse.OpenAsync(Tell, Chains);
        await house.Engine.Outbox.DisposeAsync();
        house.House.Count.Failing["a"] = true;
        await house.House.EndAsync(await StartAsync(house));
        Assert.Empty(await house.FiresAsync());
        house.House.Start();
        await house.Engine.StartAsync();
        await house.WaitForAsync(1, "tell");
        Assert.Equal(["\"failed\" run 2"], await house.FiresAsync("tell", "outcome"));
    }

    [Theory]
    [InlineData("change", "1 run 1", "2 run 2", "1 run 3")]
    [InlineData("once", "1 run 1", "1 run 2")]
    [InlineData("always", "1 run 1", "1 run 2", "2 run 3", "1 run 4")]
    public async Task AWatchFiresByWhatItSees(string again, params string[] fires)
    {
        await using var house = await TriggerHouse.OpenAsync(
            $$"""
            see:
              chain: t
              watch:
                probes: { seen: { kind: file, path: "in/*" } }
                when: probes.seen.count > 0
                every: 1m
                again: {{again}}
              params: { x: event.probes.seen.count }
            """
        );
        async Task LookAsync(int looks)
        {
            await TriggerHouse.UntilAsync(
                () => Task.FromResult((house.Engine.Sources.Find("see") as WatchProbes)?.Looks >= looks),
                $"{looks} looks"
            );
        }
        await LookAsync(1);
        var folder = Path.Combine(house.House.Work, "in");
        foreach (var (names, look) in ((string[])["a", "a", "a b", "", "a"]).Select((f, i) => (f, i + 2)))
        {
            if (Directory.Exists(folder))
                Directory.Delete(folder, recursive: true);
            Directory.CreateDirectory(folder);
            foreach (var name in names.Split(' ', StringSplitOptions.RemoveEmptyEntries))
            {
                File.WriteAllText(Path.Combine(folder, name), "");
                // Its age would be another value at each look.
                var changed = house.House.Clock.GetUtcNow().AddMinutes(1).UtcDateTime;
                File.SetLastWriteTimeUtc(Path.Combine(folder, name), changed);
            }
            house.House.Clock.Advance(TimeSpan.FromMinutes(1));
            await LookAsync(look);
        }
        var seen = new List<string>();
        foreach (var fire in await house.FiresAsync("see"))
        {
            var run = long.Parse(fire[(fire.LastIndexOf(' ') + 1)..], CultureInfo.InvariantCulture);
            seen.Add($"{await house.ParamAsync(run)} run {run}");
        }
        Assert.Equal(fires, seen);
    }
}
