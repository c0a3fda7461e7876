using GateChain.Core.Triggers;
using GateChain.Engine.Basics;
using GateChain.Engine.Guards;
using GateChain.Kinds.Arrivals;
using Microsoft.Extensions.Logging;

namespace GateChain.Engine.Triggers;

/// <summary>
/// Sees files come: events of the file system ring the bell, a look decides, and one every few minutes is the safety
/// net. Servers are looked at every so often. Thread-safe.
/// </summary>
/// <param name="trigger">The trigger.</param>
/// <param name="parts">What it works with.</param>
sealed class ArrivalWatch(Trigger trigger, TriggerParts parts) : ITriggerSource
{
    static readonly TimeSpan SafetyNet = TimeSpan.FromMinutes(2);

    /// <summary>What changes all the time is not looked at all the time.</summary>
    static readonly TimeSpan Shortest = TimeSpan.FromMilliseconds(50);

    static readonly TimeSpan AgainIn = TimeSpan.FromSeconds(1);

    // So many fires of one trigger are on their way at once.
    const int Together = 64;

    readonly ArrivalSource _source = (ArrivalSource)trigger.Definition.Source;

    // Used under its own lock: looks continue while fires are on their way.
    readonly ArrivalTracker _memory = new((ArrivalSource)trigger.Definition.Source);
    readonly CancellationTokenSource _ending = new();
    readonly SemaphoreSlim _firing = new(Together, Together);
    readonly WakeTimer _sleeper = new(parts.Time);
    readonly TaskCompletionSource _tried = new(TaskCreationOptions.RunContinuationsAsynchronously);
    readonly DateTimeOffset _begun = parts.Time.GetUtcNow();
    readonly long _stamp = parts.Time.GetTimestamp();
    FileWatch? _watch;
    Task? _loop;
    volatile IReadOnlyList<string> _sees = [];
    volatile string? _cannotFire;
    long _lookedAt;

    /// <inheritdoc/>
    public IReadOnlyList<string> Troubles => _cannotFire is { } reason ? [.. _sees, reason] : _sees;

    /// <summary>The moment of the last look that is through.</summary>
    internal DateTimeOffset LookedAt => new(Interlocked.Read(ref _lookedAt), TimeSpan.Zero);

    internal void Ring() => _sleeper.Ring();

    /// <inheritdoc/>
    public Task Armed => _tried.Task;

    /// <inheritdoc/>
    public void Arm() => _loop = Task.Run(LoopAsync);

    // Continues evenly when the clock is put forward or back: quiet is time that passes.
    DateTimeOffset Steady => _begun + parts.Time.GetElapsedTime(_stamp);

    async Task LoopAsync()
    {
        var isArmed = false;
        while (!_ending.IsCancellationRequested)
        {
            DateTimeOffset? next = null;
            try
            {
                isArmed = isArmed || await ArmAsync().ConfigureAwait(false);
                if (isArmed)
                    next = await LookAsync().ConfigureAwait(false);
            }
            catch (OperationCanceledException) when (_ending.IsCancellationRequested)
            {
                return;
            }
            catch (Exception e) when (e is not OutOfMemoryException)
            {
                _sees = [e.Message];
                parts.Logger.LogError(e, "Trigger {Trigger} could not look", trigger.Name);
                next = Steady + AgainIn;
            }
            _tried.TrySetResult();
            var longest = _source.Connection is null ? SafetyNet : _source.Every;
            var wait = next is { } at ? at - Steady : longest;
            wait =
                wait < Shortest ? Shortest
                : wait > longest ? longest
                : wait;
            Task sleep = _sleeper.SleepAsync(wait, _ending.Token);
            await sleep.ConfigureAwait(ConfigureAwaitOptions.SuppressThrowing);
        }
    }

    // Files that were there before the trigger was, and the files that were dealt with already.
    async Task<bool> ArmAsync()
    {
        Take(await parts.Store.KeysAsync(trigger.Name).ConfigureAwait(false));
        var place = $"{_source.Connection}:{_source.Path}";
        if (trigger.State.Memory != place)
        {
            var view = await ViewAsync().ConfigureAwait(false);
            // Nobody knows what is there at a server that does not answer. In a folder that is not there, nothing is.
            if (!view.IsThere && _source.Connection is not null)
            {
                _sees = view.Troubles;
                return false;
            }
            string[] left = _source.TakeExisting ? [] : [.. view.Files.Select(f => f.Key)];
            await parts.Store.ChangeKeysAsync(trigger.Name, left, [], place).ConfigureAwait(false);
            Take(left);
            parts.Triggers.Note(trigger.Name, s => s with { Memory = place });
        }
        return true;
    }

    void Take(IEnumerable<string> keys)
    {
        lock (_memory)
            _memory.Take(keys);
    }

    async Task<DateTimeOffset?> LookAsync()
    {
        var now = parts.Time.GetUtcNow();
        Watch();
        var view = await ViewAsync().ConfigureAwait(false);
        ArrivalTracker.Step step;
        lock (_memory)
            step = _memory.Look(view, Steady);
        _sees = [.. view.Troubles, .. step.Restless];
        // First: the memory has them as taken from here on, whatever else fails.
        foreach (var files in step.Fires)
            _ = FireAsync(files);
        if (step.Gone.Count > 0)
            await parts.Store.ChangeKeysAsync(trigger.Name, [], step.Gone).ConfigureAwait(false);
        Interlocked.Exchange(ref _lookedAt, now.UtcTicks);
        return step.Next;
    }

    // Looks do not wait for it: what comes meanwhile is seen in time.
    async Task FireAsync(IReadOnlyList<SeenFile> files)
    {
        try
        {
            await _firing.WaitAsync(_ending.Token).ConfigureAwait(false);
        }
        catch (OperationCanceledException)
        {
            // The next one sees it as new.
            return;
        }
        try
        {
            await FireOnceAsync(files).ConfigureAwait(false);
            _cannotFire = null;
        }
        catch (Exception e) when (e is not OutOfMemoryException)
        {
            _cannotFire = $"{files[0].Name} could not start a run yet: {e.Message}";
            parts.Logger.LogWarning("Trigger {Trigger} could not fire: {Reason}", trigger.Name, e.Message);
            await Task.Delay(AgainIn, parts.Time, _ending.Token).ConfigureAwait(ConfigureAwaitOptions.SuppressThrowing);
            // None is lost: those that were taken are told as repeats the next time.
            LookAgain(files);
        }
        finally
        {
            _firing.Release();
        }
    }

    void LookAgain(IEnumerable<SeenFile> files)
    {
        lock (_memory)
            _memory.Release(files);
        Ring();
    }

    async Task FireOnceAsync(IReadOnlyList<SeenFile> files)
    {
        var key = files.Count == 1 ? files[0].Key : $"{files[0].Key} and {files.Count - 1} more";
        var takes = files.Select(f => f.Key).ToList();
        var result = await parts
            .Desk.FireAsync(
                trigger.Definition,
                new(key, _memory.Event(trigger.Name, files, parts.Time.GetUtcNow(), Shown)) { Takes = takes }
            )
            .ConfigureAwait(false);
        // One of several was in a fire before, though this process did not know: the others come again without it.
        if (result.IsRepeat && files.Count > 1)
        {
            var taken = await parts.Store.TakenAsync(trigger.Name, takes).ConfigureAwait(false);
            LookAgain(files.Where(f => !taken.Contains(f.Key)));
        }
    }

    string Shown(SeenFile file)
    {
        var work = parts.Options.WorkFolder.TrimEnd('/') + "/";
        return _source.Connection is null && file.Path.StartsWith(work, StringComparison.Ordinal)
            ? file.Path[work.Length..]
            : file.Path;
    }

    Task<PlaceView> ViewAsync()
    {
        if (_source.Connection is not { } name)
        {
            return Task.Run(() =>
                LocalPlace.Look(parts.Options.Folders, parts.Options.WorkFolder, _source.Path, _ending.Token)
            );
        }
        var area = trigger.Definition.Area;
        return parts.Workspace.In(area).Connections.Find(name) is { } connection
            ? ServerPlace.LookAsync(connection, parts.Secrets.In(area), _source.Path, _ending.Token)
            : Task.FromResult(new PlaceView([], [$"there is no connection “{name}”"], IsThere: false));
    }

    // Watched first, then looked at: no file falls between the two.
    void Watch()
    {
        if (_source.Connection is not null)
            return;
        var pattern = LocalPlace.Watched(parts.Options.Folders, parts.Options.WorkFolder, _source.Path);
        if (pattern is null || (_watch is { IsAlive: true } && _watch.Place == FileWatches.Place(pattern)))
            return;
        _watch?.Dispose();
        _watch = parts.Watches.Watch(pattern, changed =>
        {
            // The marker of a file has another name.
            if (_source.Ready is not null || FileWatches.Concerns(pattern, changed))
                Ring();
        });
    }

    /// <summary>Ends; what comes from here on is new for the next one.</summary>
    public async ValueTask DisposeAsync()
    {
        await _ending.CancelAsync().ConfigureAwait(false);
        if (_loop is not null)
            await _loop.ConfigureAwait(ConfigureAwaitOptions.SuppressThrowing);
        // Fires that are on their way come to their end.
        for (var i = 0; i < Together; i++)
            await _firing.WaitAsync().ConfigureAwait(false);
        _watch?.Dispose();
        _sleeper.Dispose();
    }
}
