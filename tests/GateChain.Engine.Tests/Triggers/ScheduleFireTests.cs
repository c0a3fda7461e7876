using GateChain.Core.Identity;
using GateChain.Core.Values;
using GateChain.Engine.Basics;
using GateChain.Engine.Triggers;
using GateChain.Storage;

namespace GateChain.Engine.Tests.Triggers;

/// <summary>Schedules by turned clock: each due time once, whatever happens meanwhile.</summary>
public class ScheduleFireTests
{
    const string Nightly = """
        nightly:
          chain: t
          schedule: { every: day, at: "02:30", zone: Europe/Dublin }
          params: { x: event.period.from }
        """;

    static string With(string more) => Nightly.Replace("Dublin }", $"Dublin, {more} }}", StringComparison.Ordinal);

    [Fact]
    public async Task ADueTimeStartsARunThatKnowsWhy()
    {
        await using var house = await TriggerHouse.OpenAsync(Nightly, at: "2026-11-23T02:00:00Z");
        await house.TurnToAsync("2026-11-24T02:30:00Z");
        Assert.Equal(
            ["due:2026-11-23T02:30:00Z run 1", "due:2026-11-24T02:30:00Z run 2"],
            await house.FiresAsync("nightly")
        );
        Assert.Equal("succeeded: a succeeded", await house.House.EndAsync(2));
        Assert.Equal("2026-11-23T02:30:00Z", (await house.ParamAsync(2)).ToString());
        var head = (await house.House.Store.Runs.FindAsync(2))!;
        Assert.Equal(
            (new Actor(ActorKind.Trigger, "nightly", "nightly"), "fire", "nightly"),
            (head.By, head.Origin, head.Trigger)
        );
        Assert.Equal([2, 1], (await house.House.Store.Runs.ListAsync(new(Trigger: "nightly"))).Select(r => r.Id));
    }

    [Theory]
    [InlineData("missed: last", "due:2026-11-26T02:30:00Z run 2")]
    [InlineData(
        "missed: all",
        "due:2026-11-24T02:30:00Z run 2",
        "due:2026-11-25T02:30:00Z run 3",
        "due:2026-11-26T02:30:00Z run 4"
    )]
    [InlineData(
        "missed: none",
        "due:2026-11-26T02:30:00Z PassedOver: 3 due times from 2026-11-24T02:30:00Z to 2026-11-26T02:30:00Z "
            + "were missed while the service was not there, and missed is none"
    )]
    public async Task WhatPassedWhileNobodyWasThere(string rule, params string[] then)
    {
        await using var house = await TriggerHouse.OpenAsync(With(rule), at: "2026-11-23T02:00:00Z");
        await house.TurnToAsync("2026-11-23T02:31:00Z");
        await house.House.EndEngineAsync();
        house.House.Clock.SetUtcNow(TriggerHouse.Moment("2026-11-26T12:00:00Z"));
        house.House.Start();
        await house.Engine.StartAsync();
        await house.LookedAsync();
        Assert.Equal(["due:2026-11-23T02:30:00Z run 1", .. then], await house.FiresAsync());
        if (rule == "missed: last")
        {
            // It spans from the last one that fired.
            Assert.Equal("2026-11-23T02:30:00Z", (await house.ParamAsync(2)).ToString());
            Assert.Equal(["0 run 1", "2 run 2"], await house.FiresAsync(what: "missed"));
        }
        await house.TurnToAsync("2026-11-27T02:30:00Z");
        Assert.StartsWith("due:2026-11-27T02:30:00Z run", (await house.FiresAsync())[^1], StringComparison.Ordinal);
    }

    [Fact]
    public async Task AClockThatLeapsIsAsIfNobodyWasThereAndOneThatGoesBackFiresNothingTwice()
    {
        await using var house = await TriggerHouse.OpenAsync(Nightly, at: "2026-11-23T02:00:00Z");
        await house.LookedAsync();
        await house.LeapToAsync("2026-11-25T12:00:00Z");
        Assert.Equal(["due:2026-11-25T02:30:00Z run 1"], await house.FiresAsync());
        Assert.Equal(["2 run 1"], await house.FiresAsync(what: "missed"));
        await house.House.EndEngineAsync();
        house.House.Start();
        await house.Engine.StartAsync();
        await house.LookedAsync();
        Assert.Single(await house.FiresAsync());
    }

    [Fact]
    public async Task OffIsKeptAndItsTimesAreMadeUpOnlyWhenAskedFor()
    {
        await using var house = await TriggerHouse.OpenAsync(With("missed: all"), at: "2026-11-23T00:00:00Z");
        await house.Engine.Triggers.SwitchAsync("nightly", on: false, missed: false, Ann);
        await house.TurnToAsync("2026-11-24T03:00:00Z");
        // A push of the same says nothing about it.
        await house.PushAsync(With("missed: all"));
        Assert.False(house.Engine.Triggers.Find("nightly")!.IsArmed);
        await house.Engine.Triggers.SwitchAsync("nightly", on: true, missed: false, Ann);
        await house.TurnToAsync("2026-11-24T04:00:00Z");
        Assert.Empty(await house.FiresAsync());
        await house.Engine.Triggers.SwitchAsync("nightly", on: false, missed: false, Ann);
        await house.TurnToAsync("2026-11-26T03:00:00Z");
        await house.Engine.Triggers.SwitchAsync("nightly", on: true, missed: true, Ann);
        await house.WaitForAsync(2, "nightly");
        Assert.Equal(["due:2026-11-25T02:30:00Z run 1", "due:2026-11-26T02:30:00Z run 2"], await house.FiresAsync());
        // The file speaks when it changes.
        await house.PushAsync(With("missed: all") + "\n  active: false");
        Assert.Equal(
            (false, null),
            (house.Engine.Triggers.Find("nightly")!.State.IsOn, house.Engine.Triggers.Find("nightly")!.State.By)
        );
        Assert.Contains(await house.House.Store.Audit.ListAsync(), l =>
            l.Line is { Action: "switch on", Object: "trigger nightly" }
        );
    }

    [Fact]
    public async Task TimesBeforeAnEditAreNotMissedByIt()
    {
        await using var house = await TriggerHouse.OpenAsync(With("missed: all"), at: "2026-11-23T00:00:00Z");
        await house.TurnToAsync("2026-11-23T12:00:00Z");
        await house.PushAsync(With("missed: all").Replace("02:30", "03:30", StringComparison.Ordinal));
        await house.TurnToAsync("2026-11-24T04:00:00Z");
        Assert.Equal(["due:2026-11-23T02:30:00Z run 1", "due:2026-11-24T03:30:00Z run 2"], await house.FiresAsync());
    }

    [Fact]
    public async Task HeldNothingStartsAndAfterwardsItWasMissed()
    {
        await using var house = await TriggerHouse.OpenAsync(Nightly, at: "2026-11-23T00:00:00Z");
        await house.Engine.Triggers.HoldAsync(Area.Root, on: true, "the warehouse moves", Ann);
        await house.TurnToAsync("2026-11-24T03:00:00Z");
        Assert.Empty(await house.FiresAsync());
        await house.Engine.Triggers.HoldAsync(Area.Root, on: false, null, Ann);
        await house.WaitForAsync(1, "nightly");
        Assert.Equal(["1 run 1"], await house.FiresAsync(what: "missed"));
    }

    [Fact]
    public async Task WhenItDoesNotHoldItIsPassedOverAndWhatDoesNotFitIsRefused()
    {
        await using var house = await TriggerHouse.OpenAsync(
            """
            odd: { chain: t, schedule: { every: hour }, when: "event.due.getHours() % 2 == 1" }
            bad: { chain: n, schedule: { every: hour }, params: { n: "event.missed / event.missed" } }
            """,
            "chain: t\nsteps: { a: { kind: count } }\n---\n"
                + "chain: n\nparams: { n: { type: int } }\nsteps: { a: { kind: count } }",
            "2026-11-23T00:30:00Z"
        );
        await house.TurnToAsync("2026-11-23T02:00:00Z");
        Assert.Equal(
            [
                "due:2026-11-23T01:00:00Z run 1",
                "due:2026-11-23T02:00:00Z PassedOver: its when is false: event.due.getHours() % 2 == 1",
            ],
            await house.FiresAsync("odd")
        );
        var bad = await house.FiresAsync("bad");
        Assert.Equal(2, bad.Count);
        Assert.All(bad, f => Assert.Contains("Refused: “n” can't be computed", f, StringComparison.Ordinal));
        Assert.Equal(2, (await house.House.Store.Triggers.ListAsync(new(Fate: FireFate.Refused))).Count);
    }

    [Fact]
    public async Task ABusyChainPassesOverWithTheRunThatWasFirst()
    {
        await using var house = await TriggerHouse.OpenAsync(
            "often: { chain: t, schedule: { every: 1m } }",
            "chain: t\nwhenBusy: skip\nsteps: { a: { kind: count } }",
            "2026-11-23T00:00:30Z"
        );
        house.House.Count.Hanging["a"] = true;
        await house.TurnToAsync("2026-11-23T00:02:00Z");
        Assert.Equal(
            [
                "due:2026-11-23T00:01:00Z run 1",
                "due:2026-11-23T00:02:00Z PassedOver: “t” is busy with run 1, and its whenBusy is skip",
            ],
            await house.FiresAsync()
        );
    }

    [Fact]
    public async Task ARunThatIsNotThroughByItsTimeIsLate()
    {
        await using var house = await TriggerHouse.OpenAsync(
            "nightly: { chain: t, schedule: { every: day, at: \"02:30\", dueBy: \"06:00\" } }",
            at: "2026-11-23T00:00:00Z"
        );
        house.House.Count.Hanging["a"] = true;
        await house.TurnToAsync("2026-11-23T05:59:00Z");
        Assert.False(await house.Engine.Reader.ReadAsync(1, (s, _) => s.IsLate));
        await house.TurnToAsync("2026-11-23T06:00:00Z");
        await TriggerHouse.UntilAsync(() => house.Engine.Reader.ReadAsync(1, (s, _) => s.IsLate), "run 1 is late");
        // The run is late, not the trigger.
        Assert.Equal(["due:2026-11-23T02:30:00Z run 1"], await house.FiresAsync());
    }

    [Fact]
    public async Task WhereNoRunHasBegunByItsTimeThatIsToldOnce()
    {
        await using var house = await TriggerHouse.OpenAsync(
            """
            nightly:
              chain: t
              schedule: { every: day, at: "02:30", dueBy: "06:00", missed: none }
              params: { x: "1 / event.missed" }
            tell: { chain: tell, outcome: { chains: t, is: late }, params: { x: event.error.message } }
            """,
            TriggerHouse.Chain
                + "\n---\n"
                + TriggerHouse.Chain.Replace("chain: t", "chain: tell", StringComparison.Ordinal),
            "2026-11-23T00:00:00Z"
        );
        await house.TurnToAsync("2026-11-23T05:59:00Z");
        Assert.Single(await house.FiresAsync());
        await house.TurnToAsync("2026-11-23T06:00:00Z");
        await house.WaitForAsync(1, "tell");
        Assert.Contains("no run had begun by 2026-11-23T06:00:00Z: “x”", (await house.ParamAsync(1)).ToString());
        await house.House.EndEngineAsync();
        house.House.Start();
        await house.Engine.StartAsync();
        await house.TurnToAsync("2026-11-23T07:00:00Z");
        Assert.Equal(2, (await house.FiresAsync("nightly")).Count);
        // Nobody was there at all on the next day, and what was missed is passed over: nobody waits for it.
        await house.LeapToAsync("2026-11-24T12:00:00Z");
        Assert.Equal(3, (await house.FiresAsync("nightly")).Count);
    }

    [Fact]
    public async Task ACopiedFolderStartsHeld()
    {
        await using var house = await TriggerHouse.OpenAsync(Nightly, at: "2026-11-23T00:00:00Z");
        Assert.Empty(house.Engine.Triggers.Holds);
        // Earlier versions named the disk too, whose numbers change.
        await house.House.Store.Triggers.SetPlaceAsync($"8:1:{await house.House.Store.Triggers.PlaceAsync()}");
        await house.House.EndEngineAsync();
        house.House.Start();
        await house.Engine.StartAsync();
        Assert.Empty(house.Engine.Triggers.Holds);
        await house.House.Store.Triggers.SetPlaceAsync("another place");
        await house.House.EndEngineAsync();
        house.House.Start();
        await house.Engine.StartAsync();
        Assert.Contains("copy", Assert.Single(house.Engine.Triggers.Holds).Why, StringComparison.Ordinal);
        Assert.False(house.Engine.Triggers.Find("nightly")!.IsArmed);
    }

    // The original may be at work on the same runs.
    [Fact]
    public async Task RunsOfACopyWaitUntilSomebodySaysThatItIsNone()
    {
        await using var house = await TriggerHouse.OpenAsync(Nightly, at: "2026-11-23T00:00:00Z");
        await house.House.PushAsync(
            "chain: slow\nsteps: { rest: { kind: wait, set: { for: 10m } }, then: { kind: count } }\n"
                + "gates: [ { from: rest, to: then } ]"
        );
        var run = await house.Engine.Starter.StartAsync("slow", new Dictionary<string, Value>(), null, Ann);
        await house.House.Store.Triggers.SetPlaceAsync(MovedFolder.Nowhere);
        // Until somebody has said so, and over one more start.
        for (var starts = 0; starts < 2; starts++)
        {
            await house.House.EndEngineAsync();
            house.House.Start();
            await house.Engine.StartAsync();
            house.House.Clock.Advance(TimeSpan.FromHours(1));
            Assert.Equal(MovedFolder.Why, Assert.Single(house.Engine.Recovery.Stranded, s => s.Run == run).Why);
            Assert.False(house.House.Count.Effects.ContainsKey("then"));
        }
        await house.Engine.Triggers.HoldAsync(default, on: false, null, Ann);
        Assert.StartsWith("succeeded", await house.House.TurnToEndAsync(run), StringComparison.Ordinal);
        Assert.Empty(house.Engine.Recovery.Stranded);
    }

    [Fact]
    public async Task ARenamedTriggerGoesOnWhereTheOtherWas()
    {
        await using var house = await TriggerHouse.OpenAsync(With("missed: all"), at: "2026-11-23T00:00:00Z");
        await house.TurnToAsync("2026-11-23T03:00:00Z");
        await house.Engine.Triggers.SwitchAsync("nightly", on: false, missed: false, Ann);
        await house.PushAsync(
            With("missed: all").Replace("nightly:", "by-night:", StringComparison.Ordinal) + "\n  renamed: nightly"
        );
        var state = house.Engine.Triggers.Find("by-night")!.State;
        Assert.Equal((false, TriggerHouse.Moment("2026-11-23T02:30:00Z")), (state.IsOn, state.Mark));
        await Assert.ThrowsAsync<RefusedException>(() =>
            house.Engine.Triggers.SwitchAsync("nightly", true, false, Ann)
        );
    }
}
