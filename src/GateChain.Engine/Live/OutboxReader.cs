using GateChain.Storage;
using Microsoft.Extensions.Logging;

namespace GateChain.Engine.Live;

/// <summary>
/// Hands the rows of the outbox to consumers that must not miss any: in order, each at least once, also those that
/// were written before a crash. The feed is only the bell. One consumer does not wait for another.
/// </summary>
public sealed class OutboxReader : IAsyncDisposable
{
    const int Together = 500;

    // A consumer that can't do its work now can in a while, mostly.
    static readonly TimeSpan Pause = TimeSpan.FromSeconds(5);
    const int Tries = 20;

    readonly IOutbox _outbox;
    readonly RunFeed _feed;
    readonly TimeProvider _time;
    readonly ILogger _logger;
    readonly bool _alone;
    readonly List<Consumer> _consumers = [];
    CancellationTokenSource _ending = new();
    List<Task> _loops = [];
    IDisposable? _bell;

    /// <param name="alone">Whether nobody else has consumers there.</param>
    internal OutboxReader(IOutbox outbox, RunFeed feed, TimeProvider time, ILogger logger, bool alone = true) =>
        (_outbox, _feed, _time, _logger, _alone) = (outbox, feed, time, logger, alone);

    sealed class Consumer(string name, TimeSpan gather, Func<IReadOnlyList<OutboxRow>, CancellationToken, Task> handle)
    {
        public string Name => name;

        /// <summary>How long news are gathered before they are handed over together; zero for one by one.</summary>
        public TimeSpan Gather => gather;
        public Func<IReadOnlyList<OutboxRow>, CancellationToken, Task> Handle => handle;
        public SemaphoreSlim Bell { get; } = new(1);
        public long Position { get; set; }

        public void Ring()
        {
            if (Bell.CurrentCount == 0)
                Bell.Release();
        }
    }

    /// <summary>Adds a consumer. Before the start.</summary>
    /// <param name="name">Names its cursor in the store: it must not change.</param>
    /// <param name="handle">Handles one row. It may be told a row again, and must not mind. One that throws is asked
    /// again after 5 s, 20 times at most.</param>
    public void Add(string name, Func<OutboxRow, CancellationToken, Task> handle) =>
        _consumers.Add(new(name, TimeSpan.Zero, (rows, cancel) => handle(rows[0], cancel)));

    /// <summary>Adds a consumer that takes rows together, some time after they came. Before the start.</summary>
    /// <param name="name">Names its cursor in the store: it must not change.</param>
    /// <param name="gather">How long they are gathered, more than zero.</param>
    /// <param name="handle">Handles 1 to 500 rows; else as with one.</param>
    public void Add(string name, TimeSpan gather, Func<IReadOnlyList<OutboxRow>, CancellationToken, Task> handle) =>
        _consumers.Add(new(name, gather, handle));

    /// <summary>Begins to hand rows over, from where each consumer was.</summary>
    /// <exception cref="StorageException">The cursors can't be written.</exception>
    public async Task StartAsync()
    {
        _ending = new();
        var cursors = await _outbox.OpenAsync([.. _consumers.Select(c => c.Name)], _alone).ConfigureAwait(false);
        // Before the first look: what comes behind it rings.
        _bell = _feed.SubscribeToNotifications(_ => Ring());
        foreach (var consumer in _consumers)
        {
            consumer.Position = cursors[consumer.Name];
            consumer.Ring();
            _loops.Add(Task.Run(() => LoopAsync(consumer)));
        }
    }

    /// <summary>There may be news that the feed does not tell.</summary>
    internal void Ring()
    {
        foreach (var consumer in _consumers)
            consumer.Ring();
    }

    async Task LoopAsync(Consumer consumer)
    {
        try
        {
            while (true)
            {
                await consumer.Bell.WaitAsync(_ending.Token).ConfigureAwait(false);
                if (consumer.Gather > TimeSpan.Zero)
                    await Task.Delay(consumer.Gather, _time, _ending.Token).ConfigureAwait(false);
                await ReadAsync(consumer).ConfigureAwait(false);
            }
        }
        catch (OperationCanceledException)
        {
            // The service ends.
        }
    }

    async Task ReadAsync(Consumer consumer)
    {
        IReadOnlyList<OutboxRow> rows = [];
        do
        {
            await TryAsync(
                    consumer,
                    async () => rows = await _outbox.ReadAsync(consumer.Position, Together).ConfigureAwait(false),
                    int.MaxValue
                )
                .ConfigureAwait(false);
            foreach (var part in consumer.Gather > TimeSpan.Zero && rows.Count > 0 ? [rows] : One(rows))
            {
                await TryAsync(consumer, () => consumer.Handle(part, _ending.Token), Tries).ConfigureAwait(false);
                consumer.Position = part[^1].Position;
                _outbox.Handled(consumer.Name, consumer.Position);
            }
        } while (rows.Count == Together);
    }

    static IEnumerable<IReadOnlyList<OutboxRow>> One(IReadOnlyList<OutboxRow> rows) =>
        rows.Select(IReadOnlyList<OutboxRow> (row) => [row]);

    async Task TryAsync(Consumer consumer, Func<Task> work, int most)
    {
        for (var tries = 1; ; tries++)
        {
            try
            {
                await work().ConfigureAwait(false);
                return;
            }
            catch (Exception e) when (e is not OperationCanceledException || !_ending.IsCancellationRequested)
            {
                _logger.LogError(e, "News for {Consumer} could not be handled (try {Try})", consumer.Name, tries);
                if (tries >= most)
                    return;
            }
            await Task.Delay(Pause, _time, _ending.Token).ConfigureAwait(false);
        }
    }

    /// <summary>Ends; what was not handled is handed over after the next start, here or elsewhere.</summary>
    public async ValueTask DisposeAsync()
    {
        _bell?.Dispose();
        await _ending.CancelAsync().ConfigureAwait(false);
        await Task.WhenAll(_loops).ConfigureAwait(false);
        _loops = [];
    }
}
