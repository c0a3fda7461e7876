using GateChain.Core.Retention;
using GateChain.Core.Running;
using GateChain.Core.Values;
using GateChain.Engine.Basics;

namespace GateChain.Engine.Tests;

/// <summary>Runs that are not kept any more go with their files, whatever happens meanwhile.</summary>
public sealed class RunKeepingTests : IAsyncDisposable
{
    readonly House _house = new();

    public ValueTask DisposeAsync() => _house.DisposeAsync();

    string Data(params string[] parts) => Path.Combine([_house.Work, "data", .. parts]);

    async Task<List<long>> RunsAsync(int count)
    {
        await _house.Engine.StartAsync();
        await _house.PushAsync("chain: t\nsteps: { a: { kind: count } }");
        var runs = new List<long>();
        for (var i = 0; i < count; i++)
        {
            var run = await _house.Engine.Starter.StartAsync("t", new Dictionary<string, Value>(), null, Ann);
            Assert.StartsWith("succeeded", await _house.EndAsync(run), StringComparison.Ordinal);
            Directory.CreateDirectory(Data("logs", $"{run}"));
            File.WriteAllText(Data("logs", $"{run}", "1.log"), "said");
            runs.Add(run);
        }
        return runs;
    }

    [Fact]
    public async Task WhatIsNotKeptGoesWithItsLogs()
    {
        var runs = await RunsAsync(5);
        var keeping = _house.Engine.Keeping;
        await keeping.PinAsync(runs[0], "for the auditors", Ann);
        await keeping.SetRuleAsync(KeepPlace.OfChain("t"), new(null, 0, 2), Ann);
        var dry = Assert.Single((await keeping.PassAsync(dryRun: true, default)).Chains);
        Assert.Equal(("t", 2L, "never more than 2"), (dry.Chain, dry.Gone, dry.Rule.ToString()));
        Assert.True(File.Exists(Data("logs", $"{runs[1]}", "1.log")));
        Assert.Equal(2, Assert.Single((await keeping.PassAsync(dryRun: false, default)).Chains).Gone);
        Assert.Equal([true, false, false, true, true], runs.Select(r => Directory.Exists(Data("logs", $"{r}"))));
        var refused = await Assert.ThrowsAsync<RefusedException>(() =>
            _house.Engine.Commands.ResumeAsync(runs[1], Ann, new())
        );
        Assert.Equal(RefusalKind.NotFound, refused.Kind);
        // What a chain runs next has a number of its own.
        Assert.Equal(runs[^1] + 1, (await RunsAsync(1))[0]);
        Assert.Equal(
            0,
            Assert.Single((await keeping.PassAsync(dryRun: true, default)).Chains, c => c.Gone == 1).Gone - 1
        );
        var lines = await _house.Store.Audit.ListAsync();
        Assert.Equal(
            "2 runs; never more than 2",
            Assert.Single(lines, l => l.Line.Action == "remove runs").Line.Detail
        );
    }

    [Fact]
    public async Task APassComesByItselfAndAfterACrashTheFilesGoToo()
    {
        var runs = await RunsAsync(3);
        await _house.Engine.Keeping.SetRuleAsync(KeepPlace.OfFolder(default), new(30), Ann);
        // As if a crash had come between the store and the files.
        Directory.CreateDirectory(Data("steps", "77", "a"));
        Directory.CreateDirectory(Data("snapshots"));
        File.WriteAllText(Data("snapshots", "78.snapshot"), "x");
        File.WriteAllText(Data("snapshots", "README"), "x");
        Directory.SetLastWriteTimeUtc(Data("steps", "77"), new(2026, 1, 1));
        File.SetLastWriteTimeUtc(Data("snapshots", "78.snapshot"), new(2026, 1, 1));
        File.SetLastWriteTimeUtc(Data("snapshots", "README"), new(2026, 1, 1));
        _house.Clock.Advance(TimeSpan.FromDays(31));
        for (
            var tries = 0;
            Directory.Exists(Data("steps", "77")) || File.Exists(Data("snapshots", "78.snapshot"));
            tries++
        )
        {
            Assert.True(tries < 2_000, "no pass came");
            _house.Clock.Advance(TimeSpan.FromMinutes(10));
            await Task.Delay(5);
        }
        Assert.True(File.Exists(Data("snapshots", "README")));
        // The last one that succeeded stays.
        Assert.Equal([false, false, true], runs.Select(r => Directory.Exists(Data("logs", $"{r}"))));
    }

    [Theory]
    [InlineData(0, 0, null)]
    [InlineData(1, 5, 4)]
    public async Task ARuleThatIsNoneIsRefused(int days, int least, int? most) =>
        Assert.Equal(
            RefusalKind.Invalid,
            (
                await Assert.ThrowsAsync<RefusedException>(() =>
                    _house.Engine.Keeping.SetRuleAsync(KeepPlace.OfChain("t"), new(days, least, most), Ann)
                )
            ).Kind
        );
}
