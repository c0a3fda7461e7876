using GateChain.Storage;
using Microsoft.Extensions.Logging;

namespace GateChain.Access.Audit;

/// <summary>
/// Seals the lines of the audit log a moment after they were written, and anchors the newest seal in the service's log
/// file: a log whose tail was cut off does not reach its last anchor. Thread-safe.
/// </summary>
public sealed class AuditSealer : IAsyncDisposable
{
    /// <summary>What a line of the log file with an anchor begins with.</summary>
    public const string Anchor = "Audit sealed up to";

    const int Together = 1_000;

    static readonly TimeSpan Pause = TimeSpan.FromSeconds(1);

    readonly IAuditLog _log;
    readonly ILogger _logger;
    readonly SemaphoreSlim _sealing = new(1, 1);
    ITimer? _timer;
    int _ended;
    (long Number, string Seal)? _last;

    internal AuditSealer(IAuditLog log, ILogger logger) => (_log, _logger) = (log, logger);

    /// <summary>Whether it is this service that seals: of those that share a log one does. Default always.</summary>
    public Func<bool> IsMine { get; set; } = () => true;

    internal void Start(TimeProvider time) => _timer = time.CreateTimer(_ => _ = RoundAsync(), null, Pause, Pause);

    async Task RoundAsync()
    {
        try
        {
            await SealAsync().ConfigureAwait(false);
        }
        catch (Exception e) when (e is not OutOfMemoryException)
        {
            // Lines wait: the next round, or the next start, seals them.
            _logger.LogWarning("The audit log could not be sealed: {Reason}", e.Message);
        }
    }

    /// <summary>Seals what is not sealed yet.</summary>
    /// <exception cref="StorageException">It could not be stored.</exception>
    public async Task SealAsync()
    {
        await _sealing.WaitAsync().ConfigureAwait(false);
        try
        {
            if (!IsMine())
            {
                _last = null;
                return;
            }
            var (number, seal) = _last ??= await _log.LastSealAsync().ConfigureAwait(false);
            var begun = number;
            while (await _log.AfterAsync(number, Together).ConfigureAwait(false) is { Count: > 0 } lines)
            {
                var seals = new List<(long, string)>();
                foreach (var line in lines)
                    seals.Add((number = line.Number, seal = AuditSeals.Of(seal, line)));
                await _log.SealAsync(seals).ConfigureAwait(false);
                _last = (number, seal);
            }
            if (number > begun)
                _logger.LogInformation(Anchor + " {Number}: {Seal}", number, seal);
        }
        finally
        {
            _sealing.Release();
        }
    }

    /// <summary>Seals what is left, and ends.</summary>
    public async ValueTask DisposeAsync()
    {
        // Who built it and who hosts it may both end it.
        if (Interlocked.Exchange(ref _ended, 1) != 0)
            return;
        if (_timer is not null)
            await _timer.DisposeAsync().ConfigureAwait(false);
        await RoundAsync().ConfigureAwait(false);
        _sealing.Dispose();
    }
}
