using GateChain.Core.Running;
using GateChain.Core.Values;
using GateChain.Engine.Basics;

namespace GateChain.Engine.Workspaces;

/// <summary>Bounds the time of a check.</summary>
static class CheckClock
{
    /// <exception cref="RefusedException">The time is up.</exception>
    public static T Run<T>(Bounds bounds, Func<CancellationToken, T> check)
    {
        using var limit = new CancellationTokenSource(bounds.CheckTime);
        try
        {
            return check(limit.Token);
        }
        catch (OperationCanceledException) when (limit.IsCancellationRequested)
        {
            throw new RefusedException(
                RefusalKind.Invalid,
                $"the check took longer than {TimeText.Brief(bounds.CheckTime)} and was ended: "
                    + "make the chain smaller, for example with child chains"
            );
        }
    }
}
