using GateChain.Core.History;

namespace GateChain.Core.Tests.History;

public class ExpectedEndTests
{
    static readonly DateTimeOffset Start = new(2026, 11, 22, 2, 30, 0, TimeSpan.Zero);

    static DateTimeOffset At(double minutes) => Start.AddMinutes(minutes);

    /// <summary>A run of so many minutes, whose load begins at one of them.</summary>
    static LegHistory Past(double minutes, double load = 1) =>
        new(
            1,
            1,
            "t",
            1,
            "succeeded",
            Start,
            At(minutes),
            false,
            LegSource.Run,
            [
                new("prepare", "succeeded") { Count = 1, Span = 60_000 },
                new("load", "succeeded")
                {
                    Count = 1,
                    Begin = (long)(load * 60_000),
                    Span = 60_000,
                },
            ]
        );

    static Expectation? Of(double now, double[] past, params (string Step, double Since)[] running) =>
        ExpectedEnd.Of(Start, At(now), running.ToDictionary(r => r.Step, r => At(r.Since)), past.Select(p => Past(p)));

    [Fact]
    public void FewRunsTellNothing() => Assert.Null(Of(1, [20, 20, 20, 20]));

    [Fact]
    public void ItEndsAsTheOthersDid()
    {
        var found = Of(1, [18, 19, 20, 21, 22, 23, 24, 25, 26, 40])!;
        Assert.Equal((At(22), At(19), At(26), 10), (found.Likely, found.Early, found.Late, found.Runs));
    }

    [Fact]
    public void AStepThatBeganLateMovesTheEnd()
    {
        // The load begins after one minute otherwise, and now after eleven.
        var found = Of(12, [20, 20, 20, 20, 20], ("load", 11))!;
        Assert.Equal(At(30), found.Likely);
        // Of several that run the last one counts.
        Assert.Equal(At(30), Of(12, [20, 20, 20, 20, 20], ("load", 11), ("prepare", 0))!.Likely);
        // One that no earlier run had tells nothing.
        Assert.Equal(At(20), Of(12, [20, 20, 20, 20, 20], ("new", 11))!.Likely);
    }

    [Fact]
    public void WhatIsPastIsNoEndAnyMore()
    {
        // Those that took twenty minutes are over.
        Assert.Equal(At(40), Of(25, [20, 20, 20, 20, 20, 20, 40])!.Likely);
        var over = Of(60, [20, 20, 20, 20, 20])!;
        Assert.Equal((At(60), At(60), At(60)), (over.Likely, over.Early, over.Late));
    }
}
