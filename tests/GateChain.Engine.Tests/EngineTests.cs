using GateChain.Core.Identity;
using GateChain.Core.Running;
using GateChain.Core.Running.Events;
using GateChain.Core.Values;
using GateChain.Engine.Basics;
using GateChain.Storage.Sqlite;
using Microsoft.Data.Sqlite;

namespace GateChain.Engine.Tests;

public sealed class EngineTests : IAsyncDisposable
{
    const string Line =
        "chain: t\nparams: { n: { type: int, default: 1 } }\nsteps:\n  a: { kind: count }\n  b: { kind: "
        + "count }\n  c: { kind: count }\ngates:\n  - { from: a, to: b }\n  - { from: b, to: c }\n";

    readonly House _house = new();

    public ValueTask DisposeAsync() => _house.DisposeAsync();

    static readonly IReadOnlyDictionary<string, Value> Nothing = new Dictionary<string, Value>();

    [Fact]
    public async Task AStepThatSucceededNeverRunsAgainOnResume()
    {
        _house.Count.Failing["b"] = true;
        var run = await _house.RunAsync(Line);
        Assert.Equal("failed: a succeeded, b failed, c skipped", await _house.EndAsync(run));
        _house.Count.Failing.Clear();
        Assert.Equal(2, await _house.Engine.Commands.ResumeAsync(run, Bob, new()));
        Assert.Equal("succeeded: a succeeded, b succeeded, c succeeded", await _house.EndAsync(run));
        Assert.Equal(["a 1", "b 1", "c 1"], _house.Count.Effects.OrderBy(e => e.Key).Select(e => $"{e.Key} {e.Value}"));
    }

    [Fact]
    public async Task TwoResumesAtOnceBeginOneLeg()
    {
        _house.Count.Failing["b"] = true;
        var run = await _house.RunAsync(Line);
        await _house.EndAsync(run);
        _house.Count.Failing.Clear();
        _house.Count.Hanging["c"] = true;
        var tries = await Task.WhenAll(
            Enumerable
                .Range(0, 8)
                .Select(async i =>
                {
                    try
                    {
                        return await _house.Engine.Commands.ResumeAsync(run, Actor.Person($"person {i}"), new());
                    }
                    catch (RefusedException e)
                    {
                        Assert.Equal(RefusalKind.Conflict, e.Kind);
                        Assert.Matches("person|leg 2 was begun by", e.Message);
                        return 0;
                    }
                })
        );
        Assert.Equal(2, Assert.Single(tries, t => t != 0));
        _house.Count.Release();
        await _house.EndAsync(run);
        Assert.Equal(1, _house.Count.Effects["b"]);
    }

    [Fact]
    public async Task AnotherEngineTakesRunsOverAndTheOldOneWritesNoMore()
    {
        _house.Count.Hanging["b"] = true;
        var run = await _house.RunAsync(Line);
        await _house.InFlightAsync(run, "b");
        var old = _house.Engine;
        _house.Start();
        _house.Count.Hanging.Clear();
        await _house.Engine.StartAsync();
        Assert.Equal("succeeded: a succeeded, b succeeded, c succeeded", await _house.EndAsync(run));
        var rows = await _house.Store.Journal.ReadAsync(run).CountAsync();
        _house.Count.Release();
        await UntilAsync(() => old.Runs.Count == 0);
        Assert.Equal(rows, await _house.Store.Journal.ReadAsync(run).CountAsync());
        Assert.Equal(1, _house.Count.Effects["c"]);
    }

    [Fact]
    public async Task ARunGoesOnAfterTheEngineWasEnded()
    {
        _house.Count.Hanging["b"] = true;
        var run = await _house.RunAsync(Line);
        await _house.InFlightAsync(run, "b");
        await _house.EndEngineAsync();
        _house.Count.Hanging.Clear();
        _house.Start();
        await _house.Engine.StartAsync();
        Assert.Equal("succeeded: a succeeded, b succeeded, c succeeded", await _house.EndAsync(run));
        Assert.Equal(1, _house.Count.Effects["a"]);
        Assert.Contains(
            await _house.Engine.Reader.ReadAsync(run, (s, _) => s.Attempts.Select(a => a.Result).ToList()),
            r => r == "lost"
        );
    }

    [Fact]
    public async Task StopEndsWhatRuns()
    {
        _house.Count.Hanging["b"] = true;
        var run = await _house.RunAsync(Line);
        await _house.InFlightAsync(run, "b");
        await _house.Engine.Commands.StopAsync(run, Ann, "enough");
        Assert.Equal("stopped: a succeeded, b stopped, c stopped", await _house.EndAsync(run));
        var again = await Assert.ThrowsAsync<RefusedException>(() => _house.Engine.Commands.StopAsync(run, Ann, null));
        Assert.StartsWith($"run {run} has already ended: it was stopped at", again.Message);
    }

    [Fact]
    public async Task WhileTheDatabaseIsLockedRunsHoldStillAndGoOnAfterwards()
    {
        TestStore.NeedsFile();
        _house.Count.Hanging["b"] = true;
        var run = await _house.RunAsync(Line);
        await _house.InFlightAsync(run, "b");
        using (var other = new SqliteConnection($"Data Source={Path.Combine(_house.Work, "data.db")}"))
        {
            other.Open();
            using var transaction = other.BeginTransaction(deferred: false);
            _house.Count.Release();
            await UntilAsync(() => _house.Store.Journal.Writer.Trouble is not null);
            Assert.False(_house.Count.Effects.ContainsKey("c"));
        }
        Assert.Equal("succeeded: a succeeded, b succeeded, c succeeded", await _house.EndAsync(run));
        Assert.Equal(1, _house.Count.Effects["c"]);
    }

    [Fact]
    public async Task WithAFullDiskRunsHoldStillAndGoOnAfterwards()
    {
        TestStore.NeedsFile();
        var file = ((SqliteStore)_house.Store).File;
        var big = "  d: { kind: count, set: { n: '" + new string('x', 300_000) + "' } }\n";
        _house.Count.Hanging["b"] = true;
        var run = await _house.RunAsync(Line.Replace("gates:", big + "gates:") + "  - { from: b, to: d }\n");
        await _house.InFlightAsync(run, "b");
        file.MaxPages = 1;
        using (var other = new SqliteConnection($"Data Source={Path.Combine(_house.Work, "data.db")}"))
        {
            other.Open();
            using var transaction = other.BeginTransaction(deferred: false);
            // The first try fails on the lock; the connection that is opened then has the limit of a full disk.
            _house.Count.Release();
            await UntilAsync(() => _house.Store.Journal.Writer.Trouble is not null);
        }
        await UntilAsync(() => _house.Store.Journal.Writer.Trouble?.Contains("full", StringComparison.Ordinal) == true);
        Assert.False(_house.Count.Effects.ContainsKey("d"));
        file.MaxPages = null;
        Assert.StartsWith("succeeded", await _house.EndAsync(run));
        Assert.Equal(1, _house.Count.Effects["d"]);
    }

    [Fact]
    public async Task AKindThatThrowsFailsItsStepOnly()
    {
        var run = await _house.RunAsync(
            "chain: t\nsteps:\n  a: { kind: count, set: { n: throw } }\n  b: { kind: count }\n"
        );
        Assert.Equal("failed: a failed, b succeeded", await _house.EndAsync(run));
        var error = await _house.Engine.Reader.ReadAsync(run, (s, _) => s.Find("a")!.Error!);
        Assert.Equal(("internal", "the kind “count” broke: a bug of the kind"), (error.Code, error.Message));
    }

    [Fact]
    public async Task ARunKeepsTheReleaseItStartedWith()
    {
        _house.Count.Failing["b"] = true;
        var run = await _house.RunAsync(Line);
        await _house.EndAsync(run);
        await _house.PushAsync("chain: t\nsteps:\n  other: { kind: count }\n");
        _house.Count.Failing.Clear();
        await _house.Engine.Commands.ResumeAsync(run, Bob, new());
        Assert.Equal("succeeded: a succeeded, b succeeded, c succeeded", await _house.EndAsync(run));
    }

    [Theory]
    [InlineData("x", "1", "there is no parameter “x”; did you mean “n”?")]
    [InlineData("n", "many", "“n”: expected an int, and this is “many”")]
    public async Task ParametersAreCheckedAtTheStart(string name, string value, string message)
    {
        await _house.PushAsync(Line);
        var refused = await Assert.ThrowsAsync<RefusedException>(() =>
            _house.Engine.Starter.StartAsync(
                "t",
                new Dictionary<string, Value> { [name] = Value.String(value) },
                null,
                Ann
            )
        );
        Assert.Equal(message, refused.Message);
        Assert.Empty(await _house.Store.Runs.ListAsync(new()));
    }

    [Fact]
    public async Task RetriesAndWaitsTakeTheirTime()
    {
        var run = await _house.RunAsync(
            "chain: t\nsteps:\n  a: { kind: count, retry: { limit: 2, wait: 1h } }\n  w: { kind: "
                + "wait, set: { for: 2d } }\n"
        );
        Assert.Equal("succeeded: a succeeded, w succeeded", await _house.TurnToEndAsync(run));
        _house.Count.Failing["a"] = true;
        run = await _house.Engine.Starter.StartAsync("t", Nothing, null, Ann);
        Assert.Equal("failed: a failed, w succeeded", await _house.TurnToEndAsync(run));
        var attempts = await _house.Engine.Reader.ReadAsync(run, (s, _) =>
            s.Attempts.Where(a => a.Step == "a").ToList()
        );
        Assert.Equal(3, attempts.Count);
        Assert.All(attempts.Zip(attempts.Skip(1)), p =>
            Took(TimeSpan.FromHours(1), p.Second.Started - p.First.Ended!.Value)
        );
        Took(
            TimeSpan.FromDays(2),
            await _house.Engine.Reader.ReadAsync(run, (s, _) => s.Find("w")!.Ended!.Value - s.Find("w")!.Started!.Value)
        );

        // While a timer is on its way the clock is turned by milliseconds.
        static void Took(TimeSpan expected, TimeSpan time) =>
            Assert.InRange(time, expected, expected + TimeSpan.FromMinutes(1));
    }

    [Fact]
    public async Task ManyRunsAtOnceAllEnd()
    {
        await _house.PushAsync(Line);
        var runs = await Task.WhenAll(
            Enumerable.Range(0, 100).Select(_ => _house.Engine.Starter.StartAsync("t", Nothing, null, Ann))
        );
        Assert.Equal(100, runs.Distinct().Count());
        foreach (var run in runs)
            Assert.StartsWith("succeeded", await _house.EndAsync(run));
        Assert.Equal(100, _house.Count.Effects["c"]);
    }

    [Fact]
    public async Task TheJournalFoldsToWhatTheEngineShows()
    {
        var run = await _house.RunAsync(
            "chain: t\nsteps:\n  e: { kind: each, over: '[1, 2, 3]', parallel: 2, steps: { a: { kind: "
                + "count }, b: { kind: count } } }\n"
        );
        var shown = await _house.EndAsync(run);
        var chain = await _house.Engine.Chains.OfAsync((await _house.Store.Runs.FindAsync(run))!.Release);
        var state = Core.Running.State.RunState.Fold(
            run,
            chain,
            await _house.Store.Journal.ReadAsync(run).Select(r => Decision.FromBytes(r.Body)).ToListAsync()
        );
        Assert.Equal(shown, $"{state.Word}: {string.Join(", ", state.AllSteps.Select(x => $"{x.Path} {x.Word}"))}");
    }

    static async Task UntilAsync(Func<bool> holds)
    {
        for (var i = 0; !holds(); i++)
        {
            Assert.True(i < 500, "it did not come about");
            await Task.Delay(20);
        }
    }

    [Fact]
    public async Task WhoLooksAtARunCannotStopIt()
    {
        var told = 0;
        using (_house.Engine.Feed.Subscribe(1, _ =>
            {
                told++;
                throw new InvalidOperationException("a bug of a listener");
            }))
        {
            Assert.Equal(
                "succeeded: a succeeded, b succeeded",
                await _house.EndAsync(
                    await _house.RunAsync(
                        "chain: t\nsteps: { a: { kind: count, set: { ms: 50 } }, b: { kind: "
                            + "count } }\ngates: [ { from: a, to: b } ]"
                    )
                )
            );
        }
        // It is not called any more.
        Assert.Equal(1, told);
    }

    [Fact]
    public async Task ARunThatCannotBeReadIsTrueToItsStateAndGoesOnWhenItCan()
    {
        await using var house = new House();
        house.Count.Hanging["a"] = true;
        var run = await house.RunAsync("chain: t\nsteps: { a: { kind: count } }");
        var other = await house.Engine.Starter.StartAsync("t", new Dictionary<string, Value>(), null, Ann);
        await house.InFlightAsync(run, "a");
        await house.EndEngineAsync();
        house.Count.Hanging.Clear();
        // The start puts the journal in order; damaged is what lies there then.
        house.Start();
        var repair = await house.Store.DamageAsync(run, 1);
        await house.Engine.StartAsync();
        // One is lost, the other continues; it is told, and can be recovered as soon as it can be read again.
        Assert.Equal("succeeded: a succeeded", await house.EndAsync(other));
        Assert.Equal(run, Assert.Single(house.Engine.Recovery.Stranded).Run);
        await Assert.ThrowsAsync<RefusedException>(() => house.Engine.Recovery.RecoverAsync(run));
        repair();
        // Whoever asks together: one of them has it, and no one takes it from them.
        var refused = 0;
        await Task.WhenAll(Enumerable.Range(0, 8).Select(_ => TryAsync()));
        Assert.Equal(7, refused);
        Assert.Equal("succeeded: a succeeded", await house.EndAsync(run));
        Assert.Empty(house.Engine.Recovery.Stranded);

        async Task TryAsync()
        {
            try
            {
                await house.Engine.Recovery.RecoverAsync(run);
            }
            catch (RefusedException e) when (e.Kind == RefusalKind.Conflict)
            {
                Interlocked.Increment(ref refused);
            }
        }
    }

    [Fact]
    public async Task WhatCannotBeStoredFailsItsStepAndTheOthersGoOn()
    {
        await using var house = new House(bounds: Bounds.Default with { DecisionSize = 3000 });
        var run = await house.RunAsync(
            "chain: t\nsteps:\n  a: { kind: count, assign: { vars.all: 'lists.range(900)' } }\n  b: "
                + "{ kind: count, set: { ms: 300 } }\nvars: { all: { type: list } }"
        );
        Assert.Equal("failed: a failed, b succeeded", await house.EndAsync(run));
        Assert.Contains(
            "in the journal",
            await house.Engine.Reader.ReadAsync(run, (s, _) => s.Find("a")!.Error!.Message)
        );
        Assert.Empty(house.Engine.Recovery.Stranded);
    }
}
