using GateChain.Core.Running;
using GateChain.Core.Running.Events;
using GateChain.Core.Running.State;
using GateChain.Core.Values;
using GateChain.Engine.Basics;

namespace GateChain.Engine.Tests;

/// <summary>A run is shown as it was behind any of its decisions.</summary>
public sealed class MomentTests : IAsyncDisposable
{
    readonly House _house = new();

    public ValueTask DisposeAsync() => _house.DisposeAsync();

    static byte[] BytesOf(RunState state)
    {
        using var copy = new MemoryStream();
        Snapshot.Write(state, copy);
        return copy.ToArray();
    }

    // Forwards, backwards and far apart: each is the fold of the journal up to there.
    [Fact]
    public async Task EachMomentIsTheFoldUpToIt()
    {
        await _house.Engine.StartAsync();
        await _house.PushAsync(
            "chain: t\nvars: { n: { type: int, initial: 0 } }\nsteps:\n"
                + "  many: { kind: each, over: \"lists.range(400)\", "
                + "steps: { a: { kind: count }, b: { kind: assign, assign: { vars.n: vars.n + 1 } } }, "
                + "gates: [ { from: a, to: b } ] }"
        );
        var run = await _house.Engine.Starter.StartAsync("t", new Dictionary<string, Value>(), null, Ann);
        await _house.EndAsync(run);
        var chain = await _house.Engine.Reader.ReadAsync(run, (s, _) => s.Chain);
        var decisions = await _house.Store.Journal.ReadAsync(run).Select(r => Decision.FromBytes(r.Body)).ToListAsync();
        Assert.True(decisions.Count > 350, $"{decisions.Count} decisions");
        var chance = new Random(20261130);
        var moments = Enumerable.Range(0, 25).Select(_ => chance.Next(1, decisions.Count + 1));
        foreach (var moment in moments.Concat([1, 250, 251, 300, decisions.Count]))
        {
            var (seq, bytes) = await _house.Engine.Moments.ReadAsync(run, moment, (s, at) => (at, BytesOf(s)));
            var fold = RunState.Fold(run, chain, [.. decisions.Take(moment)], _ => chain);
            Assert.Equal(moment, seq);
            Assert.True(BytesOf(fold).AsSpan().SequenceEqual(bytes), $"moment {moment}");
        }
        var listed = await _house.Engine.Moments.ListAsync(run, 0, 1_000);
        Assert.Equal(
            Enumerable.Range(1, Math.Min(1_000, decisions.Count)).Select(i => (long)i),
            listed.Select(m => m.Seq)
        );
        Assert.Contains("begins", listed[0].Lines[0].Text, StringComparison.Ordinal);
        Assert.Equal(
            [(300, decisions[299].At)],
            (await _house.Engine.Moments.ListAsync(run, 299, 1)).Select(m => ((int)m.Seq, m.At))
        );
        // One behind the last is the last; before the first is none.
        Assert.Equal(decisions.Count, await _house.Engine.Moments.ReadAsync(run, 99_999, (_, at) => at));
        await Assert.ThrowsAsync<RefusedException>(() => _house.Engine.Moments.ReadAsync(run, 0, (_, at) => at));
        await Assert.ThrowsAsync<RefusedException>(() => _house.Engine.Moments.ListAsync(run + 1, 0, 1));
    }
}
