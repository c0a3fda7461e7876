using GateChain.Core.Identity;
using GateChain.Engine.Live;
using GateChain.Engine.Ownership;
using GateChain.Engine.Reading;
using GateChain.Engine.Retention;
using GateChain.Engine.Runs;
using GateChain.Engine.Triggers;
using GateChain.Storage;
using Microsoft.Extensions.Logging;

namespace GateChain.Engine;

/// <summary>
/// What begins by itself, and what follows the news of all runs: schedules, watches, backfills, automatic resumes,
/// history. Of services that share a store one does it at a time; two for a moment do no harm, as each occasion and
/// each
/// claim counts once. Started and ended by one caller, one after the other.
/// </summary>
sealed class SelfStarts(
    TriggerParts parts,
    BackfillService backfills,
    OutboxReader outbox,
    HistoryKeeper? history,
    IRunOwnership ownership,
    IRunStore runs,
    RunCommands commands,
    RunFeed feed,
    RunKeeping keeping
) : IAsyncDisposable
{
    static readonly TimeSpan FiresAreKept = TimeSpan.FromDays(400),
        CallsAreKept = TimeSpan.FromDays(30);

    CancellationTokenSource _ending = new();
    DueRuns? _due;
    ITimer? _forgetting;
    Task _catchingUp = Task.CompletedTask,
        _keeping = Task.CompletedTask;

    public ScheduleClock? Schedules { get; private set; }

    /// <summary>What waits for something outside; null while this service does not.</summary>
    public TriggerSources? Sources { get; private set; }

    /// <summary>Whether it is this service that does it.</summary>
    public bool AreHere { get; private set; }

    /// <param name="first">What has to be done before anything begins, and after news are heard.</param>
    /// <exception cref="StorageException">The store can't be read or written.</exception>
    public async Task StartAsync(Func<Task>? first = null)
    {
        AreHere = true;
        _ending = new();
        try
        {
            await StartAllAsync(first).ConfigureAwait(false);
        }
        catch
        {
            // Nothing of it goes on: whoever tries again begins anew.
            await DisposeAsync().ConfigureAwait(false);
            throw;
        }
    }

    async Task StartAllAsync(Func<Task>? first)
    {
        // Before the first news.
        await outbox.StartAsync().ConfigureAwait(false);
        if (first is not null)
            await first().ConfigureAwait(false);
        _due = new(
            ownership,
            runs,
            run => commands.ResumeAsync(run, Actor.Recovery, new() { Automatic = true }),
            parts.Time,
            parts.Logger
        );
        _due.Start(feed);
        await parts.Triggers.LoadAsync().ConfigureAwait(false);
        Schedules = new(parts.Triggers, parts.Desk, parts.Store, parts.Time, parts.Logger);
        Schedules.Start();
        Sources = new(parts);
        await Sources.StartAsync().ConfigureAwait(false);
        backfills.Start(feed);
        _forgetting = parts.Time.CreateTimer(
            _ => _ = ForgetAsync(),
            null,
            TimeSpan.FromMinutes(1),
            TimeSpan.FromHours(6)
        );
        if (history is not null)
            _catchingUp = Task.Run(() => CatchUpAsync(history, _ending.Token));
        var ending = _ending.Token;
        _keeping = Task.Run(() => keeping.RunAsync(ending), CancellationToken.None);
    }

    async Task CatchUpAsync(HistoryKeeper keeper, CancellationToken cancel)
    {
        try
        {
            await keeper.CatchUpAsync(cancel).ConfigureAwait(false);
        }
        catch (OperationCanceledException)
        {
            // The next start goes on.
        }
        catch (Exception e) when (e is not OutOfMemoryException)
        {
            parts.Logger.LogWarning("History could not be completed: {Reason}", e.Message);
        }
    }

    async Task ForgetAsync()
    {
        var now = parts.Time.GetUtcNow();
        try
        {
            await parts.Store.ForgetAsync(now - FiresAreKept, now - CallsAreKept).ConfigureAwait(false);
        }
        catch (Exception e) when (e is not OutOfMemoryException)
        {
            parts.Logger.LogWarning("Old fires could not be removed: {Reason}", e.Message);
        }
    }

    /// <summary>Begins nothing more; what was begun goes on.</summary>
    /// <param name="patience">How long a consumer may take to come to an end; one at a database that does not answer is
    /// left behind, and told again.</param>
    public async Task StopAsync(TimeSpan patience)
    {
        if (!AreHere)
            return;
        AreHere = false;
        await _ending.CancelAsync().ConfigureAwait(false);
        // Nothing is resumed any more: the times are on disk for the next one.
        _due?.Dispose();
        if (_forgetting is not null)
            await _forgetting.DisposeAsync().ConfigureAwait(false);
        if (Schedules is { } schedules)
            await schedules.DisposeAsync().ConfigureAwait(false);
        if (Sources is { } sources)
            await sources.DisposeAsync().ConfigureAwait(false);
        Sources = null;
        await backfills.StopAsync().ConfigureAwait(false);
        await _catchingUp.ConfigureAwait(false);
        await _keeping.ConfigureAwait(ConfigureAwaitOptions.SuppressThrowing);
        await Task.WhenAny(outbox.DisposeAsync().AsTask(), Task.Delay(patience, parts.Time)).ConfigureAwait(false);
    }

    public ValueTask DisposeAsync() => new(StopAsync(TimeSpan.FromSeconds(5)));
}
