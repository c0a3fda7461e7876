using GateChain.Core.Running.Events;
using GateChain.Core.Running.State;
using GateChain.Engine.Reading;
using GateChain.Storage;

namespace GateChain.Engine.Tests;

/// <summary>Who looks at a run sees what is on disk, and keeps it from nothing.</summary>
public sealed class ReaderTests : IAsyncDisposable
{
    readonly House _house = new();

    public ValueTask DisposeAsync() => _house.DisposeAsync();

    const string Two = "chain: t\nsteps: { a: { kind: count }, b: { kind: count } }\ngates: [ { from: a, to: b } ]";

    /// <summary>A disk that takes its time: appends wait until they are let through.</summary>
    sealed class SlowJournal(IJournal inner) : IJournal
    {
        readonly Lock _lock = new();
        readonly Queue<JournalAppend> _waiting = new();
        bool _holds;

        public int Waiting => _waiting.Count;

        public WriterState Writer => inner.Writer;

        public IAsyncEnumerable<JournalRow> ReadAsync(long run, long after, CancellationToken cancel) =>
            inner.ReadAsync(run, after, cancel);

        public void Append(JournalAppend append)
        {
            lock (_lock)
            {
                if (_holds)
                {
                    _waiting.Enqueue(append);
                    return;
                }
            }
            inner.Append(append);
        }

        public void Hold() => _holds = true;

        public void LetThrough()
        {
            lock (_lock)
            {
                _holds = false;
                while (_waiting.TryDequeue(out var append))
                    inner.Append(append);
            }
        }
    }

    [Fact]
    public async Task NobodyIsShownWhatIsNotOnDisk()
    {
        SlowJournal? journal = null;
        await using var house = new House(store => journal = new(store));
        house.Count.Hanging["a"] = true;
        var run = await house.RunAsync(Two);
        await house.InFlightAsync(run, "a");
        journal!.Hold();
        house.Count.Release();
        for (var i = 0; journal.Waiting == 0; i++)
        {
            Assert.True(i < 5_000, "nothing is decided");
            await Task.Delay(1);
        }
        Assert.Equal("running", await house.Engine.Reader.ReadAsync(run, (s, _) => s.Find("a")!.Word));
        journal.LetThrough();
        Assert.Equal("succeeded: a succeeded, b succeeded", await house.EndAsync(run));
    }

    [Fact]
    public async Task WhoReadsSlowlyKeepsNoRunWaiting()
    {
        _house.Count.Hanging["a"] = true;
        var run = await _house.RunAsync(Two);
        await _house.InFlightAsync(run, "a");
        using var reading = new ManualResetEventSlim();
        using var go = new ManualResetEventSlim();
        var slow = Task.Run(() => _house.Engine.Reader.ReadAsync(run, (s, _) =>
            {
                reading.Set();
                go.Wait();
                return s.Word;
            }));
        reading.Wait();
        _house.Count.Release();
        while ((await _house.Store.Runs.FindAsync(run))!.Ended is null)
            await Task.Delay(1);
        go.Set();
        // What it read stood still meanwhile; the next one sees the end.
        Assert.Equal("running", await slow);
        Assert.Equal("succeeded", await _house.Engine.Reader.ReadAsync(run, (s, _) => s.Word));
    }

    [Fact]
    public async Task WhoFollowsIsToldEveryDecisionInOrderWithItsState()
    {
        _house.Count.Hanging["a"] = true;
        var run = await _house.RunAsync(Two);
        await _house.InFlightAsync(run, "a");
        var told = new List<(long Seq, string Words)>();
        var ended = new TaskCompletionSource();
        using var following = await _house.Engine.Reader.FollowAsync(run, change =>
        {
            told.Add((change.Seq, $"{change.State.Word}, b {change.State.Find("b")!.Word}"));
            if (change.State.HasEnded)
                ended.TrySetResult();
        });
        _house.Count.Release();
        await ended.Task;
        var seqs = await _house.Store.Journal.ReadAsync(run).Select(r => r.Seq).ToListAsync();
        Assert.Equal(seqs.TakeLast(told.Count), told.Select(t => t.Seq));
        Assert.Equal("running, b running", told[0].Words);
        Assert.Equal("succeeded, b succeeded", told[^1].Words);
    }

    [Fact]
    public async Task WhatWasNotToldIsFoundOnTheDisk()
    {
        var run = await _house.RunAsync(
            Two.Replace("b: { kind: count } }", "b: { kind: count }, c: { kind: count } }", StringComparison.Ordinal)
                .Replace(" ]", ", { from: b, to: c } ]", StringComparison.Ordinal)
        );
        await _house.EndAsync(run);
        var chain = await _house.Engine.Chains.OfAsync((await _house.Store.Runs.FindAsync(run))!.Release);
        var rows = await _house
            .Store.Journal.ReadAsync(run)
            .Select(r => (r.Seq, Decision: Decision.FromBytes(r.Body)))
            .ToListAsync();
        var onDisk = 1;
        var looks = 0;
        var shown = new ShownRun(
            () =>
                Task.FromResult(
                    (RunState.Fold(run, chain, rows.Take(onDisk).Select(r => r.Decision)), rows[onDisk - 1].Seq)
                ),
            after =>
            {
                looks++;
                return rows.Take(onDisk).Where(r => r.Seq > after).ToAsyncEnumerable();
            },
            _ => true,
            _ => { }
        );
        var told = new List<long>();
        using var following = await shown.FollowAsync(change => told.Add(change.Seq));
        Assert.Equal((1L, "running"), await shown.ReadAsync((s, seq) => (seq, s.Word)));
        // In order, twice, and with one left out.
        onDisk = rows.Count;
        shown.Tell(new(run, rows[1].Seq, rows[1].Decision));
        shown.Tell(new(run, rows[1].Seq, rows[1].Decision));
        Assert.Equal((rows[1].Seq, 0), await shown.ReadAsync((_, seq) => (seq, looks)));
        shown.Tell(new(run, rows[^1].Seq, rows[^1].Decision));
        Assert.Equal((rows[^1].Seq, "succeeded", 1), await shown.ReadAsync((s, seq) => (seq, s.Word, looks)));
        // Who follows is told what was left out, too.
        Assert.Equal(rows.Skip(1).Select(r => r.Seq), told);
    }

    // A leg that moves to a release which nobody here has read yet.
    [Fact]
    public async Task WhatCannotBeAddedWithoutWaitingIsLookedUp()
    {
        var run = await _house.RunAsync(Two);
        await _house.EndAsync(run);
        var chain = await _house.Engine.Chains.OfAsync((await _house.Store.Runs.FindAsync(run))!.Release);
        var rows = await _house
            .Store.Journal.ReadAsync(run)
            .Select(r => (r.Seq, Decision: Decision.FromBytes(r.Body)))
            .ToListAsync();
        var (onDisk, looks) = (1, 0);
        var shown = new ShownRun(
            () =>
                Task.FromResult(
                    (RunState.Fold(run, chain, rows.Take(onDisk).Select(r => r.Decision)), rows[onDisk - 1].Seq)
                ),
            after =>
            {
                looks++;
                return rows.Take(onDisk).Where(r => r.Seq > after).ToAsyncEnumerable();
            },
            decision => decision != rows[1].Decision,
            e => Assert.Fail(e.Message)
        );
        var told = new List<long>();
        using var following = await shown.FollowAsync(change => told.Add(change.Seq));
        onDisk = 2;
        shown.Tell(new(run, rows[1].Seq, rows[1].Decision));
        Assert.Equal((rows[1].Seq, 1), await shown.ReadAsync((_, seq) => (seq, looks)));
        shown.Tell(new(run, rows[2].Seq, rows[2].Decision));
        Assert.Equal((rows[2].Seq, 1), await shown.ReadAsync((_, seq) => (seq, looks)));
        Assert.Equal([rows[1].Seq, rows[2].Seq], told);
    }
}
