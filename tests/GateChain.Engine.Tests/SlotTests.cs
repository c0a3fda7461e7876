using GateChain.Engine.Slots;

namespace GateChain.Engine.Tests;

/// <summary>Lanes and the lines of busy chains: who came first is first, and no more than there is room for.</summary>
public sealed class SlotTests
{
    readonly List<Seat> _granted = [];
    readonly LocalSlots _slots;

    public SlotTests() => _slots = new((_, seat) => _granted.Add(seat));

    static SlotName Line(string chain) => new(SlotKind.Chain, chain);

    static SlotName Lane(string name) => new(SlotKind.Lane, name);

    async Task<SlotAnswer> EnterAsync(string chain, long run, SlotTerms? terms = null) =>
        await _slots.RequestAsync(Line(chain), new(run), terms ?? SlotTerms.Queue);

    // Leaves; gives whose turn it is then.
    async Task<long?> LeaveAsync(long run)
    {
        _granted.Clear();
        await _slots.ReleaseAsync(new(run));
        return _granted.Count == 0 ? null : Assert.Single(_granted).Run;
    }

    [Fact]
    public async Task TheOneThatHasWaitedLongestIsNext()
    {
        Assert.True((await EnterAsync("c", 1)).Granted);
        foreach (var run in (long[])[9, 4, 7])
            Assert.False((await EnterAsync("c", run)).Granted);
        Assert.Null(await LeaveAsync(4));
        Assert.Equal(9, await LeaveAsync(1));
        Assert.True(await _slots.HoldsAsync(new(9)));
        Assert.False(await _slots.HoldsAsync(new(7)));
        Assert.Equal(7, await LeaveAsync(9));
        Assert.Null(await LeaveAsync(7));
        Assert.True((await EnterAsync("c", 2)).Granted);
        // One that asks twice is there once.
        Assert.True((await EnterAsync("c", 2)).Granted);
        Assert.False((await EnterAsync("c", 3)).Granted);
        Assert.Equal(3, await LeaveAsync(2));
    }

    [Fact]
    public async Task OthersAreToldOldestFirstAndThoseAboveAreNotWaitedFor()
    {
        foreach (var run in (long[])[3, 1, 2])
            Assert.True((await EnterAsync("c", run, new(Force: true))).Granted);
        Assert.Equal([3, 1, 2], (await EnterAsync("c", 8)).Others);
        Assert.Equal([3, 2, 8], (await EnterAsync("c", 9, new(Above: [1]))).Others);
        Assert.True((await EnterAsync("d", 5)).Granted);
        Assert.True((await EnterAsync("d", 6, new(Above: [5]))).Granted);
    }

    // The one that waits waits for the caller, and the caller for the one that it calls.
    [Fact]
    public async Task WhoIsCalledFromWithinDoesNotQueueBehindThoseOutside()
    {
        Assert.True((await EnterAsync("c", 1)).Granted);
        Assert.False((await EnterAsync("c", 2)).Granted);
        Assert.True((await EnterAsync("c", 3, new(Above: [1]))).Granted);
        Assert.Null(await LeaveAsync(3));
        Assert.Equal(2, await LeaveAsync(1));
    }

    [Fact]
    public async Task OneThatIsSkippedIsNotInTheLine()
    {
        var skip = new SlotTerms(OrNothing: true);
        Assert.True((await EnterAsync("c", 1, skip)).Granted);
        Assert.Equal([1], (await EnterAsync("c", 2, skip)).Others);
        Assert.Null(await LeaveAsync(1));
        Assert.True((await EnterAsync("c", 3, skip)).Granted);
    }

    [Fact]
    public async Task AfterARestartTheLinesGoOnAsTheyWere()
    {
        await _slots.AnnounceAsync(Line("c"), new(4), waits: true);
        await _slots.AnnounceAsync(Line("c"), new(5), waits: true);
        await _slots.AnnounceAsync(Line("d"), new(7), waits: true);
        await _slots.AnnounceAsync(Line("d"), new(6), waits: false);
        Assert.Empty(_granted);
        await _slots.GrantAsync();
        Assert.Equal([new(4)], _granted);
        Assert.Equal(5, await LeaveAsync(4));
        Assert.Equal(7, await LeaveAsync(6));
        // One that comes again, as a later leg, waits behind those that are there.
        Assert.False((await EnterAsync("c", 4)).Granted);
    }

    [Fact]
    public async Task ALaneThatIsWidenedLetsTheNextOnesIn()
    {
        _slots.SetWidths(new Dictionary<string, int> { ["a"] = 1, ["b"] = 2 });
        for (var i = 1; i <= 4; i++)
            await _slots.RequestAsync(Lane("a"), new(i, "s"), SlotTerms.Queue);
        _slots.SetWidths(new Dictionary<string, int> { ["a"] = 3 });
        Assert.Equal([new(2, "s"), new(3, "s")], _granted);
        // Narrowed below what is in it: nobody is thrown out, and nobody let in until there is room.
        _slots.SetWidths(new Dictionary<string, int> { ["a"] = 1 });
        _granted.Clear();
        await _slots.ReleaseStepsAsync(1);
        await _slots.ReleaseStepsAsync(2);
        Assert.Empty(_granted);
        await _slots.ReleaseStepsAsync(3);
        Assert.Equal([new(4, "s")], _granted);
        Assert.Equal(["a 1: 4 s", "b 1: "], (await _slots.LanesAsync()).Select(InWords));
    }

    static string InWords(SlotView lane) =>
        $"{lane.Slot.Name} {lane.Width}: {string.Join(", ", lane.Holders.Select(h => $"{h.Run} {h.Step}"))}";

    [Theory]
    [InlineData(1)]
    [InlineData(2)]
    [InlineData(3)]
    public async Task WhateverHappensALaneIsAsFullAsItMayBeAndInOrder(int seed)
    {
        var random = new Random(seed);
        _slots.SetWidths(new Dictionary<string, int> { ["a"] = 3 });
        var (holders, waiting) = (new List<Seat>(), new List<Seat>());
        for (var i = 0; i < 2_000; i++)
        {
            var seat = new Seat(random.Next(6), $"s{random.Next(3)}");
            if (random.Next(5) < 3)
            {
                var granted = (await _slots.RequestAsync(Lane("a"), seat, SlotTerms.Queue)).Granted;
                if (!holders.Contains(seat) && !waiting.Contains(seat))
                    (holders.Count < 3 ? holders : waiting).Add(seat);
                Assert.Equal(holders.Contains(seat), granted);
            }
            else if (random.Next(10) == 0)
            {
                await _slots.ReleaseStepsAsync(seat.Run);
                holders.RemoveAll(s => s.Run == seat.Run);
                waiting.RemoveAll(s => s.Run == seat.Run);
            }
            else
            {
                await _slots.ReleaseAsync(seat);
                holders.Remove(seat);
                waiting.Remove(seat);
            }
            while (holders.Count < 3 && waiting.Count > 0)
            {
                holders.Add(waiting[0]);
                waiting.RemoveAt(0);
            }
            var lane = Assert.Single(await _slots.LanesAsync());
            Assert.Equal(holders.OrderBy(s => (s.Run, s.Step)), lane.Holders.OrderBy(s => (s.Run, s.Step)));
            Assert.Equal(waiting, lane.Waiting);
        }
    }
}
