using GateChain.Core.Identity;

namespace GateChain.Storage.Tests.Contract;

/// <summary>An occasion is taken once, with the run that it starts; what is kept of triggers outlives them.</summary>
public abstract class TriggersContract(IStorePlace place) : StoreContract(place)
{
    static readonly DateTimeOffset Noon = new(2026, 11, 23, 12, 0, 0, TimeSpan.Zero);

    static NewFire Fire(string key, FireFate fate = FireFate.PassedOver) =>
        new("nightly", Noon, key, "{}", fate, fate == FireFate.Started ? null : "why") { Takes = [key], Chain = "c" };

    [Fact]
    public async Task AFireIsWrittenOnceAndItsKeysOutliveIt()
    {
        Assert.Equal(1, await Store.Triggers.RecordAsync(Fire("a") with { Takes = ["a", "b"] }));
        Assert.Null(await Store.Triggers.RecordAsync(Fire("a")));
        Assert.Null(await Store.Triggers.RecordAsync(Fire("c") with { Takes = ["c", "b"] }));
        Assert.Equal(2, await Store.Triggers.RecordAsync(Fire("a") with { Trigger = "other" }));
        Assert.Equal(["b"], await Store.Triggers.TakenAsync("nightly", ["b", "c"]));
        await Store.Triggers.ForgetAsync(Noon.AddDays(1), Noon.AddDays(-1));
        Assert.Empty(await Store.Triggers.ListAsync(new()));
        Assert.Null(await Store.Triggers.RecordAsync(Fire("a")));
        await Store.Triggers.ForgetAsync(Noon.AddDays(1), Noon.AddDays(1));
        Assert.NotNull(await Store.Triggers.RecordAsync(Fire("a")));
        await Store.Triggers.ChangeKeysAsync("nightly", ["file:1"], ["a"], "armed");
        await ReopenAsync();
        Assert.Equal(["file:1"], await Store.Triggers.KeysAsync("nightly"));
    }

    [Fact]
    public async Task AMarkOnlyMovesUpWhateverIsSaved()
    {
        var state = new TriggerState("nightly", true, true, Noon) { Text = "x" };
        await Store.Triggers.SaveAsync(state);
        NewFire Due(int hour) => Fire($"due {hour}") with { Takes = [], Mark = Noon.AddHours(hour) };
        Assert.NotNull(await Store.Triggers.RecordAsync(Due(1)));
        Assert.NotNull(await Store.Triggers.RecordAsync(Due(3)));
        Assert.Null(await Store.Triggers.RecordAsync(Due(3)));
        Assert.Null(await Store.Triggers.RecordAsync(Due(2)));
        await Store.Triggers.SaveAsync(state with { IsOn = false, By = "Maeve", Mark = Noon });
        await ReopenAsync();
        var kept = Assert.Single(await Store.Triggers.StatesAsync());
        Assert.Equal((Noon.AddHours(3), false, "Maeve", "x"), (kept.Mark, kept.IsOn, kept.By, kept.Text));
        await Store.Triggers.RenameAsync("nightly", "by-night");
        Assert.Equal("by-night", Assert.Single(await Store.Triggers.StatesAsync()).Name);
    }

    Task<AppendOutcome> StartAsync(long run, NewFire fire)
    {
        Store.Journal.Append(
            new(run, 1, 1, "born"u8.ToArray(), Head(run) with { Trigger = "nightly" }, Listener)
            {
                Extras = new([], null, null) { Fire = fire },
            }
        );
        return Listener.Outcome(run, 1);
    }

    [Fact]
    public async Task AFireThatStartsARunStandsOrFallsWithItsFirstDecision()
    {
        var (first, second) = (await Store.Runs.NextIdAsync(), await Store.Runs.NextIdAsync());
        Assert.Equal(AppendOutcome.Written, await StartAsync(first, Fire("a", FireFate.Started)));
        Assert.Equal(AppendOutcome.Taken, await StartAsync(second, Fire("a", FireFate.Started)));
        Assert.Null(await Store.Runs.FindAsync(second));
        Assert.Equal(first, (await Store.Triggers.FindAsync("nightly", "a"))!.Run);
        Assert.Equal([first], (await Store.Runs.ListAsync(new(Trigger: "nightly"))).Select(r => r.Id));
        Assert.Empty(await Store.Runs.ListAsync(new(Trigger: "other")));
        Assert.Equal([("a", first)], await Store.Triggers.StartedAsync("nightly", "a"));
    }

    [Fact]
    public async Task ARefusedFireIsNewsAndAHoldStays()
    {
        await Store.Outbox.OpenAsync(["one"]);
        var number = await Store.Triggers.RecordAsync(Fire("a", FireFate.Refused));
        var row = Assert.Single(await Store.Outbox.ReadAsync(0, 10));
        Assert.Equal((RunNotificationKind.Refused, 0L, number!.Value, "c"), (row.Kind, row.Run, row.Seq, row.Chain));
        var said = new AuditLine(Noon, Actor.Person("Maeve"), "hold on", "everything");
        await Store.Triggers.SetHoldAsync("", new("", "Maeve", Noon, "moving"), said);
        await ReopenAsync();
        Assert.Equal(new Hold("", "Maeve", Noon, "moving"), Assert.Single(await Store.Triggers.HoldsAsync()));
        await Store.Triggers.SetHoldAsync("", null, said);
        Assert.Empty(await Store.Triggers.HoldsAsync());
        Assert.Null(await Store.Triggers.PlaceAsync());
        await Store.Triggers.SetPlaceAsync("here");
        await Store.Triggers.SetPlaceAsync("there");
        Assert.Equal("there", await Store.Triggers.PlaceAsync());
    }

    [Fact]
    public async Task ABackfillHasItsTimesInOrder()
    {
        BackfillTime[] times = [new(Noon.AddHours(2), Noon.AddHours(1)), new(Noon.AddHours(1), Noon)];
        var number = await Store.Backfills.CreateAsync(
            new(0, "nightly", Noon, Noon.AddDays(1), "hash", 3, true, false, "Maeve", Noon, BackfillState.Running),
            times,
            new(Noon, Actor.Person("Maeve"), "backfill", "backfill")
        );
        await Store.Backfills.SetStateAsync(number, BackfillState.Paused, null);
        await ReopenAsync();
        Assert.Equal(times, await Store.Backfills.TimesAsync(number));
        var kept = Assert.Single(await Store.Backfills.ListAsync());
        Assert.Equal(
            (number, BackfillState.Paused, 3, true),
            (kept.Number, kept.State, kept.Parallel, kept.NewestFirst)
        );
        Assert.Contains(await Store.Audit.ListAsync(), l => l.Line.Object == $"backfill {number}");
        Assert.Empty(await Store.Backfills.FiresAsync(number));
    }

    [Fact]
    public async Task WhatBecameOfABackfillIsFoundWithItsRuns()
    {
        await Store.Triggers.RecordAsync(Fire("a") with { Backfill = 7 });
        await Store.Triggers.RecordAsync(Fire("b", FireFate.Refused) with { Backfill = 7 });
        var run = await Store.Runs.NextIdAsync();
        await StartAsync(run, Fire("c", FireFate.Started) with { Backfill = 7 });
        BackfillFire[] all =
        [
            new("a", FireFate.PassedOver, null, "why"),
            new("b", FireFate.Refused, null, "why"),
            new("c", FireFate.Started, run, null),
        ];
        // The run's line may still be in the journal's tail, or not.
        for (var i = 0; i < 2; i++)
        {
            Assert.Equal(all, await Store.Backfills.FiresAsync(7));
            Assert.Empty(await Store.Backfills.FiresAsync(8));
            Assert.Equal([run], (await Store.Runs.FindAsync([run, run + 1])).Keys);
            await ReopenAsync();
        }
    }
}
