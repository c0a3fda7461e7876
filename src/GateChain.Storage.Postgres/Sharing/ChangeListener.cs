using Npgsql;

namespace GateChain.Storage.Postgres;

/// <summary>
/// Hears which parts of the store have changed, on a connection of its own. While it has none, anything may change: all
/// parts are told when it has one again.
/// </summary>
/// <remarks>Source: PostgreSQL documentation, LISTEN and NOTIFY.</remarks>
sealed class ChangeListener : IChangeFollowing
{
    static readonly TimeSpan AgainIn = TimeSpan.FromMilliseconds(500),
        Patience = TimeSpan.FromSeconds(2);

    readonly PostgresDatabase _database;
    readonly Func<IReadOnlyCollection<StoredPart>, Task> _changed;
    readonly CancellationTokenSource _ending = new();
    readonly Lock _lock = new();
    readonly HashSet<StoredPart> _heard = [];

    // Who waits until what came before their own word is read, and those whose word has come.
    readonly Dictionary<string, TaskCompletionSource> _waiting = [];
    readonly List<TaskCompletionSource> _come = [];
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
            lock (_lock)
            {
                if (Enum.TryParse<StoredPart>(told.Payload, out var part))
                    _heard.Add(part);
                else if (_waiting.Remove(told.Payload, out var one))
                    _come.Add(one);
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
            List<TaskCompletionSource> come;
            lock (_lock)
            {
                (heard, come) = ([.. _heard], [.. _come]);
                _heard.Clear();
                _come.Clear();
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
            foreach (var one in come)
                one.TrySetResult();
            bool more;
            lock (_lock)
                more = _heard.Count + _come.Count > 0;
            if (!more)
                await connection.WaitAsync(_ending.Token).ConfigureAwait(false);
        }
    }

    public async Task CaughtUpAsync()
    {
        // Words come in the order in which they were said: behind this one nothing older is to be heard.
        var (word, come) = (
            $"here {Guid.NewGuid():N}",
            new TaskCompletionSource(TaskCreationOptions.RunContinuationsAsynchronously)
        );
        lock (_lock)
            _waiting[word] = come;
        try
        {
            await using var connection = await _database.ConnectAsync().ConfigureAwait(false);
            await using var say = new NpgsqlCommand("SELECT pg_notify('gatechain', $1)", connection);
            say.Parameters.AddWithValue(word);
            await say.ExecuteNonQueryAsync().ConfigureAwait(false);
            await come.Task.WaitAsync(Patience).ConfigureAwait(false);
        }
        catch (Exception e) when (e is NpgsqlException or TimeoutException)
        {
            // As good as it gets.
        }
        finally
        {
            lock (_lock)
                _waiting.Remove(word);
        }
    }

    public async ValueTask DisposeAsync()
    {
        await _ending.CancelAsync().ConfigureAwait(false);
        await _loop.ConfigureAwait(false);
        _ending.Dispose();
    }
}
