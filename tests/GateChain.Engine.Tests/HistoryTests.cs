using GateChain.Core.History;
using GateChain.Core.Running;
using GateChain.Core.Values;

namespace GateChain.Engine.Tests;

/// <summary>History is what the journal of every run says, whatever became of the service meanwhile.</summary>
public sealed class HistoryTests : IAsyncDisposable
{
    const string Chain = """
        chain: t
        params: { bad: { type: string, default: "" } }
        steps:
          first: { kind: count }
          all:
            kind: each
            over: "['a', 'b', 'c']"
            steps: { load: { kind: count } }
          last: { kind: count }
        gates: [ { from: first, to: all }, { from: all, to: last } ]
        """;

    readonly House _house = new();

    public ValueTask DisposeAsync() => _house.DisposeAsync();

    // The clock of the engine stands still: history is gathered when it is turned.
    async Task RememberedAsync()
    {
        for (var tries = 0; ; tries++)
        {
            _house.Clock.Advance(TimeSpan.FromSeconds(1));
            var found = await _house.Engine.History.VerifyAsync(rebuild: false, default);
            if (found.Wrong.Count + found.Missing.Count == 0)
                return;
            Assert.True(
                tries < 2000,
                $"history of runs {string.Join(", ", found.Wrong.Concat(found.Missing))} is not what their journal says"
            );
            await Task.Delay(5);
        }
    }

    async Task<long> RunAsync(bool fails)
    {
        _house.Count.Fails = path => fails && path == "all[1]/load";
        var run = await _house.Engine.Starter.StartAsync("t", new Dictionary<string, Value>(), null, Ann);
        Assert.StartsWith(fails ? "failed" : "succeeded", await _house.EndAsync(run));
        return run;
    }

    [Fact]
    public async Task WhoeverWillBeLateIsToldBeforeTheyAre()
    {
        await _house.Engine.StartAsync();
        const string chain =
            "chain: t\nsteps: { slow: { kind: wait, set: { for: 40m } } }\n"
            + "handlers: { endangered: { steps: { tell: { kind: count } } } }\ndueIn: ";
        // Before, nobody minded how long it took.
        await _house.PushAsync(chain + "5h");
        for (var i = 0; i < ExpectedEnd.Least; i++)
        {
            var before = await _house.Engine.Starter.StartAsync("t", new Dictionary<string, Value>(), null, Ann);
            Assert.StartsWith("succeeded", await _house.TurnToEndAsync(before), StringComparison.Ordinal);
        }
        await RememberedAsync();
        Assert.False(_house.Count.Effects.ContainsKey("@endangered[1]/tell"));
        await _house.PushAsync(chain + "30m");
        var run = await _house.Engine.Starter.StartAsync("t", new Dictionary<string, Value>(), null, Ann);
        for (var i = 0; !_house.Count.Effects.ContainsKey("@endangered[1]/tell"); i++)
        {
            Assert.True(i < 100, "nobody was told");
            _house.Clock.Advance(TimeSpan.FromSeconds(2));
            await Task.Delay(20);
        }
        var (danger, isLate) = await _house.Engine.Reader.ReadAsync(run, (s, _) => (s.Danger, s.IsLate));
        Assert.Equal((ExpectedEnd.Least, false), (danger!.Runs, isLate));
        Assert.InRange((danger.Expected - danger.Due).TotalMinutes, 9, 11);
        await _house.TurnToEndAsync(run);
        Assert.Equal(1, _house.Count.Effects["@endangered[1]/tell"]);
    }

    [Fact]
    public async Task EveryLegIsRememberedAndAgainAfterItWasForgotten()
    {
        await _house.Engine.StartAsync();
        await _house.PushAsync(Chain);
        for (var i = 0; i < 12; i++)
        {
            var run = await RunAsync(fails: i % 3 == 0);
            if (i % 6 != 0)
                continue;
            _house.Count.Fails = _ => false;
            await _house.Engine.Commands.ResumeAsync(run, Ann, new());
            Assert.StartsWith("succeeded", await _house.EndAsync(run));
        }
        await RememberedAsync();
        var legs = await _house.Store.History.OfRunAsync(1);
        Assert.Equal(["failed", "succeeded"], legs.Select(l => l.State));
        Assert.Equal([0, 1], legs.Select(l => l.Steps.Single(s => s.Address == "last").Count).DefaultIfEmpty().Order());
        Assert.Equal(12, (await _house.Store.History.OfChainAsync("t", 100)).Count);
        await _house.Store.History.ClearAsync();
        var wrong = await _house.Engine.History.VerifyAsync(rebuild: false, default);
        Assert.Equal((12, 0), (wrong.Missing.Count, wrong.Wrong.Count));
        var made = await _house.Engine.History.VerifyAsync(rebuild: true, default);
        Assert.Equal((12, 14), (made.Runs, made.Legs));
        Assert.Empty((await _house.Engine.History.VerifyAsync(rebuild: false, default)).Wrong);
    }

    [Fact]
    public async Task WhatEndedWhileNobodyRememberedIsMadeUpForAtTheNextStart()
    {
        await _house.Engine.StartAsync();
        await _house.PushAsync(Chain);
        for (var i = 0; i < 5; i++)
            await RunAsync(fails: i % 2 == 0);
        // Killed: its clock never turned, so nothing was written.
        Assert.Empty(await _house.Store.History.OfChainAsync("t", 100));
        _house.Start();
        await _house.Engine.StartAsync();
        await RememberedAsync();
        Assert.Equal(5, (await _house.Store.History.OfChainAsync("t", 100)).Count);
    }

    [Fact]
    public async Task ARunIsComparedWithTheLastOneThatSucceeded()
    {
        await _house.Engine.StartAsync();
        await _house.PushAsync(Chain);
        var good = await RunAsync(fails: false);
        var bad = await RunAsync(fails: true);
        var (a, b, found) = await _house.Engine.Outlook.CompareAsync(bad, null);
        Assert.Equal((good, bad, "all/load"), (a.Id, b.Id, found.PartsAt));
        var refused = await Assert.ThrowsAsync<GateChain.Engine.Basics.RefusedException>(() =>
            _house.Engine.Outlook.CompareAsync(good, null)
        );
        Assert.Equal(RefusalKind.NotFound, refused.Kind);
        await Assert.ThrowsAsync<GateChain.Engine.Basics.RefusedException>(() =>
            _house.Engine.Outlook.CompareAsync(bad, bad)
        );
    }

    [Fact]
    public async Task ARunThatIsAtWorkIsExpectedToEndAsTheOthersDid()
    {
        await _house.Engine.StartAsync();
        await _house.PushAsync(Chain);
        for (var i = 0; i < ExpectedEnd.Least; i++)
            await RunAsync(fails: false);
        await RememberedAsync();
        _house.Count.Hanging["first"] = true;
        var run = await _house.Engine.Starter.StartAsync("t", new Dictionary<string, Core.Values.Value>(), null, Ann);
        await _house.InFlightAsync(run, "first");
        var outlook = await _house.Engine.Outlook.OfAsync(run);
        Assert.Equal((0, 3), (outlook.Done, outlook.Of));
        Assert.Equal(["first"], outlook.Doing);
        Assert.Equal(ExpectedEnd.Least, outlook.Expected!.Runs);
        _house.Count.Release();
        Assert.StartsWith("succeeded", await _house.EndAsync(run));
        Assert.Null((await _house.Engine.Outlook.OfAsync(run)).Expected);
    }
}
