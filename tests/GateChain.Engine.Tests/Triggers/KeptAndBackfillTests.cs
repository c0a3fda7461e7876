using GateChain.Core.Values;
using GateChain.Engine.Basics;
using GateChain.Engine.Triggers;
using GateChain.Storage;

namespace GateChain.Engine.Tests.Triggers;

/// <summary>What goes from run to run, and due times that are made up for.</summary>
public class KeptAndBackfillTests
{
    const string Counting = """
        chain: t
        whenBusy: queue
        params: { day: { type: any, default: 0 } }
        vars: { mark: { type: int, initial: 10, keep: true } }
        steps: { a: { kind: count, assign: { vars.mark: vars.mark + 1 } }, b: { kind: count } }
        gates: [ { from: a, to: b } ]
        outputs: { mark: vars.mark }
        """;

    static Task<long> StartAsync(TriggerHouse house) =>
        house.Engine.Starter.StartAsync("t", new Dictionary<string, Value>(), null, Ann);

    static Task<string> MarkAsync(TriggerHouse house, long run) =>
        house.Engine.Reader.ReadAsync(run, (s, _) => s.Kept.ToString());

    [Fact]
    public async Task AVariableGoesOnWhereTheLastSucceededRunLeftIt()
    {
        await using var house = await TriggerHouse.OpenAsync(
            "none: { chain: t, schedule: { every: day, at: \"00:00\" } }",
            Counting
        );
        Assert.Equal("succeeded: a succeeded, b succeeded", await house.House.EndAsync(await StartAsync(house)));
        house.House.Count.Failing["b"] = true;
        await house.House.EndAsync(await StartAsync(house));
        house.House.Count.Failing.Clear();
        await house.House.EndAsync(await StartAsync(house));
        // The failed one took 11 over and gave nothing.
        Assert.Equal(
            ["{\"mark\": 11}", "{\"mark\": 12}", "{\"mark\": 12}"],
            [await MarkAsync(house, 1), await MarkAsync(house, 2), await MarkAsync(house, 3)]
        );
        // A resume keeps the value it began with; the version has moved on, so it is not kept, and says so.
        await house.Engine.Commands.ResumeAsync(2, Ann, new());
        await house.House.EndAsync(2);
        Assert.Contains(
            await house.Engine.Reader.ReadAsync(2, (s, _) => s.Warnings.Select(w => w.Message).ToList()),
            w => w.StartsWith("its values are not kept", StringComparison.Ordinal)
        );
        var kept = Assert.Single(await house.Engine.Kept.ListAsync("t"));
        Assert.Equal((2, "{\"mark\":12}", 3L), (kept.Version, kept.Values, kept.Run));
        // A new process continues with it, and a person may set it.
        await house.House.EndEngineAsync();
        house.House.Start();
        await house.Engine.StartAsync();
        await house.House.EndAsync(await StartAsync(house));
        Assert.Equal("{\"mark\": 13}", await MarkAsync(house, 4));
        var chain = await house.Engine.Workspace.LatestChainAsync("t");
        await house.Engine.Kept.SetAsync(
            chain,
            null,
            new Dictionary<string, Value> { ["mark"] = Value.String("40") },
            [],
            Ann
        );
        await house.House.EndAsync(await StartAsync(house));
        Assert.Equal("{\"mark\": 41}", await MarkAsync(house, 5));
        await house.Engine.Kept.SetAsync(chain, null, new Dictionary<string, Value>(), ["mark"], Ann);
        await house.House.EndAsync(await StartAsync(house));
        Assert.Equal("{\"mark\": 11}", await MarkAsync(house, 6));
        await Assert.ThrowsAsync<RefusedException>(() =>
            house.Engine.Kept.SetAsync(chain, null, new Dictionary<string, Value> { ["x"] = Value.Int(1) }, [], Ann)
        );
    }

    [Fact]
    public async Task ABusyKeyQueuesRunsOfTheSameAndAFullQueueRefuses()
    {
        await using var house = await TriggerHouse.OpenAsync(
            "none: { chain: t, schedule: { every: day, at: \"00:00\" }, params: { depot: event.trigger } }",
            "chain: t\nwhenBusy: queue\nbusyKey: params.depot\nqueueLimit: 1\n"
                + "params: { depot: { type: string } }\nsteps: { a: { kind: count } }"
        );
        house.House.Count.Hanging["a"] = true;
        async Task<string> Start(string depot)
        {
            try
            {
                var run = await house.Engine.Starter.StartAsync(
                    "t",
                    new Dictionary<string, Value> { ["depot"] = Value.String(depot) },
                    null,
                    Ann
                );
                return (await house.House.Store.Runs.FindAsync(run))!.State;
            }
            catch (RefusedException e)
            {
                return e.Message;
            }
        }
        Assert.Equal(
            ["running", "running", "queued", "1 runs of “t” for “north” wait already, and its queueLimit is 1"],
            [await Start("north"), await Start("west"), await Start("north"), await Start("north")]
        );
        // After a restart they are in their lines again.
        house.House.Start();
        await house.Engine.StartAsync();
        Assert.Equal("running", await Start("south"));
        Assert.Equal("queued", await Start("west"));
    }

    const string Daily =
        "daily: { chain: t, schedule: { every: day, at: \"02:00\" }, params: { day: event.due }, active: false }";

    [Fact]
    public async Task ABackfillFiresForWhatHasNoRunYetOneAfterTheOther()
    {
        await using var house = await TriggerHouse.OpenAsync(Daily, Counting, "2026-11-23T12:00:00Z");
        var order = new BackfillOptions(
            TriggerHouse.Moment("2026-11-20T00:00:00Z"),
            TriggerHouse.Moment("2026-12-01T00:00:00Z"),
            5
        );
        Assert.Equal(
            [20, 21, 22, 23],
            (await house.Engine.Backfills.PreviewAsync("daily", order)).Select(t => t.Due.Day)
        );
        house.House.Count.Fails = step => step == "b";
        var begun = await house.Engine.Backfills.BeginAsync("daily", order, Ann);
        Assert.Equal((1L, 1), (begun.Number, begun.Parallel));
        await TriggerHouse.UntilAsync(
            async () => (await house.Engine.Backfills.ProgressAsync(1)).Backfill.State == BackfillState.Ended,
            "it ends"
        );
        var progress = await house.Engine.Backfills.ProgressAsync(1);
        Assert.Equal((4, 0, 0, 4), (progress.Times, progress.Going, progress.Succeeded, progress.Failed.Count));
        Assert.Equal(
            ["true run 1", "true run 2", "true run 3", "true run 4"],
            await house.FiresAsync(what: "backfill")
        );
        // Nothing of it was kept, and nothing is left but what failed.
        Assert.Empty(await house.Engine.Kept.ListAsync("t"));
        await Assert.ThrowsAsync<RefusedException>(() => house.Engine.Backfills.BeginAsync("daily", order, Ann));
        house.House.Count.Fails = _ => false;
        await house.Engine.Backfills.BeginAsync(
            "daily",
            order with
            {
                Again = BackfillAgain.Failed,
                NewestFirst = true,
                Keeps = true,
            },
            Ann
        );
        await TriggerHouse.UntilAsync(
            async () => (await house.Engine.Backfills.ProgressAsync(2)).Backfill.State == BackfillState.Ended,
            "the second one ends"
        );
        Assert.Equal(4, (await house.Engine.Backfills.ProgressAsync(2)).Succeeded);
        Assert.Equal("2026-11-23T02:00:00Z", (await house.ParamAsync(5, "day")).ToString());
        Assert.Equal(4, Assert.Single(await house.Engine.Kept.ListAsync("t")).Version);
        Assert.Empty(await house.Engine.Backfills.PreviewAsync("daily", order with { Again = BackfillAgain.Failed }));
        Assert.Equal(
            4,
            (await house.Engine.Backfills.PreviewAsync("daily", order with { Again = BackfillAgain.All })).Count
        );
    }

    [Fact]
    public async Task APausedOneGoesOnAfterARestartAndAStoppedOneDoesNot()
    {
        await using var house = await TriggerHouse.OpenAsync(Daily, Counting, "2026-11-23T12:00:00Z");
        var order = new BackfillOptions(
            TriggerHouse.Moment("2026-11-20T00:00:00Z"),
            TriggerHouse.Moment("2026-11-24T00:00:00Z")
        );
        house.House.Count.Hanging["b"] = true;
        await house.Engine.Backfills.BeginAsync("daily", order, Ann);
        await house.WaitForAsync(1, "daily");
        await house.Engine.Backfills.SetStateAsync(1, BackfillState.Paused, Ann);
        house.House.Count.Release();
        await house.House.EndAsync(1);
        await house.House.EndEngineAsync();
        house.House.Count.Hanging.Clear();
        house.House.Start();
        await house.Engine.StartAsync();
        await house.Engine.Backfills.SetStateAsync(1, BackfillState.Running, Ann);
        await TriggerHouse.UntilAsync(
            async () => (await house.Engine.Backfills.ProgressAsync(1)).Succeeded == 4,
            "it goes on"
        );
        await TriggerHouse.UntilAsync(
            async () => (await house.Engine.Backfills.ProgressAsync(1)).Backfill.State == BackfillState.Ended,
            "it ends"
        );
        await Assert.ThrowsAsync<RefusedException>(() =>
            house.Engine.Backfills.SetStateAsync(1, BackfillState.Stopped, Ann)
        );
        Assert.Equal(4, (await house.FiresAsync()).Count);
    }
}
