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
public sealed record BackfillOptions(
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
/// <param name="Going">How many of their runs go, or continue by themselves.</param>
/// <param name="Succeeded">How many ended well, or are not kept any more.</param>
/// <param name="PassedOver">How many were passed over.</param>
/// <param name="Failed">The due times whose run failed, with the run, or that could not start one.</param>
public sealed record BackfillProgress(
    Backfill Backfill,
    int Times,
    int Going,
    int Succeeded,
    int PassedOver,
    IReadOnlyList<(DateTimeOffset Due, long? Run, string Why)> Failed
);

/// <summary>
/// Makes up for due times of a span. A backfill is on disk before it starts anything, and continues after a restart.
/// Thread-safe.
/// </summary>
public sealed class BackfillService : IAsyncDisposable
{
    /// <summary>The most due times of one.</summary>
    public const int Most = 100_000;

    readonly TriggerIndex _index;
    readonly ITriggerStore _fires;
    readonly IBackfills _store;
    readonly IRunStore _runs;
    readonly ReleaseIndex _releases;
    readonly WorkspaceService _workspace;
    readonly TimeProvider _time;
    readonly Func<BackfillLoop> _loopOf;
    BackfillLoop? _loop;

    internal BackfillService(
        TriggerIndex index,
        FireService fireService,
        IStore store,
        ReleaseIndex releases,
        WorkspaceService workspace,
        TimeProvider time,
        ILogger logger
    )
    {
        (_index, _fires, _store, _runs) = (index, store.Triggers, store.Backfills, store.Runs);
        (_releases, _workspace, _time) = (releases, workspace, time);
        _loopOf = () => new(index, fireService, _store, _runs, time, logger);
    }

    /// <summary>Begins to start runs; of services that share a store one does.</summary>
    internal void Start(RunFeed feed)
    {
        var loop = _loopOf();
        loop.Start(feed);
        _loop = loop;
    }

    /// <summary>Backfills have changed.</summary>
    internal void Reload() => _loop?.Reload();

    /// <summary>Starts nothing more; what is left is started after the next start, here or elsewhere.</summary>
    internal async ValueTask StopAsync()
    {
        if (Interlocked.Exchange(ref _loop, null) is { } loop)
            await loop.DisposeAsync().ConfigureAwait(false);
    }

    /// <summary>The due times that a backfill would have, in the order in which they fire.</summary>
    /// <exception cref="RefusedException">There is no such schedule, or the span has none or too many.</exception>
    public async Task<IReadOnlyList<BackfillTime>> PreviewAsync(string name, BackfillOptions order)
    {
        var trigger = _index.Get(name);
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
            .Times.Within(order.From, until)
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
    async Task<HashSet<DateTimeOffset>> DoneAsync(string name, BackfillOptions order)
    {
        var newest = new Dictionary<DateTimeOffset, long>();
        foreach (var (key, run) in await _fires.StartedAsync(name, DuePrefix).ConfigureAwait(false))
        {
            if (DueOf(key) is { } due && due >= order.From && due < order.To)
                newest[due] = Math.Max(newest.GetValueOrDefault(due), run);
        }
        if (order.Again == BackfillAgain.None)
            return [.. newest.Keys];
        var runs = await _runs.FindAsync(newest.Values).ConfigureAwait(false);
        bool IsDone(long run) =>
            runs.GetValueOrDefault(run) is null or { Ended: null } or { State: "succeeded" } or { ResumeAt: not null };
        return [.. newest.Where(n => IsDone(n.Value)).Select(n => n.Key)];
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

    internal static string KeyOf(DateTimeOffset due, long backfill) => $"{DueFire.KeyOf(due)} backfill {backfill}";

    /// <summary>Begins a backfill; it is on disk when this returns.</summary>
    /// <exception cref="RefusedException">Nothing is to be done, or the chain's <c>whenBusy</c> is <c>skip</c> or
    /// <c>replace</c>.</exception>
    /// <exception cref="StorageException">It could not be written.</exception>
    public async Task<Backfill> BeginAsync(string name, BackfillOptions order, Actor by)
    {
        var times = await PreviewAsync(name, order).ConfigureAwait(false);
        if (times.Count == 0)
            throw new RefusedException(RefusalKind.Conflict, "every due time of the span has a run already");
        var definition = _index.Get(name).Definition;
        var chain = await _workspace.LatestChainAsync(definition.Chain).ConfigureAwait(false);
        if (chain.WhenBusy is BusyRule.Skip or BusyRule.Replace)
        {
            throw new RefusedException(
                RefusalKind.Conflict,
                $"the whenBusy of “{chain.Name}” is {(chain.WhenBusy == BusyRule.Skip ? "skip" : "replace")}: "
                    + "a backfill would lose runs; make it queue or allow"
            );
        }
        await _releases.RefuseRetiredAsync(definition.Chain).ConfigureAwait(false);
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
        Reload();
        return backfill with { Number = number };
    }

    /// <summary>Pauses, continues with or stops a backfill.</summary>
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
        Reload();
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
        var fires = await _store.FiresAsync(backfill.Number).ConfigureAwait(false);
        var runs = await _runs.FindAsync([.. fires.Select(f => f.Run).OfType<long>()]).ConfigureAwait(false);
        var (going, succeeded, passed) = (0, 0, 0);
        var failed = new List<(DateTimeOffset, long?, string)>();
        foreach (var fire in fires)
        {
            var head = fire.Run is { } run ? runs.GetValueOrDefault(run) : null;
            if (fire.Fate == FireFate.PassedOver)
                passed++;
            else if (head is { Ended: null } or { ResumeAt: not null })
                going++;
            else if (fire.Run is not null && head is null or { State: "succeeded" })
                succeeded++;
            else
                failed.Add((DueOf(fire.Key) ?? backfill.At, fire.Run, fire.Why ?? head?.Error ?? head?.State ?? ""));
        }
        return new(backfill, times.Count, going, succeeded, passed, failed);
    }

    /// <summary>Ends; what is left continues with the next start.</summary>
    public ValueTask DisposeAsync() => StopAsync();
}
