using Dapper;
using GateChain.Storage.Sql;

namespace GateChain.Storage.Postgres;

/// <summary>
/// Numbers for new runs. Who asks while a trip to the database is on its way shares the next one. Thread-safe.
/// </summary>
sealed class RunNumbers(ISqlDatabase database)
{
    const int MostAtOnce = 1000;

    readonly Lock _lock = new();
    readonly Queue<TaskCompletionSource<long>> _waiting = [];
    bool _asking;

    /// <exception cref="StorageException">None could be got.</exception>
    public Task<long> NextAsync()
    {
        var own = new TaskCompletionSource<long>(TaskCreationOptions.RunContinuationsAsynchronously);
        lock (_lock)
        {
            _waiting.Enqueue(own);
            if (_asking)
                return own.Task;
            _asking = true;
        }
        _ = AskAsync();
        return own.Task;
    }

    async Task AskAsync()
    {
        while (true)
        {
            List<TaskCompletionSource<long>> asking;
            lock (_lock)
            {
                asking = [.. _waiting.Take(MostAtOnce)];
                for (var i = 0; i < asking.Count; i++)
                    _waiting.Dequeue();
                _asking = asking.Count > 0;
                if (!_asking)
                    return;
            }
            try
            {
                var numbers = await database
                    .ReadAsync(connection =>
                        connection.QueryAsync<long>(
                            "SELECT nextval('run_numbers') FROM generate_series(1, @Count)",
                            new { asking.Count }
                        )
                    )
                    .ConfigureAwait(false);
                foreach (var (one, number) in asking.Zip(numbers))
                    one.SetResult(number);
            }
            catch (Exception e)
            {
                foreach (var one in asking)
                    one.TrySetException(e);
            }
        }
    }
}
