using GateChain.Core.Running.Events;
using GateChain.Core.Values;
using GateChain.Engine.Basics;

namespace GateChain.Engine.Tests;

/// <summary>
/// Programs that continue after their service was killed are ended before anything of their step begins again, whatever
/// <c>onCrash</c> says and whoever begins it.
/// </summary>
public sealed class LostProgramTests : IAsyncDisposable
{
    readonly House _house = new();

    public ValueTask DisposeAsync() => _house.DisposeAsync();

    string[] Lines =>
        File.Exists(Path.Combine(_house.Work, "zap")) ? File.ReadAllLines(Path.Combine(_house.Work, "zap")) : [];

    async Task UntilAsync(Func<Task<bool>> holds)
    {
        for (var i = 0; !await holds(); i++)
        {
            Assert.True(i < 3000, $"it did not come about: {string.Join(", ", Lines)}");
            await Task.Delay(10);
        }
    }

    static bool IsAlive(string process) =>
        File.Exists($"/proc/{process}/stat")
        && !File.ReadAllText($"/proc/{process}/stat").Contains(") Z ", StringComparison.Ordinal);

    [Theory]
    [InlineData("redo", "")]
    [InlineData("pause", "retry")]
    [InlineData("pause", "settle")]
    [InlineData("fail", "resume")]
    public async Task TheyAreEndedBeforeAnythingBeginsAgain(string onCrash, string then)
    {
        // A child that made a session of its own, and whose parent ends, is the program's too.
        var run = await _house.RunAsync(
            $"chain: t\nsteps:\n  b: {{ kind: command, onCrash: {onCrash}, set: {{ shell: "
                + "'test -f again && exit 0; setsid sh -c \"echo child $$ >> zap; "
                + $"sleep 60\" & echo start $$ >> zap; sleep 60; echo end >> zap' }} }}"
        );
        await UntilAsync(() => Task.FromResult(Lines.Length == 2));
        var processes = Lines.Select(l => l.Split(' ')[1]).ToList();
        // Another process takes over; the old one is not told, and its programs continue.
        File.WriteAllText(Path.Combine(_house.Work, "again"), "");
        _house.Start();
        await _house.Engine.StartAsync();
        await UntilAsync(async () =>
            await _house.Engine.Reader.ReadAsync(run, (s, _) => s.Attempts[0].Result == "lost")
        );
        Assert.DoesNotContain(processes, IsAlive);
        switch (then)
        {
            case "retry":
                await _house.Engine.Commands.AnswerAsync(run, "b", PauseAnswer.Retry, Value.EmptyMap, null, Ann);
                break;
            case "settle":
                await _house.Engine.Commands.AnswerAsync(run, "b", PauseAnswer.Settle, Value.EmptyMap, null, Ann);
                break;
            case "resume":
                Assert.Equal("failed: b failed", await _house.EndAsync(run));
                await _house.Engine.Commands.ResumeAsync(run, Ann, new());
                break;
            default:
                break;
        }
        Assert.Equal("succeeded: b succeeded", await _house.EndAsync(run));
        Assert.DoesNotContain("end", Lines);
    }

    const string Held =
        "chain: t\nsteps:\n  h:\n    kind: count\n    guard:\n      probes: { f: { kind: file, path: "
        + "'inbox/*.csv', stable: STABLE } }\n      rules: [ { when: probes.f.count > 0, verdict: "
        + "proceed } ]\n      otherwise: { verdict: hold, recheck: 1h, limit: 3, then: fail }";

    [Theory]
    [InlineData(true)]
    [InlineData(false)]
    public async Task AHeldStepHearsOfFilesAfterEveryStart(bool whileItWasDown)
    {
        var run = await _house.RunAsync(Held.Replace("STABLE", "0s", StringComparison.Ordinal));
        await UntilAsync(async () =>
            await _house.Engine.Reader.ReadAsync(run, (s, _) => s.Find("h")!.Hold?.Latest is not null)
        );
        Directory.CreateDirectory(Path.Combine(_house.Work, "inbox"));
        await _house.EndEngineAsync();
        if (whileItWasDown)
            _house.Arrive("inbox/one.csv");
        _house.Start();
        await _house.Engine.StartAsync();
        if (!whileItWasDown)
            _house.Arrive("inbox/one.csv");
        Assert.Equal("succeeded: h succeeded", await _house.TurnToEndAsync(run, TimeSpan.FromMinutes(1)));
    }

    [Fact]
    public async Task AFileIsLookedAtAgainWhenItCanBeStable()
    {
        Directory.CreateDirectory(Path.Combine(_house.Work, "inbox"));
        var run = await _house.RunAsync(Held.Replace("STABLE", "1s", StringComparison.Ordinal));
        await UntilAsync(async () =>
            await _house.Engine.Reader.ReadAsync(run, (s, _) => s.Find("h")!.Hold?.Latest is not null)
        );
        var begun = _house.Clock.GetUtcNow();
        _house.Arrive("inbox/one.csv");
        await UntilAsync(async () =>
        {
            _house.Clock.Advance(TimeSpan.FromMilliseconds(100));
            return (await _house.Store.Runs.FindAsync(run))!.Ended is not null;
        });
        Assert.Equal("succeeded: h succeeded", await _house.EndAsync(run));
        Assert.True(
            (await _house.Store.Runs.FindAsync(run))!.Ended - begun < TimeSpan.FromMinutes(50),
            "only the next look saw it"
        );
    }

    [Fact]
    public async Task AResumeReachesIntoAChildThatSucceeded()
    {
        _house.Count.Failing["bad"] = true;
        await _house.PushAsync(
            "chain: t\nsteps: { good: { kind: call, chain: child1 }, bad: { kind: count } }",
            "chain: child1\nsteps: { k1: { kind: count }, k2: { kind: count } }\ngates: [ { from: k1, to: k2 } ]"
        );
        var run = await _house.Engine.Starter.StartAsync("t", new Dictionary<string, Value>(), null, Ann);
        await _house.EndAsync(run);
        _house.Count.Failing.Clear();
        Assert.Contains(
            "k1",
            (
                await Assert.ThrowsAsync<RefusedException>(() =>
                    _house.Engine.Commands.ResumeAsync(run, Ann, new() { From = ["good/k9"] })
                )
            ).Message
        );
        Assert.Contains(
            "both",
            (
                await Assert.ThrowsAsync<RefusedException>(() =>
                    _house.Engine.Commands.ResumeAsync(run, Ann, new() { From = ["bad"], Skip = ["bad"] })
                )
            ).Message
        );
        var plan = (await _house.Engine.Commands.PlanAsync(run, new() { From = ["good/k1"] })).Plan;
        Assert.Equal(("good", "bad"), (Assert.Single(plan.Reopened), Assert.Single(plan.Reset)));
        await _house.Engine.Commands.ResumeAsync(run, Ann, new() { From = ["good/k1"] });
        Assert.Equal("succeeded: good succeeded, bad succeeded", await _house.EndAsync(run));
        Assert.Equal((2, 2), (_house.Count.Effects["k1"], _house.Count.Effects["k2"]));
    }
}
