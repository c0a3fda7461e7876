using GateChain.Core.Running;
using GateChain.Core.Values;
using GateChain.Engine.Basics;
using GateChain.Engine.Runs;
using GateChain.Engine.Workspaces;

namespace GateChain.Engine.Tests;

/// <summary>The engine tells the machine, which has no clock, when time is up.</summary>
public sealed class ClockTests
{
    static readonly Bounds Short = Bounds.Default with
    {
        DecisionTime = TimeSpan.FromMilliseconds(1),
        EvaluationTime = TimeSpan.FromMilliseconds(1),
        CheckTime = TimeSpan.FromMilliseconds(1),
    };

    [Fact]
    public void BothTimesOfADecisionRunOutAndTheNextOneHasItsOwn()
    {
        for (var round = 0; round < 3; round++)
        {
            Assert.True(
                DecisionClock.Run(Short, limit =>
                    limit.Decision.WaitHandle.WaitOne(30_000) && limit.Evaluation.WaitHandle.WaitOne(30_000)
                )
            );
            Assert.False(
                DecisionClock.Run(Bounds.Default, limit =>
                    limit.Decision.IsCancellationRequested || limit.Evaluation.IsCancellationRequested
                )
            );
        }
    }

    [Fact]
    public void ADecisionWithinADecisionIsPartOfIt() =>
        Assert.True(DecisionClock.Run(Bounds.Default, outer => DecisionClock.Run(Short, inner => inner == outer)));

    [Fact]
    public void WhatADecisionThrowsEndsItsTimes()
    {
        Assert.Throws<InvalidOperationException>(() =>
            DecisionClock.Run<TimeLimit>(Bounds.Default, _ => throw new InvalidOperationException("a bug"))
        );
        Assert.False(DecisionClock.Run(Bounds.Default, limit => limit.Decision.IsCancellationRequested));
    }

    [Fact]
    public void ACheckThatTakesTooLongIsRefusedInASentence()
    {
        var refused = Assert.Throws<RefusedException>(() => CheckClock.Run<int>(Short, cancel =>
            {
                cancel.WaitHandle.WaitOne(30_000);
                cancel.ThrowIfCancellationRequested();
                return 1;
            }));
        Assert.Equal(
            "the check took longer than 1 ms and was ended: make the chain smaller, for example with child chains",
            refused.Message
        );
    }
}
