using GateChain.Kinds.Load;

namespace GateChain.Kinds.Tests.Load;

/// <summary>Two threads at one load: whatever throws, both have ended when the load has.</summary>
public sealed class BatchPipeTests
{
    readonly List<long> _written = [];
    int _filled;

    [Theory]
    [InlineData(1), InlineData(2), InlineData(7)]
    public void EveryBatchIsWrittenOnceAndInOrder(int batches)
    {
        new BatchPipe(1).Run(Fill(batches), batch => _written.Add(batch.Line(0)));
        Assert.Equal(Enumerable.Range(1, batches).Select(n => (long)n), _written);
    }

    [Fact]
    public void WhatFailsInReadingEndsTheWritingToo()
    {
        var fill = Fill(9);
        var e = Assert.Throws<IOException>(() =>
            new BatchPipe(1).Run(
                batch =>
                {
                    if (_filled == 3)
                        throw new IOException("gone");
                    fill(batch);
                },
                batch =>
                {
                    Thread.Yield();
                    _written.Add(batch.Line(0));
                }
            )
        );
        Assert.Equal("gone", e.Message);
        Assert.Equal([1, 2, 3], _written);
    }

    [Fact]
    public void WhatFailsInWritingEndsTheReadingToo()
    {
        var e = Assert.Throws<IOException>(() => new BatchPipe(1).Run(Fill(int.MaxValue), batch =>
            {
                _written.Add(batch.Line(0));
                if (_written.Count == 2)
                    throw new IOException("full");
            }));
        Assert.Equal("full", e.Message);
        Assert.Equal([1, 2], _written);
        Assert.InRange(_filled, 2, 4);
    }

    [Fact]
    public void WhatFailedInWritingIsToldBeforeWhatFailedInReading()
    {
        using var both = new Barrier(2);
        var e = Assert.Throws<IOException>(() =>
            new BatchPipe(1).Run(
                batch =>
                {
                    if (_filled == 1)
                    {
                        both.SignalAndWait();
                        throw new InvalidDataException("reading");
                    }
                    Fill(9)(batch);
                },
                _ =>
                {
                    both.SignalAndWait();
                    throw new IOException("writing");
                }
            )
        );
        Assert.Equal("writing", e.Message);
    }

    Action<RowBatch> Fill(int batches) =>
        batch =>
        {
            _ = batch.Next;
            batch.Keep(++_filled);
            batch.IsLast = _filled == batches;
        };
}
