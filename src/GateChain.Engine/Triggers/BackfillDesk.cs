using System.Globalization;
using GateChain.Core.Chains;
using GateChain.Core.Identity;
using GateChain.Core.Running;
using GateChain.Core.Triggers;
using GateChain.Engine.Basics;
using GateChain.Engine.Live;
using GateChain.Engine.Releases;
using GateChain.Engine.Workspaces;
using GateChain.Storage;
using Microsoft.Extensions.Logging;

namespace GateChain.Engine.Triggers;

/// <summary>Which due times that have a run are done once more.</summary>
public enum BackfillAgain
{
    /// <summary>None.</summary>
    None,

    /// <summary>Those whose newest run did not succeed.</summary>
    Failed,

    /// <summary>All.</summary>
    All,
}

/// <summary>What is to be filled.</summary>
/// <param name="From">The first due time that may be in it.</param>
/// <param name="To">Due times from here on are not in it; never ahead of now.</param>
/// <param name="Parallel">How many runs go at once, 1 to 100.</param>
/// <param name="NewestFirst">Whether it begins with the newest.</param>
/// <param name="Again">Which due times that have a run are done once more.</param>
/// <param name="Keeps">Whether its runs write what their chain keeps.</param>
public sealed record BackfillOrder(
    DateTimeOffset From,
    DateTimeOffset To,
    int Parallel = 1,
    bool NewestFirst = false,
    BackfillAgain Again = BackfillAgain.None,
    bool Keeps = false
);

/// <summary>How far a backfill has got.</summary>
/// <param name="Backfill">What it is.</param>
/// <param name="Times">How many due times it has.</param>
/// <param name="Going">How many of their runs are going.</param>
/// <param name="Succeeded">How many ended well.</param>
/// <param name="Failed">The due times whose run did not, or could not be started, with the run; 0 for none.</param>
/// <param name="PassedOver">How many were passed over.</param>
public sealed record BackfillProgress(
    Backfill Backfill,
    int Times,
    int Going,
    int Succeeded,
    IReadOnlyList<(DateTimeOffset Due, long Run, string Why)> Failed,
    int PassedOver
);

/// <summary>
/// Makes up for due times of a span. A backfill is on disk before it starts anything, and goes on after a restart.
/// Thread-safe.
/// </summary>
public sealed class BackfillDesk : IAsyncDisposable
{
    /// <summary>The most due times of one.</summary>
    public const int Most = 100_000;

    static readonly TimeSpan AgainIn = TimeSpan.FromSeconds(5);

    readonly TriggerBook _book;
    readonly FireDesk _desk;
    readonly ITriggerStore _fires;
    readonly IBackfills _store;
    readonly IRunStore _runs;
    readonly ReleaseBook _releases;
    readonly WorkspaceBook _workspace;
    readonly TimeProvider _time;
    readonly ILogger _logger;
    readonly SemaphoreSlim _bell = new(0);
    readonly CancellationTokenSource _ending = new();
    IDisposable? _news;
    Task? _loop;

    internal BackfillDesk(
        TriggerBook book,
        FireDesk desk,
        IStore store,
        ReleaseBook releases,
        WorkspaceBook workspace,
        TimeProvider time,
        ILogger logger
    )
    {
        (_book, _desk, _fires, _store, _runs) = (book, desk, store.Triggers, store.Backfills, store.Runs);
        (_releases, _workspace, _time, _logger) = (releases, workspace, time, logger);
    }

    internal void Start(RunFeed feed)
    {
        _news = feed.SubscribeNews(news =>
        {
            if (news.Kind == RunNewsKind.Ended)
                _bell.Release();
        });
        _loop = Task.Run(LoopAsync);
        _bell.Release();
    }

    /// <summary>The due times that a backfill would have, in the order in which they fire.</summary>
    /// <exception cref="RefusedException">There is no such schedule, or the span has none or too many.</exception>
    public async Task<IReadOnlyList<BackfillTime>> PreviewAsync(string name, BackfillOrder order)
    {
        var trigger = _book.Get(name);
        if (trigger.Definition.Source is not ScheduleSource source)
            throw new RefusedException(RefusalKind.Invalid, $"“{name}” is no schedule: only due times are made up for");
        if (order.To <= order.From)
            throw new RefusedException(RefusalKind.Invalid, "the span ends before it begins");
        if (order.Parallel is < 1 or > 100)
            throw new RefusedException(RefusalKind.Invalid, "1 to 100 runs go at once");
        var now = _time.GetUtcNow();
        var until = order.To < now ? order.To : now;
        var done = order.Again == BackfillAgain.All ? [] : await DoneAsync(name, order).ConfigureAwait(false);
        var times = source
            .Times.Between(order.From.AddTicks(-1), until.AddTicks(-1))
            .Take(Most + 1)
            .Select(t => new BackfillTime(t.At, t.From))
            .ToList();
        if (times.Count > Most)
        {
            throw new RefusedException(
                RefusalKind.Invalid,
                $"the span has more than {Most:N0} due times: take a shorter one"
            );
        }
        times.RemoveAll(t => done.Contains(t.Due));
        if (order.NewestFirst)
            times.Reverse();
        return times;
    }

    // The due times that have a run which need not be done once more.
    async Task<HashSet<DateTimeOffset>> DoneAsync(string name, BackfillOrder order)
    {
        var newest = new Dictionary<DateTimeOffset, long>();
        foreach (var (key, run) in await _fires.StartedAsync(name, DuePrefix).ConfigureAwait(false))
        {
            if (DueOf(key) is { } due && due >= order.From && due < order.To)
                newest[due] = Math.Max(newest.GetValueOrDefault(due), run);
        }
        if (order.Again == BackfillAgain.None)
            return [.. newest.Keys];
        var done = new HashSet<DateTimeOffset>();
        foreach (var (due, run) in newest)
        {
            if (await _runs.FindAsync(run).ConfigureAwait(false) is { Ended: null } or { State: "succeeded" })
                done.Add(due);
        }
        return done;
    }

    const string DuePrefix = "due:";

    static DateTimeOffset? DueOf(string key) =>
        DateTimeOffset.TryParse(
            key[DuePrefix.Length..].Split(' ')[0],
            CultureInfo.InvariantCulture,
            DateTimeStyles.RoundtripKind,
            out var due
        )
            ? due
            : null;

    static string KeyOf(DateTimeOffset due, long backfill) => $"{DueFire.KeyOf(due)} backfill {backfill}";

    /// <summary>Begins a backfill; it is on disk when this returns.</summary>
    /// <exception cref="RefusedException">Nothing is to be done, or the chain's <c>whenBusy</c> is <c>skip</c> or
    /// <c>replace</c>.</exception>
    /// <exception cref="StorageException">It could not be written.</exception>
    public async Task<Backfill> BeginAsync(string name, BackfillOrder order, Actor by)
    {
        var times = await PreviewAsync(name, order).ConfigureAwait(false);
        if (times.Count == 0)
            throw new RefusedException(RefusalKind.Conflict, "every due time of the span has a run already");
        var definition = _book.Get(name).Definition;
        var chain = await _workspace.LatestChainAsync(definition.Chain).ConfigureAwait(false);
        if (chain.WhenBusy is BusyRule.Skip or BusyRule.Replace)
        {
            throw new RefusedException(
                RefusalKind.Conflict,
                $"the whenBusy of “{chain.Name}” is {(chain.WhenBusy == BusyRule.Skip ? "skip" : "replace")}: "
                    + "a backfill would lose runs; make it queue or allow"
            );
        }
        var release = await _releases.GetAsync(new(definition.Chain, null)).ConfigureAwait(false);
        var now = _time.GetUtcNow();
        var backfill = new Backfill(
            0,
            name,
            order.From,
            order.To,
            release,
            chain.WhenBusy == BusyRule.Queue ? 1 : order.Parallel,
            order.NewestFirst,
            order.Keeps,
            by.Name,
            now,
            BackfillState.Running
        );
        var number = await _store
            .CreateAsync(backfill, times, new(now, by, "backfill", "backfill", $"trigger {name}, {times.Count} times"))
            .ConfigureAwait(false);
        _bell.Release();
        return backfill with { Number = number };
    }

    /// <summary>Pauses, goes on with or stops a backfill.</summary>
    /// <exception cref="RefusedException">There is no such backfill, or it is over.</exception>
    /// <exception cref="StorageException">It could not be written.</exception>
    public async Task SetStateAsync(long number, BackfillState state, Actor by)
    {
        var backfill = await GetAsync(number).ConfigureAwait(false);
        if (backfill.State is BackfillState.Stopped or BackfillState.Ended)
        {
            throw new RefusedException(
                RefusalKind.Conflict,
                $"backfill {number} is {Word(backfill.State)}: nothing of it is left"
            );
        }
        await _store
            .SetStateAsync(
                number,
                state,
                new(_time.GetUtcNow(), by, Word(state), $"backfill {number}", $"trigger {backfill.Trigger}")
            )
            .ConfigureAwait(false);
        _bell.Release();
    }

    /// <summary>The word for a state.</summary>
    public static string Word(BackfillState state) => state.ToString().ToLowerInvariant();

    async Task<Backfill> GetAsync(long number) =>
        await _store.FindAsync(number).ConfigureAwait(false)
        ?? throw new RefusedException(RefusalKind.NotFound, $"there is no backfill {number}");

    /// <summary>How far a backfill has got.</summary>
    /// <exception cref="RefusedException">There is none of that number.</exception>
    public async Task<BackfillProgress> ProgressAsync(long number) =>
        await ProgressAsync(await GetAsync(number).ConfigureAwait(false)).ConfigureAwait(false);

    /// <summary>All of them with how far they have got, newest first.</summary>
    public async Task<IReadOnlyList<BackfillProgress>> ListAsync()
    {
        var all = new List<BackfillProgress>();
        foreach (var backfill in await _store.ListAsync().ConfigureAwait(false))
            all.Add(await ProgressAsync(backfill).ConfigureAwait(false));
        return all;
    }

    async Task<BackfillProgress> ProgressAsync(Backfill backfill)
    {
        var times = await _store.TimesAsync(backfill.Number).ConfigureAwait(false);
        var fires = await _fires.OfBackfillAsync(backfill.Number).ConfigureAwait(false);
        var (going, succeeded, passed) = (0, 0, 0);
        var failed = new List<(DateTimeOffset, long, string)>();
        foreach (var fire in fires)
        {
            var due = DueOf(fire.Said.Key) ?? fire.Said.At;
            if (fire.Run is not { } run)
            {
                if (fire.Said.Fate == FireFate.PassedOver)
                    passed++;
                else
                    failed.Add((due, 0, fire.Said.Why ?? ""));
                continue;
            }
            switch (await _runs.FindAsync(run).ConfigureAwait(false))
            {
                case { State: "succeeded" } or null:
                    succeeded++;
                    break;
                case { Ended: null } or { ResumeAt: not null }:
                    going++;
                    break;
                case var head:
                    failed.Add((due, run, head.Error ?? head.State));
                    break;
            }
        }
        return new(backfill, times.Count, going, succeeded, failed, passed);
    }

    async Task LoopAsync()
    {
        while (true)
        {
            await _bell.WaitAsync(_ending.Token).ConfigureAwait(false);
            while (_bell.CurrentCount > 0)
                await _bell.WaitAsync(_ending.Token).ConfigureAwait(false);
            try
            {
                foreach (var backfill in await _store.ListAsync().ConfigureAwait(false))
                {
                    if (backfill.State is BackfillState.Running or BackfillState.Paused)
                        await GoOnAsync(backfill).ConfigureAwait(false);
                }
            }
            catch (Exception e) when (e is not (OutOfMemoryException or OperationCanceledException))
            {
                _logger.LogWarning("A backfill could not go on: {Reason}", e.Message);
                await Task.Delay(AgainIn, _time, _ending.Token).ConfigureAwait(false);
                _bell.Release();
            }
        }
    }

    async Task GoOnAsync(Backfill backfill)
    {
        var times = await _store.TimesAsync(backfill.Number).ConfigureAwait(false);
        var fires = await _fires.OfBackfillAsync(backfill.Number).ConfigureAwait(false);
        var fired = fires.Select(f => f.Said.Key).ToHashSet();
        var going = 0;
        foreach (var run in fires.Select(f => f.Run).OfType<long>())
        {
            if (await _runs.FindAsync(run).ConfigureAwait(false) is { Ended: null })
                going++;
        }
        var left = times.Where(t => !fired.Contains(KeyOf(t.Due, backfill.Number))).ToList();
        if (left.Count == 0 && going == 0)
        {
            await _store.SetStateAsync(backfill.Number, BackfillState.Ended, null).ConfigureAwait(false);
            return;
        }
        if (backfill.State == BackfillState.Paused || _book.Find(backfill.Trigger) is not { } trigger)
            return;
        foreach (var time in left)
        {
            if (going >= backfill.Parallel || _ending.IsCancellationRequested)
                return;
            var fire = new DueFire(time.Due, time.From, 0, null);
            var key = KeyOf(time.Due, backfill.Number);
            var result = await _desk
                .FireAsync(
                    trigger.Definition,
                    new(key, fire.Event(trigger.Name, _time.GetUtcNow(), backfill: true))
                    {
                        Takes = [key],
                        Due = null,
                        Backfill = backfill.Number,
                        Release = backfill.Release,
                        KeepsNothing = !backfill.Keeps,
                    }
                )
                .ConfigureAwait(false);
            if (result.Run is not null)
                going++;
        }
        // All that was left was passed over: nobody rings for that.
        if (going == 0)
            _bell.Release();
    }

    /// <summary>Ends; what is left goes on with the next start.</summary>
    public async ValueTask DisposeAsync()
    {
        _news?.Dispose();
        await _ending.CancelAsync().ConfigureAwait(false);
        if (_loop is not null)
            await _loop.ConfigureAwait(ConfigureAwaitOptions.SuppressThrowing);
    }
}
