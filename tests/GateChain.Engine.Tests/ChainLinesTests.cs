using GateChain.Core.Chains;
using GateChain.Engine.Runs;

namespace GateChain.Engine.Tests;

public sealed class ChainLinesTests
{
    readonly ChainLines _lines = new();

    [Fact]
    public void TheOneThatHasWaitedLongestIsNext()
    {
        Assert.False(_lines.Enter("c", 1, BusyRule.Queue, []).Queued);
        foreach (var run in (long[])[9, 4, 7])
            Assert.True(_lines.Enter("c", run, BusyRule.Queue, []).Queued);
        Assert.Null(_lines.Leave("c", 4));
        Assert.Equal(9, _lines.Leave("c", 1));
        Assert.True(_lines.IsReleased("c", 9));
        Assert.False(_lines.IsReleased("c", 7));
        Assert.Equal(7, _lines.Leave("c", 9));
        Assert.Null(_lines.Leave("c", 7));
        Assert.False(_lines.Enter("c", 2, BusyRule.Queue, []).Queued);
    }

    [Fact]
    public void OthersAreToldOldestFirstAndThoseAboveAreNotWaitedFor()
    {
        foreach (var run in (long[])[3, 1, 2])
        {
            Assert.Equal(
                (false, 0),
                (_lines.Enter("c", run, BusyRule.Allow, []) is var place && place.Queued, place.Others.Count)
            );
        }
        Assert.Equal([3, 1, 2], _lines.Enter("c", 8, BusyRule.Replace, []).Others);
        Assert.Equal([3, 2, 8], _lines.Enter("c", 9, BusyRule.Queue, [1]).Others);
        Assert.False(_lines.Enter("d", 5, BusyRule.Queue, []).Queued);
        Assert.False(_lines.Enter("d", 6, BusyRule.Queue, [5]).Queued);
    }

    [Fact]
    public void OneThatIsSkippedIsNotInTheLine()
    {
        _lines.Enter("c", 1, BusyRule.Skip, []);
        Assert.True(_lines.Enter("c", 2, BusyRule.Skip, []).Queued);
        Assert.Null(_lines.Leave("c", 1));
        Assert.False(_lines.Enter("c", 3, BusyRule.Skip, []).Queued);
    }

    [Fact]
    public void AfterARestartTheLinesGoOnAsTheyWere()
    {
        _lines.Restore("c", 4, queued: true);
        _lines.Restore("c", 5, queued: true);
        _lines.Restore("d", 6, queued: false);
        _lines.Restore("d", 7, queued: true);
        Assert.Equal([4], _lines.NextOfAll());
        Assert.Equal(5, _lines.Leave("c", 4));
        Assert.Equal(7, _lines.Leave("d", 6));
        // One that comes again, as a later leg, waits behind those that are there.
        Assert.True(_lines.Enter("c", 4, BusyRule.Queue, []).Queued);
    }
}
