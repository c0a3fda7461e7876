using GateChain.Engine.Runs;
using GateChain.Engine.Sharing;
using GateChain.Storage;
using Microsoft.Extensions.Logging;

namespace GateChain.Engine.Nodes;

/// <summary>What a node is told to do, by the engine that it is of.</summary>
sealed class NodeDuties
{
    /// <summary>Begins to do what one node does for all.</summary>
    public required Func<Task> Lead { get; init; }

    /// <summary>Ends it.</summary>
    public required Func<Task> Follow { get; init; }

    /// <summary>Ends what it does for runs of others.</summary>
    public required Action EndHosted { get; init; }

    /// <summary>Whether anything is at work here.</summary>
    public required Func<bool> IsBusy { get; init; }

    /// <summary>Reads again what it keeps in memory.</summary>
    public required Func<IReadOnlyCollection<StoredPart>, Task> Reload { get; init; }

    /// <summary>Looks up what others have written of runs that somebody follows here, and the news.</summary>
    public required Func<Task> LookUp { get; init; }
}

/// <summary>
/// A node among others: says every second that it is there, takes runs of those that are not, leads when it is its
/// turn,
/// hands over when it is drained, and gives up what it has when it can't say that it is there. Thread-safe.
/// </summary>
public sealed class NodeWork : IAsyncDisposable
{
    /// <summary>How long a node may be silent until others take its runs, though it is not known to be gone.</summary>
    public static readonly TimeSpan TooLong = TimeSpan.FromSeconds(10);

    /// <summary>How long it goes on without being able to say that it is there. Well below <see cref="TooLong"/>, by a
    /// clock that only goes forward.</summary>
    public static readonly TimeSpan GivesUpAfter = TimeSpan.FromSeconds(6);

    static readonly TimeSpan Beat = TimeSpan.FromSeconds(1),
        Look = TimeSpan.FromMilliseconds(150);

    const int Together = 200;

    // Nodes look one after the other, so many times a second in all, whatever their number.
    const int LooksPerSecond = 3;

    readonly Shared _shared;
    readonly RunRecovery _recovery;
    readonly NodeDuties _duties;
    readonly TimeProvider _time;
    readonly ILogger _logger;
    readonly CancellationTokenSource _ending = new();
    readonly TaskCompletionSource _drained = new(TaskCreationOptions.RunContinuationsAsynchronously);
    IChangeFollowing? _following;
    Task _loops = Task.CompletedTask;
    long _renewed,
        _backSince;
    string _labels = "";
    string? _leader;
    Renewal _heard;
    long _looked;
    bool _leads,
        _isOut,
        _wasDraining;

    internal NodeWork(Shared shared, RunRecovery recovery, NodeDuties duties, TimeProvider time, ILogger logger) =>
        (_shared, _recovery, _duties, _time, _logger) = (shared, recovery, duties, time, logger);

    /// <summary>Called when this node has said that it is there: what ends its programs should it fall silent hears it.
    /// </summary>
    public event Action? Renewed;

    /// <summary>Called when others have changed parts of the store, after the engine has read them again.</summary>
    public event Func<IReadOnlyCollection<StoredPart>, Task>? Changed;

    async Task ReloadAsync(IReadOnlyCollection<StoredPart> parts)
    {
        await _duties.Reload(parts).ConfigureAwait(false);
        if (Changed is { } changed)
            await changed(parts).ConfigureAwait(false);
    }

    /// <summary>Whether it does what one node does for all.</summary>
    public bool Leads => Volatile.Read(ref _leads);

    /// <summary>Whether it takes nothing new.</summary>
    public bool IsDraining { get; private set; }

    /// <summary>Ends when it was drained and everything is through.</summary>
    public Task Drained => _drained.Task;

    /// <summary>Ends when it knows of all that others have changed so far.</summary>
    internal Task CaughtUpAsync() => _following?.CaughtUpAsync() ?? Task.CompletedTask;

    INodes Nodes => _shared.Store.Nodes;

    /// <summary>Begins. Whoever was there before under its name has gone.</summary>
    internal async Task StartAsync()
    {
        _renewed = _time.GetTimestamp();
        _following = _shared.Store.Follow(ReloadAsync);
        await TakeOrphansAsync().ConfigureAwait(false);
        _loops = Task.WhenAll(
            LoopAsync(Beat, RenewAsync, "say that it is there"),
            LoopAsync(Beat, WorkAsync, "look after runs of others"),
            LoopAsync(Look, _duties.LookUp, "look up what others have written"),
            LoopAsync(TimeSpan.FromMinutes(1), ForgetAsync, "forget silent nodes")
        );
    }

    async Task LoopAsync(TimeSpan pace, Func<Task> work, string what)
    {
        var troubled = false;
        while (!_ending.IsCancellationRequested)
        {
            try
            {
                await work().ConfigureAwait(false);
                troubled = false;
            }
            catch (Exception e) when (e is not OutOfMemoryException && !_ending.IsCancellationRequested)
            {
                // Once for as long as it lasts.
                if (!troubled)
                    _logger.LogWarning("This node could not {What}: {Reason}", what, e.Message);
                troubled = true;
            }
            catch (Exception) when (_ending.IsCancellationRequested)
            {
                return;
            }
            await Task.Delay(pace, _time, _ending.Token).ConfigureAwait(ConfigureAwaitOptions.SuppressThrowing);
        }
    }

    Task ForgetAsync() => Leads ? Nodes.ForgetSilentAsync() : Task.CompletedTask;

    async Task RenewAsync()
    {
        // The moment before it asked: others count from when the database has it, which is later.
        var asked = _time.GetTimestamp();
        var renewing = Nodes.RenewAsync(_shared.Link.Id, Volatile.Read(ref _leader));
        var timely = await Task.WhenAny(renewing, OutAsync()).ConfigureAwait(false);
        if (timely != renewing)
            await GiveUpAsync().ConfigureAwait(false);
        try
        {
            _heard = await renewing.ConfigureAwait(false);
            Volatile.Write(ref _renewed, asked);
            IsDraining = _heard.Draining;
            Renewed?.Invoke();
        }
        catch (StorageException)
        {
            if (_time.GetElapsedTime(Volatile.Read(ref _renewed)) > GivesUpAfter)
                await GiveUpAsync().ConfigureAwait(false);
            throw;
        }
        if (!_isOut)
            return;
        (_isOut, _looked) = (false, 0);
        _backSince = _time.GetTimestamp();
        _logger.LogWarning("This node is there again");
        await _recovery.TakeBackAsync().ConfigureAwait(false);
    }

    // Ends when it has been silent for too long.
    async Task OutAsync()
    {
        var left = GivesUpAfter - _time.GetElapsedTime(Volatile.Read(ref _renewed));
        if (left > TimeSpan.Zero)
            await Task.Delay(left, _time).ConfigureAwait(false);
    }

    async Task GiveUpAsync()
    {
        if (_isOut)
            return;
        _isOut = true;
        _logger.LogWarning(
            "This node could not say for {Seconds} s that it is there: what it has is given up, and what it runs ended",
            GivesUpAfter.TotalSeconds
        );
        _duties.EndHosted();
        await _recovery
            .LetAllGoAsync("this node can't reach the database; whoever can goes on with it, and this node when it can")
            .ConfigureAwait(false);
        await LeadAsync(false).ConfigureAwait(false);
    }

    async Task WorkAsync()
    {
        if (_isOut)
            return;
        var living = _shared.Link.Living;
        if (await IsDueAsync(living).ConfigureAwait(false))
            await LookAroundAsync(living).ConfigureAwait(false);
        if (_shared.OwnsRuns && !IsDraining)
            return;
        await _recovery.HandOverAsync().ConfigureAwait(false);
        if (IsDraining && !_duties.IsBusy())
            _drained.TrySetResult();
    }

    /// <summary>How often a node looks who is there and whether runs have lost theirs: every second where they are few,
    /// and of very many one after the other.</summary>
    /// <param name="nodes">How many are there, 1 or more.</param>
    public static TimeSpan LooksEvery(int nodes) => Beat * Math.Max(1, nodes / (double)LooksPerSecond);

    // At once when the one that leads is missed.
    async Task<bool> IsDueAsync(IReadOnlyCollection<string> living)
    {
        if (
            Leads
            || IsDraining != _wasDraining
            || _looked == 0
            || _time.GetElapsedTime(_looked) >= LooksEvery(living.Count) - (Beat / 2)
        )
        {
            return true;
        }
        var leads =
            _leader is { } leader && living.Contains(leader) && _heard.LeaderSilent is { } s && s < GivesUpAfter;
        // All miss it in the same second.
        if (!leads && _shared.OwnsRuns)
            await Task.Delay(Beat * Random.Shared.NextDouble() * (living.Count / 200.0), _time).ConfigureAwait(false);
        return !leads && _shared.OwnsRuns;
    }

    async Task LookAroundAsync(IReadOnlyCollection<string> living)
    {
        (_looked, _wasDraining) = (_time.GetTimestamp(), IsDraining);
        var nodes = await Nodes.AllAsync().ConfigureAwait(false);
        // What drafts are told of places hangs on them.
        var labels = string.Join(' ', nodes.Where(n => n.Left is null).SelectMany(n => n.Labels).Distinct().Order());
        if (labels != _labels)
            await _duties.Reload([StoredPart.Drafts]).ConfigureAwait(false);
        _labels = labels;
        Volatile.Write(ref _leader, LeaderOf(nodes, living)?.Id);
        await LeadAsync(_leader == _shared.Link.Id).ConfigureAwait(false);
        await TakeOrphansAsync().ConfigureAwait(false);
    }

    /// <summary>
    /// The node that does what one does for all: of those that are there, the one that was there first.
    /// </summary>
    public static StoredNode? LeaderOf(IEnumerable<StoredNode> nodes, IReadOnlyCollection<string> living) =>
        nodes
            .Where(n => n is { OwnsRuns: true, Draining: false, Left: null } && n.Silent < GivesUpAfter)
            .Where(n => living.Contains(n.Id))
            .MinBy(n => (n.Started, n.Id));

    async Task LeadAsync(bool leads)
    {
        if (leads == _leads)
            return;
        if (leads)
            await _duties.Lead().ConfigureAwait(false);
        else
            await _duties.Follow().ConfigureAwait(false);
        Volatile.Write(ref _leads, leads);
        _logger.LogInformation("This node {What} what one node does for all", leads ? "does" : "does not do any more");
    }

    async Task TakeOrphansAsync()
    {
        if (!_shared.OwnsRuns || IsDraining)
            return;
        var living = _shared.Link.Living;
        // After a time without a database all are silent: whoever is back first leaves the others time to come.
        var silent = _backSince != 0 && _time.GetElapsedTime(_backSince) < TooLong ? TimeSpan.FromDays(1) : TooLong;
        while (!_isOut && await Nodes.OrphansAsync(living, silent).ConfigureAwait(false) > 0)
        {
            var orphans = await Nodes
                .ClaimOrphansAsync(_shared.Link.Id, living, silent, Together)
                .ConfigureAwait(false);
            if (orphans.Count == 0)
                return;
            foreach (var from in orphans.GroupBy(o => o.From))
            {
                _logger.LogInformation(
                    "This node goes on with {Count} runs of {Node}",
                    from.Count(),
                    from.Key ?? "nobody"
                );
            }
            await _recovery.ContinueAsync(orphans).ConfigureAwait(false);
        }
    }

    /// <summary>Ends: says nothing and takes nothing any more.</summary>
    public async ValueTask DisposeAsync()
    {
        await _ending.CancelAsync().ConfigureAwait(false);
        if (Interlocked.Exchange(ref _following, null) is { } following)
            await following.DisposeAsync().ConfigureAwait(false);
        await _loops.ConfigureAwait(false);
    }
}
