using GateChain.Core.Identity;
using GateChain.Core.Retention;

namespace GateChain.Storage.Tests.Contract;

/// <summary>What every store does with runs that are not kept any more.</summary>
public abstract class RetentionContract(IStorePlace place) : StoreContract(place)
{
    static DateTimeOffset Now => Epoch.AddDays(100);

    async Task<long> EndedAsync(
        double daysAgo,
        string state = "failed",
        string chain = "c",
        long? parent = null,
        bool open = false
    )
    {
        var run = await Store.Runs.NextIdAsync();
        StoredRun Line(string now, DateTimeOffset? ended) =>
            Head(run, now, ended, chain) with
            {
                Parent = parent is { } p ? new(p, "call", 1) : null,
            };
        await AppendAsync(run, 1, "born", stored: Line("running", null));
        if (!open)
            await AppendAsync(run, 2, stored: Line(state, Now.AddDays(-daysAgo)));
        return run;
    }

    // As a pass does: first it asks for the chains.
    async Task<IReadOnlyList<OldRun>> FindAsync(KeepRule rule, string chain = "c", long after = 0, int most = 100)
    {
        await Store.Retention.ChainsAsync();
        return await Store.Retention.OldAsync(chain, rule, Now, after, most);
    }

    async Task<IEnumerable<long>> OldAsync(KeepRule rule, string chain = "c", long after = 0, int most = 100) =>
        (await FindAsync(rule, chain, after, most)).Select(o => o.Run);

    [Fact]
    public async Task RulesAreKeptAndTold()
    {
        Assert.Empty((await Store.Retention.RulesAsync()).All);
        var (milk, all) = (KeepPlace.OfChain("milk"), KeepPlace.OfFolder(Area.Root));
        await Store.Retention.SetRuleAsync(milk, new(30, 5, 100), Line("keep", "milk"));
        await Store.Retention.SetRuleAsync(all, new(400), Line("keep", "everything"));
        await Store.Retention.SetRuleAsync(milk, new(null, 0, 7), Line("keep", "milk"));
        await ReopenAsync();
        Assert.Equal(
            [(all, new KeepRule(400)), (milk, new KeepRule(null, 0, 7))],
            (await Store.Retention.RulesAsync())
                .All.OrderByDescending(r => r.Key.ToString())
                .Select(r => (r.Key, r.Value))
        );
        await Store.Retention.SetRuleAsync(milk, null, Line("keep", "milk"));
        Assert.Equal([all], (await Store.Retention.RulesAsync()).All.Keys);
        Assert.Equal(4, (await Store.Audit.ListAsync()).Count(e => e.Line.Action == "keep"));
    }

    [Theory]
    // Runs 1 to 6 ended 60, 50, 40, 30, 20 and 10 days ago; the third is the last that succeeded. A seventh runs.
    [InlineData(45, 0, null, "1 2")]
    [InlineData(5, 0, null, "1 2 4 5 6")]
    [InlineData(5, 3, null, "1 2 4")]
    [InlineData(5, 7, null, "")]
    [InlineData(5, 8, null, "")]
    [InlineData(null, 0, 3, "1 2 4")]
    [InlineData(null, 0, 100, "")]
    [InlineData(45, 0, 4, "1 2")]
    [InlineData(55, 0, 3, "1 2 4")]
    [InlineData(1_000, 0, null, "")]
    [InlineData(null, 0, null, "")]
    public async Task ARuleLetsOldRunsGo(int? days, int least, int? most, string gone)
    {
        for (var i = 1; i <= 6; i++)
            await EndedAsync(70 - 10 * i, i is 1 or 3 ? "succeeded" : "failed");
        await EndedAsync(0, open: true);
        await NewRunAsync("other");
        await ReopenAsync();
        Assert.Equal(gone, string.Join(' ', await OldAsync(new(days, least, most))));
        Assert.Equal(
            gone.Split(' ', StringSplitOptions.RemoveEmptyEntries).Skip(1).Take(1).Select(long.Parse),
            await OldAsync(new(days, least, most), after: 1, most: 1)
        );
    }

    [Fact]
    public async Task WhoIsPinnedStays()
    {
        var run = await EndedAsync(50);
        await EndedAsync(40);
        await NewRunAsync();
        Assert.False(await Store.Retention.PinAsync(new(99, "ann", Epoch, null), Line("pin")));
        Assert.True(await Store.Retention.PinAsync(new(run, "ann", Epoch, "first"), Line("pin")));
        Assert.True(await Store.Retention.PinAsync(new(run, "ben", Epoch, "the auditors"), Line("pin")));
        Assert.Equal([new Pin(run, "ben", Epoch, "the auditors")], await Store.Retention.PinsAsync());
        await ReopenAsync();
        Assert.Equal([2], await OldAsync(new(1)));
        // Who pins it after the look comes in time.
        Assert.Empty(await Store.Retention.RemoveAsync([new(run, 1)]));
        await Store.Retention.UnpinAsync(run, Line("unpin"));
        Assert.Equal([1, 2], await OldAsync(new(1)));
    }

    [Fact]
    public async Task ARunGoesWithAllThatIsOfIt()
    {
        var run = await EndedAsync(50, "succeeded");
        await Store.History.AddAsync([HistoryContract.Leg(run)]);
        var other = await EndedAsync(40, "succeeded");
        await Store.History.AddAsync([HistoryContract.Leg(other)]);
        await NewRunAsync();
        Assert.Equal([run], await Store.Retention.RemoveAsync(await FindAsync(new(1))));
        await ReopenAsync();
        Assert.Null(await Store.Runs.FindAsync(run));
        Assert.Equal("", await RowsAsync(run));
        Assert.Empty(await Store.History.OfRunAsync(run));
        Assert.NotNull(await Store.Runs.FindAsync(other));
        Assert.NotEqual("", await RowsAsync(other));
        Assert.Single(await Store.History.OfRunAsync(other));
        Assert.Equal(4, await Store.Runs.NextIdAsync());
        Assert.Equal([2L, 3], (await Store.Retention.ThereAsync([1, 2, 3, 4])).Order());
    }

    [Fact]
    public async Task WhatARunHasCalledGoesWithItOrKeepsIt()
    {
        var whole = await EndedAsync(50);
        var child = await EndedAsync(50, chain: "d", parent: whole);
        var grandchild = await EndedAsync(50, chain: "e", parent: child);
        var open = await EndedAsync(50);
        await EndedAsync(50, chain: "d", parent: open, open: true);
        var pinned = await EndedAsync(50);
        var kept = await EndedAsync(50, chain: "d", parent: pinned);
        await Store.Retention.PinAsync(new(kept, "ann", Epoch, null), Line("pin"));
        await NewRunAsync();
        // Children are not looked at by themselves.
        Assert.Empty(await OldAsync(new(1), "d"));
        var gone = await Store.Retention.RemoveAsync(await FindAsync(new(1)));
        Assert.Equal([whole, child, grandchild], gone.Order());
        Assert.NotNull(await Store.Runs.FindAsync(open));
        Assert.NotNull(await Store.Runs.FindAsync(pinned));
    }

    [Fact]
    public async Task WhoContinuesWithARunKeepsIt()
    {
        var run = await EndedAsync(50);
        await NewRunAsync();
        var old = await FindAsync(new(1));
        Assert.NotNull(await Store.Ownership.ClaimAsync(run));
        Assert.Empty(await Store.Retention.RemoveAsync(old));
        Assert.Equal("1:born 2:x", await RowsAsync(run));
    }

    // Numbers are not given twice: the newest run stays, even as a child.
    [Fact]
    public async Task TheNewestRunStays()
    {
        var run = await EndedAsync(50);
        Assert.Empty(await OldAsync(new(1)));
        await EndedAsync(50, chain: "d", parent: run);
        Assert.Empty(await Store.Retention.RemoveAsync(await FindAsync(new(1))));
        Assert.NotNull(await Store.Runs.FindAsync(run));
    }

    [Fact]
    public async Task ChainsAndRoomAreTold()
    {
        Assert.Empty(await Store.Retention.ChainsAsync());
        for (var i = 0; i < 3; i++)
        {
            await NewRunAsync("milk");
            await NewRunAsync("cream");
        }
        await ReopenAsync();
        Assert.Equal(["cream", "milk"], (await Store.Retention.ChainsAsync()).Select(c => c.Name));
        var runs = (await Store.Retention.UseAsync()).Single(u => u.What == "runs");
        Assert.Equal((6, true), (runs.Rows, runs.IsPart));
        Assert.True(Assert.Single(await Store.Retention.UseAsync(), u => !u.IsPart).Bytes > 10_000);
    }
}
