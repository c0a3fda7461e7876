using GateChain.Core.Running;
using GateChain.Core.Values;

namespace GateChain.Engine.Runs;

/// <summary>
/// Counts the time that decisions take, for the machine that has no clock. One for each thread; used again, for very
/// many decisions are quick.
/// </summary>
static class DecisionClock
{
    [ThreadStatic]
    static CancellationTokenSource? _decision;

    [ThreadStatic]
    static CancellationTokenSource? _evaluation;

    [ThreadStatic]
    static bool _busy;

    /// <summary>Decides within the times that are allowed.</summary>
    /// <param name="bounds">How long a decision and an evaluation may take.</param>
    /// <param name="decide">Decides.</param>
    public static T Run<T>(Bounds bounds, Func<TimeLimit, T> decide)
    {
        var limit = new TimeLimit((_decision ??= new()).Token, (_evaluation ??= new()).Token);
        // A decision within a decision is part of it.
        if (_busy)
            return decide(limit);
        _busy = true;
        try
        {
            _decision.CancelAfter(bounds.DecisionTime);
            // One that began just before the decision has to end still has its whole time.
            _evaluation.CancelAfter(bounds.DecisionTime + bounds.EvaluationTime);
            return decide(limit);
        }
        finally
        {
            _busy = false;
            Reset(ref _decision);
            Reset(ref _evaluation);
        }
    }

    // One whose time was up is of no use any more.
    static void Reset(ref CancellationTokenSource? source)
    {
        if (source!.TryReset())
            return;
        source.Dispose();
        source = null;
    }
}
