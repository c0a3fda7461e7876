using GateChain.Core.Running;
using GateChain.Core.Running.Events;
using GateChain.Core.Values;
using GateChain.Engine.Basics;
using GateChain.Engine.Slots;

namespace GateChain.Engine.Tests;

public sealed partial class ControlTests
{
    [Fact]
    public async Task ALaneLetsInAsManyAsItIsWideAcrossRuns()
    {
        await _house.PushAsync(
            "chain: t\nlane: narrow\nsteps:\n  a: { kind: count, set: { ms: 20 } }\n  b: { kind: count, "
                + "set: { ms: 20 } }\n  c: { kind: count, lane: wide, set: { ms: 1 } }"
        );
        var runs = new List<long>();
        for (var i = 0; i < 4; i++)
            runs.Add(await StartAsync());
        foreach (var run in runs)
            Assert.StartsWith("succeeded", await _house.EndAsync(run), StringComparison.Ordinal);
        Assert.InRange(_house.Count.Most, 1, 4);
        Assert.Equal((8, 4), (_house.Count.Effects["a"] + _house.Count.Effects["b"], _house.Count.Effects["c"]));
        Assert.All(await _house.Engine.Slots.LanesAsync(), l => Assert.Empty(l.Holders));
    }

    // Who was in it has its place again before anybody is let in, whatever their numbers.
    [Fact]
    public async Task ALaneIsNotFullerAfterARestart()
    {
        _house.Count.Hanging["c"] = true;
        await _house.PushAsync(
            "chain: t\nsteps:\n  b: { kind: wait, set: { for: 1h } }\n  a: { kind: count, lane: narrow }\ngates: [ { "
                + "from: b, to: a } ]",
            "chain: child1\nsteps: { c: { kind: count, lane: narrow } }"
        );
        var (first, second) = (await StartAsync(), await StartAsync("child1"));
        await _house.InFlightAsync(second, "c");
        _house.Clock.Advance(TimeSpan.FromHours(1));
        Task<string> WordOfAAsync() => _house.Engine.Reader.ReadAsync(first, (s, _) => s.Find("a")!.Word);
        await UntilAsync(async () => await WordOfAAsync() == "queued");
        await _house.EndEngineAsync();
        _house.Start();
        await _house.Engine.StartAsync();
        await _house.InFlightAsync(second, "c");
        Assert.Equal("queued", await WordOfAAsync());
        _house.Count.Release();
        Assert.StartsWith("succeeded", await _house.EndAsync(second), StringComparison.Ordinal);
        Assert.StartsWith("succeeded", await _house.EndAsync(first), StringComparison.Ordinal);
    }

    [Fact]
    public async Task ALaneIsTakenInTheOrderOfAskingAndShown()
    {
        _house.Count.Hanging["a"] = true;
        await _house.PushAsync("chain: t\nsteps:\n  a: { kind: count, lane: narrow }");
        var first = await StartAsync();
        await _house.InFlightAsync(first, "a");
        var second = await StartAsync();
        var third = await StartAsync();
        async Task<IReadOnlyList<Seat>> WaitingAsync() =>
            (await _house.Engine.Slots.LanesAsync()).Single(l => l.Slot.Name == "narrow").Waiting;
        await UntilAsync(async () => (await WaitingAsync()).Count == 2);
        Assert.Equal([second, third], (await WaitingAsync()).Select(w => w.Run));
        Assert.Equal("queued", await _house.Engine.Reader.ReadAsync(second, (s, _) => s.Find("a")!.Word));
        await _house.Engine.Commands.StopAsync(second, Ann, null);
        _house.Count.Release();
        await _house.EndAsync(third);
        Assert.Equal(2, _house.Count.Effects["a"]);
    }

    [Theory]
    [InlineData("allow", "running")]
    [InlineData("queue", "queued")]
    [InlineData("replace", "queued")]
    public async Task ASecondRunMeetsABusyChain(string rule, string word)
    {
        _house.Count.Hanging["a"] = true;
        await _house.PushAsync($"chain: t\nwhenBusy: {rule}\nsteps: {{ a: {{ kind: count }} }}");
        var first = await StartAsync();
        await _house.InFlightAsync(first, "a");
        var second = await StartAsync();
        if (rule != "replace")
            Assert.Equal(word, await WordAsync(second));
        _house.Count.Release();
        await _house.EndAsync(second);
        Assert.Equal(
            (rule == "replace" ? "stopped" : "succeeded", "succeeded"),
            (await WordAsync(first), await WordAsync(second))
        );
    }

    [Fact]
    public async Task ABusyChainCanRefuse()
    {
        _house.Count.Hanging["a"] = true;
        await _house.PushAsync("chain: t\nwhenBusy: skip\nsteps: { a: { kind: count } }");
        var first = await StartAsync();
        var refused = await Assert.ThrowsAsync<RefusedException>(() => StartAsync());
        Assert.Equal(
            (RefusalKind.Conflict, $"“t” is busy with run {first}, and its whenBusy is skip"),
            (refused.Kind, refused.Message)
        );
        _house.Count.Release();
        await _house.EndAsync(first);
        // Who has seen an end on disk may start the next one, though the place is given back right behind that.
        for (var i = 0; i < 200; i++)
        {
            var next = await StartAsync();
            while ((await _house.Store.Runs.FindAsync(next))!.Ended is null)
                await Task.Yield();
        }
    }

    [Fact]
    public async Task ATurnThatComesWhileARunIsStillBeingStartedIsNotLost()
    {
        await _house.PushAsync("chain: t\nwhenBusy: queue\nsteps: { a: { kind: assign } }");
        // Each run ends at once: the next one's turn comes just when it is being put into the line.
        var runs = await Task.WhenAll(Enumerable.Range(0, 200).Select(_ => Task.Run(() => StartAsync())));
        foreach (var run in runs)
            Assert.StartsWith("succeeded", await _house.EndAsync(run), StringComparison.Ordinal);
    }

    [Fact]
    public async Task QueuedRunsBeginOneAfterTheOtherAlsoAcrossARestart()
    {
        _house.Count.Hanging["a"] = true;
        await _house.PushAsync("chain: t\nwhenBusy: queue\nsteps: { a: { kind: count } }");
        var runs = new List<long> { await StartAsync(), await StartAsync(), await StartAsync() };
        await _house.InFlightAsync(runs[0], "a");
        await _house.EndEngineAsync();
        _house.Start();
        await _house.Engine.StartAsync();
        Assert.Equal(["running", "queued", "queued"], await Task.WhenAll(runs.Select(WordAsync)));
        _house.Count.Release();
        foreach (var run in runs)
            await _house.EndAsync(run);
        var started = await Task.WhenAll(
            runs.Select(r => _house.Engine.Reader.ReadAsync(r, (s, _) => s.Attempts[0].Started))
        );
        Assert.Equal(started.Order(), started);
    }
}
