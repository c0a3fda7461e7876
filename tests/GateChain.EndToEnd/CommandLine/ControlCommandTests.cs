using System.Text.Json;
using GateChain.EndToEnd.House;

namespace GateChain.EndToEnd.CommandLine;

/// <summary>The commands with which people decide, on the demo's chains.</summary>
public sealed class ControlCommandTests : IAsyncLifetime
{
    Service _service = null!;

    public async ValueTask InitializeAsync() => _service = await Service.WithDemoAsync();

    public ValueTask DisposeAsync() => _service.DisposeAsync();

    void Put(string file, string content = "")
    {
        Directory.CreateDirectory(Path.GetDirectoryName(Path.Combine(_service.Work, file))!);
        File.WriteAllText(Path.Combine(_service.Work, file), content);
    }

    async Task<string> OutAsync(int exit, params string[] arguments)
    {
        var (code, output, error) = await _service.CliAsync(arguments);
        Assert.True(exit == code, $"{string.Join(' ', arguments)} gave {code}: {output}{error}");
        return output + error;
    }

    async Task UntilAsync(string run, string state)
    {
        for (var i = 0; !(await OutAsync(0, "show", run)).Contains(state, StringComparison.Ordinal); i++)
        {
            Assert.True(i < 100, $"run {run} does not come to {state}");
            await Task.Delay(50);
        }
    }

    [Fact]
    public async Task OneStepIsCancelledAndTheRunGoesOn()
    {
        await _service.PushAsync(
            "chain: slow\nsteps:\n"
                + "  ask: { kind: command, retry: { limit: 3, wait: 1s }, set: { run: [sleep, '600'] } }\n"
                + "  rest: { kind: command, set: { run: ['true'] } }\n"
                + "gates: [ { from: ask, to: rest, on: skipped } ]\n"
        );
        var run = (await _service.Client.StartAsync(new("slow"))).Id;
        for (var i = 0; (await _service.Client.RunAsync(run)).Steps[0].State != "running"; i++)
        {
            Assert.True(i < 200, "it does not start");
            await Task.Delay(50);
        }
        Assert.Contains("can't be cancelled", await OutAsync(4, "cancel", $"{run}", "rest"), StringComparison.Ordinal);
        await OutAsync(2, "cancel", $"{run}", "ask", "--as", "stopped");
        var said = await OutAsync(0, "cancel", $"{run}", "ask", "--as", "skipped", "-m", "nobody answers", "--follow");
        Assert.Contains("cancelled by", said, StringComparison.Ordinal);
        var shown = await OutAsync(0, "show", $"{run}");
        Assert.Contains("skipped", shown, StringComparison.Ordinal);
        Assert.Contains("nobody answers", await OutAsync(0, "why", $"{run}", "ask"), StringComparison.Ordinal);
        Assert.Equal("succeeded", (await _service.EndAsync(run)).State);
        Assert.Contains("already ended", await OutAsync(4, "cancel", $"{run}", "ask"), StringComparison.Ordinal);
    }

    [Fact]
    public async Task AFailureThreeLevelsDownIsResumedByOneCommand()
    {
        Put("laboratory/down-west");
        var failed = await OutAsync(1, "run", "quality-week", "-p", "day=2026-11-22", "--follow");
        Assert.Contains(
            "run 1 failed: step until_ready[3]/ask of run 4 (depot-samples): "
                + "the program ended with exit code 1: the laboratory does not answer: "
                + "503 (by way of depots[2]/samples (“west”))",
            failed,
            StringComparison.Ordinal
        );
        Assert.Contains("log:    gatechain log 4 'until_ready[3]/ask'", failed, StringComparison.Ordinal);
        Assert.Contains("✓ succeeded @failure[1]/tell_office", failed, StringComparison.Ordinal);
        Assert.Contains(
            "child run 4: gatechain show 4",
            await OutAsync(0, "why", "1", "depots[2]/samples"),
            StringComparison.Ordinal
        );
        File.Delete(Path.Combine(_service.Work, "laboratory/down-west"));
        var resumed = await OutAsync(0, "resume", "1", "--follow");
        Assert.Contains(
            "continues inside: depots, depots[2]/samples\nrepeated: judge\neverything else is kept",
            resumed,
            StringComparison.Ordinal
        );
        Assert.Contains("run 1 succeeded in leg 2", resumed, StringComparison.Ordinal);
        // In the child one step was done again, in the round in which it had failed.
        using var child = JsonDocument.Parse(await OutAsync(0, "show", "4", "--json"));
        var second = child
            .RootElement.GetProperty("attempts")
            .EnumerateArray()
            .Where(a => a.GetProperty("leg").GetInt32() == 2)
            .Select(a => a.GetProperty("step").GetString());
        Assert.Equal(["until_ready", "until_ready[3]/ask", "until_ready[4]/ask"], second);
    }

    [Fact]
    public async Task AChildChainCanBeRunByItself() =>
        Assert.Contains(
            "cells = 188",
            await OutAsync(0, "run", "depot-samples", "-p", "depot=south", "-p", "day=2026-11-22", "--follow"),
            StringComparison.Ordinal
        );

    [Fact]
    public async Task AHeldStepAPausedRunAndThosePeopleWhoDecide()
    {
        Put("ledger/locked");
        await OutAsync(0, "run", "night-close", "-p", "day=2026-11-22");
        await UntilAsync("1", "◇ held");
        Assert.Contains(
            "the closing list has not come; waits for ",
            await OutAsync(0, "show", "1"),
            StringComparison.Ordinal
        );
        Assert.Contains("guard hold, look 1", await OutAsync(0, "why", "1", "closing_list"), StringComparison.Ordinal);
        await OutAsync(0, "run", "night-close", "-p", "day=2026-11-23");
        Assert.Contains(
            "run 2 is queued: it begins when the runs of night-close before it have ended",
            await OutAsync(0, "show", "2"),
            StringComparison.Ordinal
        );

        Put("inbox/closing/list.csv", "farm,cents\nfarm-001,100\n");
        await UntilAsync("1", "‖ paused");
        Assert.Contains(
            "decide: gatechain retry|anew|skip|settle|fail 1 'book', or gatechain stop 1",
            await OutAsync(0, "show", "1"),
            StringComparison.Ordinal
        );
        File.Delete(Path.Combine(_service.Work, "ledger/locked"));
        Assert.Contains(
            "run 1 succeeded",
            await OutAsync(0, "retry", "1", "book", "--follow"),
            StringComparison.Ordinal
        );
        Assert.Contains(
            "answered “retry”",
            await OutAsync(4, "settle", "1", "book", "-o", "booked=1"),
            StringComparison.Ordinal
        );
        await UntilAsync("2", "✓ succeeded");
        Assert.Equal(2, File.ReadAllLines(Path.Combine(_service.Work, "ledger/payments.csv")).Length);
    }

    [Fact]
    public async Task AHeldStepIsLookedAtNowAndLetThrough()
    {
        await OutAsync(0, "run", "night-close", "-p", "day=2026-11-22");
        await UntilAsync("1", "◇ held");
        Assert.Contains(
            "“closing_list” is held; decide: gatechain look|let-through 1 'closing_list'",
            await OutAsync(0, "show", "1"),
            StringComparison.Ordinal
        );
        Assert.Contains(
            "“closing_list” is looked at now",
            await OutAsync(0, "look", "1", "closing_list"),
            StringComparison.Ordinal
        );
        await UntilWhyAsync("The last look of its guard (2) was asked for by");
        Put("inbox/closing/late.txt", "farm,cents\nfarm-001,100\n");
        Assert.Contains(
            "“closing_list” is let through",
            await OutAsync(0, "let-through", "1", "closing_list", "-m", "it came by mail"),
            StringComparison.Ordinal
        );
        await UntilWhyAsync("let it through");
        Assert.Contains("it came by mail", await OutAsync(0, "why", "1", "closing_list"), StringComparison.Ordinal);
        Assert.Contains(
            "“closing_list” is not held by its guard",
            await OutAsync(4, "let-through", "1", "closing_list"),
            StringComparison.Ordinal
        );
        var refused = await Assert.ThrowsAsync<GateChain.Client.GateChainException>(() =>
            _service.Client.AnswerHoldAsync(1, new("closing_list", "open"))
        );
        Assert.Contains("one of let-through, look", refused.Message, StringComparison.Ordinal);

        async Task UntilWhyAsync(string words)
        {
            for (var i = 0; !(await OutAsync(0, "why", "1", "closing_list")).Contains(words); i++)
            {
                Assert.True(i < 100, $"why does not say {words}");
                await Task.Delay(50);
            }
        }
    }

    [Fact]
    public async Task PauseSettleRestartAndLanes()
    {
        await _service.PushAsync(
            "chain: t\nvars: { v: { type: int, initial: 0 } }\nsteps:\n  slow: { kind: wait, set: { for: "
                + "4s } }\n  a: { kind: command, set: { run: ['false'] }, ifFails: pause, assign: { vars.v: "
                + "int(result.value) } }\n  b: { kind: wait, set: { for: 0s } }\ngates: [ { from: slow, to: "
                + "b } ]\noutputs: { v: vars.v }"
        );
        await OutAsync(0, "run", "t");
        Assert.Contains(
            "run 1 is paused; resume it with: gatechain resume 1",
            await OutAsync(0, "pause", "1", "-m", "stocktaking"),
            StringComparison.Ordinal
        );
        await UntilAsync("1", "stocktaking");
        Assert.Contains("was already paused by", await OutAsync(4, "pause", "1"), StringComparison.Ordinal);
        Assert.Contains(
            "“a” is settled as succeeded; run 1 is paused",
            await OutAsync(0, "settle", "1", "a", "-o", "value=7", "-m", "counted by hand"),
            StringComparison.Ordinal
        );
        Assert.Contains("v = 7", await OutAsync(0, "resume", "1", "--follow"), StringComparison.Ordinal);
        Assert.Contains(
            "run 2 of t has started, as run 1 did",
            await OutAsync(0, "restart", "1"),
            StringComparison.Ordinal
        );
        await UntilAsync("2", "‖ paused");
        Assert.Contains("“a” has failed for good", await OutAsync(0, "fail", "2", "a"), StringComparison.Ordinal);
        // The step has failed at once; the run ends when the other branch is through.
        await _service.EndAsync(2);
        Assert.Contains("v = 0", await OutAsync(0, "resume", "2", "--skip", "a", "--follow"), StringComparison.Ordinal);
        Assert.Contains(
            "v = 9",
            await OutAsync(0, "resume", "2", "--from", "a", "--settle", "a={\"value\": 9}", "--follow"),
            StringComparison.Ordinal
        );
        Assert.Contains("laboratory: 0 of 2 taken", await OutAsync(0, "lanes"), StringComparison.Ordinal);
        Assert.Contains(
            "there is no step “x” in run 2",
            await OutAsync(4, "retry", "2", "x"),
            StringComparison.Ordinal
        );
        Assert.Contains(
            "“t” has no release “abcd”",
            await OutAsync(4, "resume", "2", "--from", "a", "--release", "abcd"),
            StringComparison.Ordinal
        );
    }
}
