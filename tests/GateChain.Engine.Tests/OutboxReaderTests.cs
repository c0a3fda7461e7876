using System.Collections.Concurrent;
using GateChain.Core.Running.Events;
using GateChain.Core.Values;
using GateChain.Storage;

namespace GateChain.Engine.Tests;

/// <summary>Who must not miss news of runs is told all of it, whatever becomes of the service.</summary>
public sealed class OutboxReaderTests : IAsyncDisposable
{
    const string Chain =
        "chain: t\ndueIn: 10m\nsteps: { a: { kind: count, ifFails: pause }, b: { kind: count } }\ngates: [ { from: a, "
        + "to: b } ]";

    readonly House _house = new();
    readonly BlockingCollection<string> _told = [];

    public ValueTask DisposeAsync() => _house.DisposeAsync();

    void Listen(Func<OutboxRow, bool>? fails = null) => _house.Engine.Outbox.Add("test", (row, _) =>
        {
            if (fails?.Invoke(row) == true)
                throw new IOException("not now");
            _told.Add($"{row.Kind} {row.State}", CancellationToken.None);
            return Task.CompletedTask;
        });

    string Next()
    {
        Assert.True(_told.TryTake(out var told, TimeSpan.FromSeconds(30)), "nothing is told");
        return told;
    }

    [Fact]
    public async Task StartPauseLateEndAndEveryLegAreTold()
    {
        Listen();
        await _house.Engine.StartAsync();
        _house.Count.Failing["a"] = true;
        var run = await _house.RunAsync(Chain);
        Assert.Equal("Started running", Next());
        Assert.Equal("Paused paused", Next());
        _house.Clock.Advance(TimeSpan.FromMinutes(11));
        Assert.Equal("Late paused", Next());
        await _house.Engine.Commands.AnswerAsync(run, "a", PauseAnswer.Fail, Value.EmptyMap, null, Ann);
        Assert.Equal("Ended failed", Next());
        _house.Count.Failing.Clear();
        await _house.Engine.Commands.ResumeAsync(run, Ann, new());
        Assert.Equal("Resumed running", Next());
        Assert.Equal("Ended succeeded", Next());
        Assert.Empty(_told);
    }

    [Fact]
    public async Task WhatNobodyHandledBeforeACrashIsToldByTheNextOne()
    {
        // The first service writes it and never gets to tell it.
        Listen(_ => true);
        await _house.Engine.StartAsync();
        var run = await _house.RunAsync(Chain);
        while ((await _house.Store.Runs.FindAsync(run))!.Ended is null)
            await Task.Delay(1);
        _house.Start();
        Listen();
        await _house.Engine.StartAsync();
        Assert.Equal("Started running", Next());
        Assert.Equal("Ended succeeded", Next());
    }

    [Fact]
    public async Task AConsumerThatFailsIsAskedAgainAndInOrder()
    {
        var tries = 0;
        Listen(row => row.Kind == RunNotificationKind.Started && Interlocked.Increment(ref tries) <= 2);
        await _house.Engine.StartAsync();
        await _house.RunAsync(Chain);
        for (var i = 0; _told.Count == 0; i++)
        {
            Assert.True(i < 6000, "it is not asked again");
            _house.Clock.Advance(TimeSpan.FromSeconds(1));
            await Task.Delay(5);
        }
        Assert.Equal("Started running", Next());
        Assert.Equal("Ended succeeded", Next());
        Assert.Equal(3, tries);
    }
}
