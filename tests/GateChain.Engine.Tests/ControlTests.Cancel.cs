using GateChain.Core.Chains;
using GateChain.Core.Values;
using GateChain.Engine.Basics;

namespace GateChain.Engine.Tests;

// One step ended by a person: what works for it outside is ended, given back, and stays so over a restart.
public sealed partial class ControlTests
{
    Task CancelAsync(long run, string step, Outcome outcome = Outcome.Skipped) =>
        _house.Engine.Commands.CancelAsync(run, step, outcome, Value.EmptyMap, "too long", Ann);

    [Fact]
    public async Task WhatIsCancelledGivesItsTurnBack()
    {
        await _house.PushAsync(
            "chain: t\nsteps:\n  a: { kind: count, lane: narrow }\n  b: { kind: count, lane: narrow }\n"
                + "  c: { kind: count, lane: narrow }"
        );
        foreach (var step in new[] { "a", "b", "c" })
            _house.Count.Hanging[step] = true;
        var run = await StartAsync();
        await _house.InFlightAsync(run, "a");
        await CancelAsync(run, "b");
        Assert.Equal("skipped", await _house.Engine.Reader.ReadAsync(run, (s, _) => s.Find("b")!.Word));
        await CancelAsync(run, "a", Outcome.Succeeded);
        await _house.InFlightAsync(run, "c");
        await CancelAsync(run, "c");
        Assert.Equal("succeeded: a succeeded, b skipped, c skipped", await _house.EndAsync(run));
        Assert.All(await _house.Engine.Slots.LanesAsync(), lane => Assert.Empty(lane.Holders));
    }

    [Fact]
    public async Task ACancelledCallStopsItsChild()
    {
        await _house.PushAsync(
            "chain: t\nsteps:\n  ask: { kind: call, chain: child1 }\n  after: { kind: count }\n"
                + "gates: [ { from: ask, to: after, on: skipped } ]",
            "chain: child1\nsteps:\n  work: { kind: count }"
        );
        _house.Count.Hanging["work"] = true;
        var run = await StartAsync();
        await UntilAsync(async () =>
            await _house.Engine.Reader.ReadAsync(run, (s, _) => s.Find("ask")!.Child) is not null
        );
        var child = await _house.Engine.Reader.ReadAsync(run, (s, _) => s.Find("ask")!.Child!.Run);
        await _house.InFlightAsync(child, "work");
        await CancelAsync(run, "ask");
        Assert.Equal("succeeded: ask skipped, after succeeded", await _house.EndAsync(run));
        Assert.Equal("stopped: work stopped", await _house.EndAsync(child));
    }

    [Fact]
    public async Task ACancelledHoldAndWaitEndAtOnce()
    {
        await _house.PushAsync(
            "chain: t\nsteps:\n"
                + "  held: { kind: count, guard: { otherwise: { verdict: hold, recheck: 1h, limit: 9 } } }\n"
                + "  rest: { kind: wait, set: { for: 5h } }"
        );
        var run = await StartAsync();
        await UntilAsync(async () =>
            await _house.Engine.Reader.ReadAsync(run, (s, _) => s.Find("held")!.Word) == "held"
        );
        await CancelAsync(run, "held");
        await CancelAsync(run, "rest", Outcome.Succeeded);
        Assert.Equal("succeeded: held skipped, rest succeeded", await _house.EndAsync(run));
    }

    [Fact]
    public async Task WhatWasSaidHoldsOverARestart()
    {
        await _house.PushAsync(
            "chain: t\nsteps:\n  a: { kind: count }\n  next: { kind: count }\n"
                + "gates: [ { from: a, to: next, on: skipped } ]"
        );
        _house.Count.Stubborn["a"] = true;
        var run = await StartAsync();
        await _house.InFlightAsync(run, "a");
        await CancelAsync(run, "a");
        Assert.Equal("running", await _house.Engine.Reader.ReadAsync(run, (s, _) => s.Find("a")!.Word));
        _house.Start();
        await _house.Engine.StartAsync();
        Assert.Equal("succeeded: a skipped, next succeeded", await _house.EndAsync(run));
        Assert.False(_house.Count.Effects.ContainsKey("a"));
    }

    [Fact]
    public async Task OneOfManyIterationsIsCancelled()
    {
        await _house.PushAsync(
            "chain: t\noutputs: { n: steps.loop.count }\nsteps:\n  loop:\n    kind: each\n    over: '[1, 2, 3]'\n"
                + "    parallel: 3\n    steps: { work: { kind: count } }"
        );
        _house.Count.Hanging["loop[1]/work"] = true;
        var run = await StartAsync();
        await _house.InFlightAsync(run, "loop[1]/work");
        await CancelAsync(run, "loop[1]");
        Assert.StartsWith("succeeded: loop succeeded", await _house.EndAsync(run), StringComparison.Ordinal);
        Assert.Equal(
            Outcome.Skipped,
            await _house.Engine.Reader.ReadAsync(run, (s, _) => s.FindScope("loop[1]").IterationOutcome)
        );
        await Assert.ThrowsAsync<RefusedException>(() => CancelAsync(run, "loop[1]"));
    }
}
