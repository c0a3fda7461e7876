using Npgsql;

namespace GateChain.Storage.Postgres;

/// <summary>
/// Hears which parts of the store have changed, on a connection of its own. While it has none, anything may change: all
/// parts are told when it has one again.
/// </summary>
/// <remarks>Source: PostgreSQL documentation, LISTEN and NOTIFY.</remarks>
sealed class ChangeListener : IAsyncDisposable
{
    static readonly TimeSpan AgainIn = TimeSpan.FromMilliseconds(500);

    readonly PostgresDatabase _database;
    readonly Func<IReadOnlyCollection<StoredPart>, Task> _changed;
    readonly CancellationTokenSource _ending = new();
    readonly Lock _lock = new();
    readonly HashSet<StoredPart> _heard = [];
    readonly Task _loop;

    public ChangeListener(PostgresDatabase database, Func<IReadOnlyCollection<StoredPart>, Task> changed)
    {
        (_database, _changed) = (database, changed);
        _loop = Task.Run(LoopAsync);
    }

    async Task LoopAsync()
    {
        for (var isFirst = true; !_ending.IsCancellationRequested; isFirst = false)
        {
            try
            {
                await ListenAsync(isFirst).ConfigureAwait(false);
            }
            catch (OperationCanceledException) when (_ending.IsCancellationRequested)
            {
                return;
            }
            catch (Exception e) when (e is not OutOfMemoryException)
            {
                // The connection is gone, or who was told could not read: both are tried again.
                await Task.Delay(AgainIn, _ending.Token).ConfigureAwait(ConfigureAwaitOptions.SuppressThrowing);
            }
        }
    }

    async Task ListenAsync(bool isFirst)
    {
        // Not from those that are kept. A connection that is cut without a word is noticed by its keepalive.
        var options = new NpgsqlConnectionStringBuilder(_database.ConnectionString) { Pooling = false, KeepAlive = 5 };
        await using var connection = new NpgsqlConnection(options.ConnectionString);
        await connection.OpenAsync(_ending.Token).ConfigureAwait(false);
        connection.Notification += (_, told) =>
        {
            if (Enum.TryParse<StoredPart>(told.Payload, out var part))
            {
                lock (_lock)
                    _heard.Add(part);
            }
        };
        await using (var listen = new NpgsqlCommand("LISTEN gatechain", connection))
            await listen.ExecuteNonQueryAsync(_ending.Token).ConfigureAwait(false);
        if (!isFirst)
        {
            lock (_lock)
                _heard.UnionWith(Enum.GetValues<StoredPart>());
        }
        while (true)
        {
            List<StoredPart> heard;
            lock (_lock)
            {
                heard = [.. _heard];
                _heard.Clear();
            }
            if (heard.Count > 0)
            {
                try
                {
                    await _changed(heard).ConfigureAwait(false);
                }
                catch
                {
                    lock (_lock)
                        _heard.UnionWith(heard);
                    throw;
                }
            }
            bool more;
            lock (_lock)
                more = _heard.Count > 0;
            if (!more)
                await connection.WaitAsync(_ending.Token).ConfigureAwait(false);
        }
    }

    public async ValueTask DisposeAsync()
    {
        await _ending.CancelAsync().ConfigureAwait(false);
        await _loop.ConfigureAwait(false);
        _ending.Dispose();
    }
}
