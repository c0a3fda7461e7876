using GateChain.Core.Identity;
using GateChain.Core.Retention;
using GateChain.Core.Running;
using GateChain.Engine.Basics;
using GateChain.Engine.Reading;
using GateChain.Storage;
using Microsoft.Extensions.Logging;

namespace GateChain.Engine.Retention;

/// <summary>A chain, the rule for its runs, and what it lets go.</summary>
/// <param name="Chain">The chain's name.</param>
/// <param name="Area">The folder of its newest run.</param>
/// <param name="Place">Where the rule stands; null where nobody has said anything: all is kept.</param>
/// <param name="Rule">The rule.</param>
/// <param name="Gone">How many runs have gone, or would; without their children.</param>
public sealed record ChainKeeping(string Chain, Area Area, KeepPlace? Place, KeepRule Rule, long Gone);

/// <summary>One pass over all chains.</summary>
/// <param name="At">When it began.</param>
/// <param name="Took">How long it took.</param>
/// <param name="Chains">Each chain of which there are runs.</param>
public sealed record KeepingPass(DateTimeOffset At, TimeSpan Took, IReadOnlyList<ChainKeeping> Chains);

/// <summary>
/// Lets runs go that have ended long ago, after rules that people set: their journals, logs, snapshots, files of steps
/// and marks in other databases. It works beside the runs, and gives way to them; a pass that was cut off is gone on
/// with by the next one.
/// Thread-safe; one pass at a time.
/// </summary>
public sealed class RunKeeping : IDisposable
{
    static readonly TimeSpan First = TimeSpan.FromMinutes(5),
        Every = TimeSpan.FromHours(1);

    // So many go in one transaction, for which all others that write have to wait.
    const int Together = 100,
        Counted = 10_000;

    readonly IRetention _store;
    readonly IAuditLog _audit;
    readonly LeftFiles _files;
    readonly LeftMarks _marks;
    readonly RunReader _reader;
    readonly TimeProvider _time;
    readonly ILogger _logger;
    readonly SemaphoreSlim _turn = new(1, 1);

    internal RunKeeping(
        EngineOptions options,
        IStore store,
        RunReader reader,
        LeftMarks marks,
        TimeProvider time,
        ILogger logger
    )
    {
        _marks = marks;
        (_store, _audit, _reader, _time, _logger) = (store.Retention, store.Audit, reader, time, logger);
        _files = new(options, store.Retention, time);
    }

    static Actor Itself { get; } = new(ActorKind.Service, "retention", "retention");

    /// <summary>Does a pass each hour, until it is cancelled. Failures are told in the service's log.</summary>
    internal async Task RunAsync(CancellationToken cancel)
    {
        using var bell = new WakeTimer(_time);
        for (var wait = First; ; wait = Every)
        {
            await bell.SleepAsync(wait, cancel).ConfigureAwait(false);
            try
            {
                await PassAsync(dryRun: false, cancel).ConfigureAwait(false);
            }
            catch (Exception e) when (e is not (OutOfMemoryException or OperationCanceledException))
            {
                _logger.LogWarning("Runs that are not kept any more could not be removed: {Reason}", e.Message);
            }
        }
    }

    /// <summary>The rules.</summary>
    public ValueTask<KeepRules> RulesAsync() => _store.RulesAsync();

    /// <summary>Says how long runs of a place are kept; null takes what was said away.</summary>
    /// <exception cref="RefusedException">The rule is none.</exception>
    /// <exception cref="StorageException">It could not be written.</exception>
    public Task SetRuleAsync(KeepPlace place, KeepRule? rule, Actor by)
    {
        if (rule?.Refusal is { } refusal)
            throw new RefusedException(RefusalKind.Invalid, refusal);
        return _store.SetRuleAsync(
            place,
            rule,
            new(_time.GetUtcNow(), by, "keep", Said(place), rule?.ToString() ?? "as around it")
        );
    }

    static string Said(KeepPlace place) =>
        place.Chain is { } chain ? chain
        : place.Folder == Area.Root ? "everything"
        : $"folder {place.Folder}";

    /// <summary>The runs that somebody pinned.</summary>
    public ValueTask<IReadOnlyList<Pin>> PinsAsync() => _store.PinsAsync();

    /// <summary>Keeps a run, with those that it has called, whatever the rules say.</summary>
    /// <param name="why">Why; null when nobody says it.</param>
    /// <exception cref="RefusedException">There is no such run.</exception>
    /// <exception cref="StorageException">It could not be written.</exception>
    public async Task PinAsync(long run, string? why, Actor by)
    {
        var now = _time.GetUtcNow();
        var pin = new Pin(run, by.Name, now, why);
        if (!await _store.PinAsync(pin, new(now, by, "pin", $"run {run}", why)).ConfigureAwait(false))
            throw RefusedException.NoRun(run);
    }

    /// <summary>Keeps a run no longer than others.</summary>
    /// <exception cref="StorageException">It could not be written.</exception>
    public Task UnpinAsync(long run, Actor by) =>
        _store.UnpinAsync(run, new(_time.GetUtcNow(), by, "unpin", $"run {run}"));

    /// <summary>Looks at each chain once, and lets go what its rule does not keep.</summary>
    /// <param name="dryRun">Whether nothing goes; it is only counted.</param>
    /// <param name="cancel">Ends it after what is being removed.</param>
    /// <exception cref="StorageException">The store can't be read or written; what is gone is gone.</exception>
    public async Task<KeepingPass> PassAsync(bool dryRun, CancellationToken cancel)
    {
        await _turn.WaitAsync(cancel).ConfigureAwait(false);
        try
        {
            var began = _time.GetUtcNow();
            _marks.Begin();
            var rules = await _store.RulesAsync().ConfigureAwait(false);
            var chains = new List<ChainKeeping>();
            foreach (var chain in await _store.ChainsAsync().ConfigureAwait(false))
            {
                var found = rules.Of(chain.Name, chain.Area);
                var rule = found?.Rule ?? KeepRule.Everything;
                var gone = dryRun
                    ? await CountAsync(chain.Name, rule, began, cancel).ConfigureAwait(false)
                    : await RemoveAsync(chain.Name, rule, began, cancel).ConfigureAwait(false);
                chains.Add(new(chain.Name, chain.Area, found?.Place, rule, gone));
            }
            if (!dryRun)
                await _files.SweepAsync(cancel).ConfigureAwait(false);
            return new(began, _time.GetUtcNow() - began, chains);
        }
        finally
        {
            _turn.Release();
        }
    }

    async Task<long> CountAsync(string chain, KeepRule rule, DateTimeOffset now, CancellationToken cancel)
    {
        var count = 0L;
        for (var after = 0L; ; )
        {
            cancel.ThrowIfCancellationRequested();
            var old = await _store.OldAsync(chain, rule, now, after, Counted).ConfigureAwait(false);
            count += old.Count;
            if (old.Count < Counted)
                return count;
            after = old[^1].Run;
        }
    }

    async Task<long> RemoveAsync(string chain, KeepRule rule, DateTimeOffset now, CancellationToken cancel)
    {
        var count = 0L;
        for (var after = 0L; ; )
        {
            cancel.ThrowIfCancellationRequested();
            var began = _time.GetTimestamp();
            var old = await _store.OldAsync(chain, rule, now, after, Together).ConfigureAwait(false);
            if (old.Count > 0)
            {
                var marks = await _marks.OfAsync(old.Select(o => o.Run)).ConfigureAwait(false);
                var gone = await _store.RemoveAsync(old).ConfigureAwait(false);
                count += old.Count(o => gone.Contains(o.Run));
                foreach (var run in gone)
                {
                    _reader.Forget(run);
                    _files.Remove(run);
                }
                _marks.Clear(marks, gone.ToHashSet(), cancel);
            }
            if (old.Count < Together)
                break;
            after = old[^1].Run;
            // Half of the time belongs to the runs.
            await Task.Delay(_time.GetElapsedTime(began), _time, cancel).ConfigureAwait(false);
        }
        if (count > 0)
        {
            _logger.LogInformation("{Count} runs of {Chain} were removed: {Rule}", count, chain, rule);
            await _audit
                .AddAsync([new(_time.GetUtcNow(), Itself, "remove runs", chain, $"{count:N0} runs; {rule}")])
                .ConfigureAwait(false);
        }
        return count;
    }

    /// <summary>What takes room: the store's tables, and the folders beside it.</summary>
    public async Task<IReadOnlyList<RoomUse>> UseAsync(CancellationToken cancel) =>
        [.. _files.Use(cancel), .. await _store.UseAsync().ConfigureAwait(false)];

    /// <summary>No pass begins any more.</summary>
    public void Dispose() => _turn.Dispose();
}
