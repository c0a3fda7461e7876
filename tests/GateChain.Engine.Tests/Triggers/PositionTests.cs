using GateChain.Core.Values;
using GateChain.Engine.Basics;
using GateChain.Engine.Triggers;
using GateChain.Storage;

namespace GateChain.Engine.Tests.Triggers;

/// <summary>How far steps have got in what they read.</summary>
public class PositionTests
{
    const string Reading = """
        chain: t
        params: { day: { type: any, default: 0 } }
        steps: { a: { kind: count, set: { keep: last } }, b: { kind: count } }
        gates: [ { from: a, to: b } ]
        """;

    const string Daily =
        "daily: { chain: t, schedule: { every: day, at: \"02:00\" }, params: { day: event.due }, active: false }";

    static Task<long> StartAsync(TriggerHouse house) =>
        house.Engine.Starter.StartAsync("t", new Dictionary<string, Value>(), null, Ann);

    static async Task<string> KeptAsync(TriggerHouse house) =>
        string.Join(
            ", ",
            (await house.Engine.Positions.ListAsync("t")).Select(p => $"{p.Name}={p.Content} of {p.Step ?? p.By}")
        );

    // What comes after a step neither repeats nor loses what it has read.
    [Fact]
    public async Task ItIsWrittenWithTheStepWhateverBecomesOfTheRun()
    {
        await using var house = await TriggerHouse.OpenAsync(Daily, Reading);
        house.House.Count.Failing["b"] = true;
        await house.House.EndAsync(await StartAsync(house));
        Assert.Equal("last=1 of a", await KeptAsync(house));
        house.House.Count.Failing.Clear();
        await house.Engine.Commands.ResumeAsync(1, Ann, new());
        await house.House.EndAsync(1);
        Assert.Equal("last=1 of a", await KeptAsync(house));
        await house.House.EndAsync(await StartAsync(house));
        Assert.Equal("last=2 of a", await KeptAsync(house));
        // A step that fails has read nothing.
        house.House.Count.Failing["a"] = true;
        await house.House.EndAsync(await StartAsync(house));
        house.House.Count.Failing.Clear();
        Assert.Equal("last=2 of a", await KeptAsync(house));
        // Another service continues there.
        await house.House.EndEngineAsync();
        house.House.Start();
        await house.Engine.StartAsync();
        await house.House.EndAsync(await StartAsync(house));
        Assert.Equal("last=3 of a", await KeptAsync(house));
    }

    [Fact]
    public async Task APersonSetsAndForgetsIt()
    {
        await using var house = await TriggerHouse.OpenAsync(Daily, Reading);
        await house.Engine.Positions.SetAsync("t", null, "last", Value.String("40"), Ann);
        Assert.Equal("last=40 of ann", await KeptAsync(house));
        await house.House.EndAsync(await StartAsync(house));
        Assert.Equal("last=41 of a", await KeptAsync(house));
        var refused = await Assert.ThrowsAsync<RefusedException>(() =>
            house.Engine.Positions.SetAsync("t", null, "lost", Value.Null, Ann)
        );
        Assert.Equal("“t” keeps no position “lost”; did you mean “last”?", refused.Message);
        await house.Engine.Positions.SetAsync("t", null, "last", Value.Null, Ann);
        Assert.Equal("", await KeptAsync(house));
        await Assert.ThrowsAsync<RefusedException>(() =>
            house.Engine.Positions.SetAsync("t", null, "last", Value.List([]), Ann)
        );
        await house.Engine.Positions.SetAsync("t", null, "day", Value.String("2026-11-28T05:00:00Z"), Ann);
        Assert.Equal("day={\"$time\":\"2026-11-28T05:00:00Z\"} of ann", await KeptAsync(house));
    }

    [Fact]
    public async Task ABackfillWritesItOnlyWhenItIsAskedTo()
    {
        await using var house = await TriggerHouse.OpenAsync(Daily, Reading, "2026-11-23T12:00:00Z");
        var order = new BackfillOptions(
            TriggerHouse.Moment("2026-11-22T00:00:00Z"),
            TriggerHouse.Moment("2026-11-23T00:00:00Z")
        );
        await house.Engine.Backfills.BeginAsync("daily", order, Ann);
        await EndsAsync(1);
        Assert.Equal("", await KeptAsync(house));
        await house.Engine.Backfills.BeginAsync("daily", order with { Again = BackfillAgain.All, Keeps = true }, Ann);
        await EndsAsync(2);
        Assert.Equal("last=1 of a", await KeptAsync(house));

        Task EndsAsync(long number) =>
            TriggerHouse.UntilAsync(
                async () => (await house.Engine.Backfills.ProgressAsync(number)).Backfill.State == BackfillState.Ended,
                "it ends"
            );
    }
}
