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

    readonly Shared _shared;
    readonly RunRecovery _recovery;
    readonly NodeDuties _duties;
    readonly TimeProvider _time;
    readonly ILogger _logger;
    readonly CancellationTokenSource _ending = new();
    readonly TaskCompletionSource _drained = new(TaskCreationOptions.RunContinuationsAsynchronously);
    IAsyncDisposable? _following;
    Task _loops = Task.CompletedTask;
    long _renewed,
        _backSince;
    string _labels = "";
    bool _leads,
        _isOut;

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
        var renewing = Nodes.RenewAsync(_shared.Link.Id);
        var timely = await Task.WhenAny(renewing, OutAsync()).ConfigureAwait(false);
        if (timely != renewing)
            await GiveUpAsync().ConfigureAwait(false);
        try
        {
            var draining = await renewing.ConfigureAwait(false);
            Volatile.Write(ref _renewed, asked);
            IsDraining = draining;
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
        _isOut = false;
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
        var nodes = await Nodes.AllAsync().ConfigureAwait(false);
        // What drafts are told of places hangs on them.
        var labels = string.Join(' ', nodes.Where(n => n.Left is null).SelectMany(n => n.Labels).Distinct().Order());
        if (labels != _labels)
            await _duties.Reload([StoredPart.Drafts]).ConfigureAwait(false);
        _labels = labels;
        await LeadAsync(LeaderOf(nodes, _shared.Link.Living)?.Id == _shared.Link.Id).ConfigureAwait(false);
        if (_shared.OwnsRuns && !IsDraining)
        {
            await TakeOrphansAsync().ConfigureAwait(false);
            return;
        }
        await _recovery.HandOverAsync().ConfigureAwait(false);
        if (IsDraining && !_duties.IsBusy())
            _drained.TrySetResult();
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
