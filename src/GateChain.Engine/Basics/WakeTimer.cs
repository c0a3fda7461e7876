namespace GateChain.Engine.Basics;

/// <summary>
/// Lets one loop sleep until a moment or until somebody rings, whichever comes first. Ringing is thread-safe; one loop
/// sleeps. Ringing after the end does nothing.
/// </summary>
/// <param name="time">The clock.</param>
sealed class WakeTimer(TimeProvider time) : IDisposable
{
    readonly SemaphoreSlim _bell = new(0, 1);

    /// <summary>Wakes the loop, or keeps it from falling asleep the next time.</summary>
    public void Ring()
    {
        try
        {
            if (_bell.CurrentCount == 0)
                _bell.Release();
        }
        catch (Exception e) when (e is SemaphoreFullException or ObjectDisposedException)
        {
            // Somebody else has rung in this moment, or nobody sleeps any more.
        }
    }

    /// <summary>Sleeps.</summary>
    /// <param name="longest">For how long at most; zero or less only asks whether somebody has rung.</param>
    /// <param name="ending">Wakes it for good.</param>
    /// <returns>Whether somebody has rung.</returns>
    /// <exception cref="OperationCanceledException">It is the end.</exception>
    public async Task<bool> SleepAsync(TimeSpan longest, CancellationToken ending)
    {
        ending.ThrowIfCancellationRequested();
        if (longest <= TimeSpan.Zero)
            return await _bell.WaitAsync(0, ending).ConfigureAwait(false);
        var began = time.GetUtcNow();
        using var timer = new CancellationTokenSource(longest, time);
        using var either = CancellationTokenSource.CreateLinkedTokenSource(timer.Token, ending);
        // The clock may have been turned before the timer was there.
        if (time.GetUtcNow() - began >= longest)
            return false;
        try
        {
            await _bell.WaitAsync(either.Token).ConfigureAwait(false);
            return true;
        }
        catch (OperationCanceledException) when (!ending.IsCancellationRequested)
        {
            return false;
        }
    }

    /// <summary>Nobody sleeps any more.</summary>
    public void Dispose() => _bell.Dispose();
}
