using GateChain.Core.History;

namespace GateChain.Storage.Tests.Contract;

/// <summary>What is remembered of legs stays, can be replaced, and is found by chain, run and time.</summary>
public abstract class HistoryContract(IStorePlace place) : StoreContract(place)
{
    internal static LegHistory Leg(
        long run,
        int leg = 1,
        string chain = "c",
        string state = "succeeded",
        LegSource source = LegSource.Run,
        double hours = 0
    ) =>
        new(
            run,
            leg,
            chain,
            leg == 1 ? 3 : null,
            state,
            Epoch.AddHours(hours),
            Epoch.AddHours(hours).AddTicks(12_345_678),
            IsLate: run % 2 == 0,
            source,
            [
                new("depots", state),
                new("depots/load", "failed")
                {
                    Count = 3,
                    Failed = 1,
                    Attempts = 4,
                    Begin = 20,
                    Span = 70_000_000_000,
                    Work = 60,
                    Held = 1,
                    Queued = 2,
                    Rested = 3,
                    Read = 1265,
                    Written = 0,
                },
            ]
        );

    static void AssertSame(LegHistory expected, LegHistory found)
    {
        Assert.Equal(expected.Steps, found.Steps);
        Assert.Equal(expected with { Steps = found.Steps }, found);
    }

    [Fact]
    public async Task ALegComesBackAsItWasAlsoAfterAnEndAndCanBeReplaced()
    {
        var leg = Leg(7);
        await Store.History.AddAsync([leg]);
        AssertSame(leg, Assert.Single(await Store.History.OfRunAsync(7)));
        await ReopenAsync();
        AssertSame(leg, Assert.Single(await Store.History.OfChainAsync("c", 10)));
        await Store.History.AddAsync([leg with { State = "stopped" }]);
        Assert.Equal("stopped", Assert.Single(await Store.History.OfRunAsync(7)).State);
    }

    [Fact]
    public async Task OfAChainTheLatestLegOfEachRunIsToldTheNewestFirst()
    {
        await Store.History.AddAsync([
            Leg(1),
            Leg(2, 1, state: "failed"),
            Leg(3, chain: "other"),
            Leg(4, source: LegSource.Try),
            Leg(5),
        ]);
        // The later leg of a run may come before the earlier one.
        await Store.History.AddAsync([Leg(2, 3)]);
        await Store.History.AddAsync([Leg(2, 2, state: "failed")]);
        async Task<string> ToldAsync(int most, long? before = null, string? state = null, bool tries = false) =>
            string.Join(
                " ",
                (await Store.History.OfChainAsync("c", most, before, state, tries)).Select(l => $"{l.Run}.{l.Leg}")
            );
        Assert.Equal("5.1 2.3 1.1", await ToldAsync(10));
        Assert.Equal("5.1 4.1 2.3 1.1", await ToldAsync(10, tries: true));
        Assert.Equal("5.1 2.3", await ToldAsync(2));
        Assert.Equal("1.1", await ToldAsync(10, before: 2));
        Assert.Equal("", await ToldAsync(10, state: "failed"));
        Assert.Equal([1, 2, 3], (await Store.History.OfRunAsync(2)).Select(l => l.Leg));
    }

    [Fact]
    public async Task EndsAreCountedByHourOfRunsOfTheirOwn()
    {
        await Store.History.AddAsync([
            Leg(1, hours: 1),
            Leg(2, hours: 1.5),
            Leg(3, hours: 1.6, state: "failed"),
            Leg(4, hours: 2, source: LegSource.Child),
            Leg(5, hours: 3, source: LegSource.Try),
            Leg(6, hours: 9),
        ]);
        Assert.Equal(
            "1 failed 1, 1 succeeded 2",
            string.Join(
                ", ",
                (await Store.History.CountAsync(Epoch, Epoch.AddHours(9))).Select(c =>
                    $"{(c.Hour - Epoch).TotalHours} {c.State} {c.Count}"
                )
            )
        );
    }

    [Fact]
    public async Task RunsThatHaveEndedAndAreNotRememberedAreFound()
    {
        for (var run = 1; run <= 4; run++)
        {
            var id = await NewRunAsync();
            if (run < 4)
            {
                Store.Journal.Append(new(id, 1, 2, [1], Head(id, "succeeded", Epoch), Listener));
                await Listener.Outcome(id, 2).WaitAsync(TimeSpan.FromSeconds(20));
            }
        }
        // What is in the journal's tail comes into the tables.
        await ReopenAsync();
        await Store.History.AddAsync([Leg(2)]);
        Assert.Equal([3, 1], (await Store.History.MissingAsync(10)).Select(m => m.Run));
        Assert.Equal([1], (await Store.History.MissingAsync(10, before: 3)).Select(m => m.Run));
        await Store.History.ClearAsync();
        Assert.Equal([3, 2, 1], (await Store.History.MissingAsync(10)).Select(m => m.Run));
        Assert.Empty(await Store.History.OfChainAsync("c", 10));
    }
}
