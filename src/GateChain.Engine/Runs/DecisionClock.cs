using GateChain.Core.Running;
using GateChain.Core.Values;

namespace GateChain.Engine.Runs;

/// <summary>Counts the time that decisions take, for the machine that has no clock. One for each thread; used again, for very many decisions are quick.</summary>
sealed class DecisionClock
{
    [ThreadStatic] static DecisionClock? _clock;

    CancellationTokenSource _decision = new(), _evaluation = new();
    bool _busy;

    /// <summary>Decides within the times that are allowed.</summary>
    /// <param name="bounds">How long a decision and an evaluation may take.</param>
    /// <param name="decide">Decides.</param>
    public static T Run<T>(Bounds bounds, Func<TimeLimit, T> decide)
    {
        var clock = _clock ??= new();
        // A decision within a decision is part of it.
        if (clock._busy) { return decide(new(clock._decision.Token, clock._evaluation.Token)); }
        clock._busy = true;
        try
        {
            clock._decision.CancelAfter(bounds.DecisionTime);
            // One that began just before the decision has to end still has its whole time.
            clock._evaluation.CancelAfter(bounds.DecisionTime + bounds.EvaluationTime);
            return decide(new(clock._decision.Token, clock._evaluation.Token));
        }
        finally
        {
            clock._busy = false;
            Reset(ref clock._decision);
            Reset(ref clock._evaluation);
        }
    }

    static void Reset(ref CancellationTokenSource source)
    {
        if (source.TryReset()) { return; }
        source.Dispose();
        source = new();
    }
}
