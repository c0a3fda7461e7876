using GateChain.Core.Running;
using GateChain.Core.Running.Events;
using GateChain.Core.Values;
using GateChain.Engine.Basics;
using GateChain.Engine.Slots;

namespace GateChain.Engine.Tests;

public sealed partial class ControlTests
{
    [Fact]
    public async Task AHeldStepStartsAsSoonAsItsFileIsThere()
    {
        await _house.PushAsync(
            "chain: t\nsteps:\n  a: { kind: count, guard: { probes: { f: { kind: file, path: "
                + "'in/deep/*.csv' } }, rules: [ { when: probes.f.count > 0, verdict: proceed } ], otherwise: "
                + "{ verdict: hold, recheck: 1h, limit: 3 } } }"
        );
        var run = await StartAsync();
        await UntilAsync(async () =>
            await _house.Engine.Reader.ReadAsync(run, (s, _) => s.Find("a")!.Hold?.Latest) is not null
        );
        Assert.Equal("held", await _house.Engine.Reader.ReadAsync(run, (s, _) => s.Find("a")!.Word));
        // The folder is not even there yet.
        Directory.CreateDirectory(Path.Combine(_house.Work, "in", "deep"));
        await Task.Delay(150);
        _house.Arrive("in/deep/x.csv");
        Assert.StartsWith(
            "succeeded",
            await _house.TurnToEndAsync(run, TimeSpan.FromMinutes(1)),
            StringComparison.Ordinal
        );
        Assert.InRange(await _house.Engine.Reader.ReadAsync(run, (s, _) => s.Find("a")!.Hold!.Looks), 2, 12);
    }

    [Fact]
    public async Task AHeldStepStartsAlsoWhenItsFolderWasReplaced()
    {
        Directory.CreateDirectory(Path.Combine(_house.Work, "in"));
        await _house.PushAsync(
            "chain: t\nsteps:\n  a: { kind: count, guard: { probes: { f: { kind: file, path: "
                + "'in/*.csv' } }, rules: [ { when: probes.f.count > 0, verdict: proceed } ], otherwise: "
                + "{ verdict: hold, recheck: 1h, limit: 3 } } }"
        );
        var run = await StartAsync();
        await UntilAsync(async () =>
            await _house.Engine.Reader.ReadAsync(run, (s, _) => s.Find("a")!.Hold?.Latest) is not null
        );
        Directory.Delete(Path.Combine(_house.Work, "in"));
        Directory.CreateDirectory(Path.Combine(_house.Work, "in"));
        _house.Arrive("in/x.csv");
        Assert.StartsWith(
            "succeeded",
            await _house.TurnToEndAsync(run, TimeSpan.FromMinutes(1)),
            StringComparison.Ordinal
        );
    }

    [Fact]
    public async Task AHoldGoesOnAcrossARestart()
    {
        await _house.PushAsync(
            "chain: t\nsteps:\n  a: { kind: count, guard: { probes: { f: { kind: file, path: "
                + "'x.csv' } }, rules: [ { when: probes.f.count > 0, verdict: proceed } ], otherwise: "
                + "{ verdict: hold, recheck: 1h, limit: 1000 } } }"
        );
        var run = await StartAsync();
        await UntilAsync(async () =>
        {
            await _house.TurnAsync();
            return await _house.Engine.Reader.ReadAsync(run, (s, _) => s.Find("a")!.Hold?.Looks >= 2);
        });
        await _house.EndEngineAsync();
        _house.Arrive("x.csv");
        _house.Start();
        await _house.Engine.StartAsync();
        Assert.StartsWith("succeeded", await _house.TurnToEndAsync(run), StringComparison.Ordinal);
    }

    [Fact]
    public async Task OfTwoWhoDecideTheSecondIsToldWhoWasFirst()
    {
        _house.Count.Failing["a"] = true;
        await _house.PushAsync(
            "chain: t\nsteps:\n  a: { kind: count, ifFails: pause }\n  b: { kind: count }\ngates: "
                + "[ { from: a, to: b, on: skipped } ]"
        );
        var run = await StartAsync();
        await UntilAsync(run, "paused");
        Assert.Equal("paused", (await _house.Store.Runs.FindAsync(run))!.State);
        await _house.Engine.Commands.AnswerAsync(run, "a", PauseAnswer.Skip, Value.EmptyMap, "not today", Bob);
        var late = await Assert.ThrowsAsync<RefusedException>(() =>
            _house.Engine.Commands.AnswerAsync(run, "a", PauseAnswer.Retry, Value.EmptyMap, null, Ann)
        );
        Assert.Equal(RefusalKind.Conflict, late.Kind);
        Assert.Contains("bob answered “skip”", late.Message, StringComparison.Ordinal);
        await _house.EndAsync(run);
        Assert.Equal(
            "skipped by bob: not today",
            await _house.Engine.Reader.ReadAsync(run, (s, _) => s.Find("a")!.Note)
        );
        Assert.Equal(
            RefusalKind.NotFound,
            (
                await Assert.ThrowsAsync<RefusedException>(() =>
                    _house.Engine.Commands.AnswerAsync(run, "nope", PauseAnswer.Skip, Value.EmptyMap, null, Bob)
                )
            ).Kind
        );
    }

    [Fact]
    public async Task APausedRunStaysSoAcrossARestartAndGoesOnWithAResume()
    {
        _house.Count.Hanging["a"] = true;
        await _house.PushAsync(
            "chain: t\nsteps:\n  a: { kind: count }\n  b: { kind: count }\ngates: [ { from: a, to: b } ]"
        );
        var run = await StartAsync();
        await _house.InFlightAsync(run, "a");
        await _house.Engine.Commands.PauseAsync(run, Ann, "hold on");
        Assert.Contains(
            "already paused by ann",
            (
                await Assert.ThrowsAsync<RefusedException>(() => _house.Engine.Commands.PauseAsync(run, Bob, null))
            ).Message,
            StringComparison.Ordinal
        );
        _house.Count.Release();
        await UntilAsync(async () => await _house.Engine.Reader.ReadAsync(run, (s, _) => s.Find("a")!.IsSettled));
        await _house.EndEngineAsync();
        _house.Start();
        await _house.Engine.StartAsync();
        Assert.Equal(
            ("paused", "pending"),
            (await WordAsync(run), await _house.Engine.Reader.ReadAsync(run, (s, _) => s.Find("b")!.Word))
        );
        await _house.Engine.Commands.ResumeAsync(run, Bob, new());
        Assert.Equal("succeeded: a succeeded, b succeeded", await _house.EndAsync(run));
        Assert.Equal(1, _house.Count.Effects["a"]);
    }
}
