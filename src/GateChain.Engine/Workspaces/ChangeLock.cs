using GateChain.Storage;

namespace GateChain.Engine.Workspaces;

/// <summary>Lets one at a time change the workspace: in this service, and of those that share a store. Thread-safe.
/// </summary>
/// <param name="shared">What is shared; null for a service that has its store alone.</param>
sealed class ChangeLock(ISharedStore? shared) : IDisposable
{
    readonly SemaphoreSlim _here = new(1, 1);

    /// <summary>Waits for who is at it, and keeps others out until the result is disposed of.</summary>
    /// <param name="readAgain">Reads again what another service may have changed just now.</param>
    /// <exception cref="StorageException">Others could not be asked.</exception>
    public async Task<IAsyncDisposable> TakeAsync(Func<Task> readAgain)
    {
        await _here.WaitAsync().ConfigureAwait(false);
        IAsyncDisposable? elsewhere = null;
        try
        {
            if (shared is not null)
            {
                elsewhere = await shared.HoldAsync("workspace").ConfigureAwait(false);
                await readAgain().ConfigureAwait(false);
            }
            return new Held(_here, elsewhere);
        }
        catch
        {
            if (elsewhere is not null)
                await elsewhere.DisposeAsync().ConfigureAwait(false);
            _here.Release();
            throw;
        }
    }

    sealed class Held(SemaphoreSlim here, IAsyncDisposable? elsewhere) : IAsyncDisposable
    {
        public async ValueTask DisposeAsync()
        {
            try
            {
                if (elsewhere is not null)
                    await elsewhere.DisposeAsync().ConfigureAwait(false);
            }
            finally
            {
                here.Release();
            }
        }
    }

    public void Dispose() => _here.Dispose();
}
