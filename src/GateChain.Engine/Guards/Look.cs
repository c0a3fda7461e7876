using GateChain.Core.Values;
using GateChain.Engine.Secrets;
using GateChain.Kinds.Contract;

namespace GateChain.Engine.Guards;

/// <summary>One look of a probe: in bounds, with secrets masked. Thread-safe.</summary>
static class Look
{
    /// <summary>The longest a look may take; a probe that takes longer has failed.</summary>
    static readonly TimeSpan Patience = TimeSpan.FromSeconds(30);

    /// <summary>Takes it. A probe that throws, takes too long or sees too much has failed, and says so.</summary>
    /// <exception cref="OperationCanceledException">It was ended from outside.</exception>
    public static async Task<Value> AtAsync(
        IProbe probe,
        Value settings,
        ProbeContext context,
        SecretMask mask,
        Bounds bounds,
        CancellationToken cancel
    )
    {
        using var limit = new CancellationTokenSource(Patience, context.Time);
        using var either = CancellationTokenSource.CreateLinkedTokenSource(limit.Token, cancel);
        try
        {
            // One that does not listen is left behind.
            var look = Task.Run(
                () => probe.LookAsync(settings, context, either.Token).AsTask(),
                CancellationToken.None
            );
            var seen = mask.Of(await look.WaitAsync(either.Token).ConfigureAwait(false));
            return bounds.RefuseAny(seen, gathered: true) is { } tooBig ? ProbeResult.Failed(tooBig) : seen;
        }
        catch (OperationCanceledException) when (limit.IsCancellationRequested)
        {
            return ProbeResult.Failed($"the look took longer than {TimeText.Setting(Patience)}");
        }
        catch (Exception e) when (e is not OutOfMemoryException && !cancel.IsCancellationRequested)
        {
            return ProbeResult.Failed(mask.Text(e.Message));
        }
    }
}
