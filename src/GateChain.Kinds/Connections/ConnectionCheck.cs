using System.Diagnostics;

namespace GateChain.Kinds.Connections;

/// <summary>What came of looking whether a connection works.</summary>
/// <param name="Found">What was found there, or why nothing was.</param>
/// <param name="Took">How long the look took, the way there included.</param>
public sealed record ConnectionCheck(bool Works, string Found, TimeSpan Took)
{
    static readonly TimeSpan Patience = TimeSpan.FromSeconds(20);

    /// <summary>Goes there once. Never throws but for cancelling.</summary>
    public static async Task<ConnectionCheck> LookAsync(
        Connection connection,
        ConnectionType type,
        ConnectionUse use,
        CancellationToken cancel
    )
    {
        var clock = Stopwatch.StartNew();
        try
        {
            return new(
                true,
                await type.LookAsync(connection, use, cancel).WaitAsync(Patience, cancel).ConfigureAwait(false),
                clock.Elapsed
            );
        }
        catch (OperationCanceledException) when (cancel.IsCancellationRequested)
        {
            throw;
        }
        catch (MissingSecretException e)
        {
            return new(false, $"{e.Message}; set it: gatechain secret set {e.Name}", clock.Elapsed);
        }
        catch (TimeoutException)
        {
            return new(false, $"nothing answered within {Patience.TotalSeconds} s", clock.Elapsed);
        }
        catch (Exception e)
        {
            return new(false, type.Words(e) ?? e.Message, clock.Elapsed);
        }
    }
}
