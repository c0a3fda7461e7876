using GateChain.Core.Triggers;
using GateChain.Engine.Guards;
using GateChain.Kinds.Arrivals;
using GateChain.Storage;
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
    readonly ArrivalMemory _memory = new((ArrivalSource)trigger.Definition.Source);
    readonly CancellationTokenSource _ending = new();
    readonly SemaphoreSlim _bell = new(0, 1);
    FileWatch? _watch;
    Task? _loop;

    /// <inheritdoc/>
    public IReadOnlyList<string> Troubles { get; private set; } = [];

    /// <inheritdoc/>
    public void Arm() => _loop = Task.Run(LoopAsync);

    void Ring()
    {
        try
        {
            if (_bell.CurrentCount == 0)
                _bell.Release();
        }
        catch (SemaphoreFullException)
        {
            // It has been rung in this moment.
        }
    }

    async Task LoopAsync()
    {
        DateTimeOffset? next = null;
        var armed = false;
        while (!_ending.IsCancellationRequested)
        {
            try
            {
                if (!armed)
                {
                    await ArmAsync().ConfigureAwait(false);
                    armed = true;
                }
                next = await LookAsync().ConfigureAwait(false);
            }
            catch (Exception e) when (e is StorageException)
            {
                parts.Logger.LogWarning("Trigger {Trigger} could not fire: {Reason}", trigger.Name, e.Message);
                next = parts.Time.GetUtcNow() + AgainIn;
            }
            catch (OperationCanceledException) when (_ending.IsCancellationRequested)
            {
                return;
            }
            catch (Exception e) when (e is not OutOfMemoryException)
            {
                Troubles = [e.Message];
                parts.Logger.LogError(e, "Trigger {Trigger} could not look", trigger.Name);
                next = parts.Time.GetUtcNow() + TimeSpan.FromSeconds(10);
            }
            await WaitAsync(next).ConfigureAwait(false);
        }
    }

    async Task WaitAsync(DateTimeOffset? next)
    {
        var longest = _source.Connection is null ? SafetyNet : _source.Every;
        var now = parts.Time.GetUtcNow();
        var wait = next is { } at ? at - now : longest;
        wait =
            wait < Shortest ? Shortest
            : wait > longest ? longest
            : wait;
        using var timer = new CancellationTokenSource(wait, parts.Time);
        using var either = CancellationTokenSource.CreateLinkedTokenSource(timer.Token, _ending.Token);
        // The clock may have been turned before the timer was there.
        if (parts.Time.GetUtcNow() - now >= wait)
            return;
        try
        {
            await _bell.WaitAsync(either.Token).ConfigureAwait(false);
        }
        catch (OperationCanceledException)
        {
            // It is time, or the end.
        }
    }

    // Files that were there before the trigger was, and the files that were dealt with already.
    async Task ArmAsync()
    {
        _memory.Take(await parts.Store.KeysAsync(trigger.Name).ConfigureAwait(false));
        var place = $"{_source.Connection}:{_source.Path}";
        if (trigger.State.Memory == place)
            return;
        var view = await ViewAsync().ConfigureAwait(false);
        string[] left = _source.TakeExisting ? [] : [.. view.Files.Select(f => f.Key)];
        await parts.Store.ChangeKeysAsync(trigger.Name, left, [], place).ConfigureAwait(false);
        _memory.Take(left);
        parts.Book.Note(trigger.Name, s => s with { Memory = place });
    }

    async Task<DateTimeOffset?> LookAsync()
    {
        Watch();
        var view = await ViewAsync().ConfigureAwait(false);
        var step = _memory.Look(view, parts.Time.GetUtcNow());
        Troubles = [.. view.Troubles, .. step.Restless];
        if (step.Gone.Count > 0)
            await parts.Store.ChangeKeysAsync(trigger.Name, [], step.Gone).ConfigureAwait(false);
        for (var at = 0; at < step.Fires.Count; at += Together)
        {
            var some = step.Fires.Skip(at).Take(Together).ToList();
            try
            {
                await Task.WhenAll(some.Select(FireAsync)).ConfigureAwait(false);
            }
            catch (StorageException)
            {
                // None is lost: those that were taken are told as repeats the next time.
                _memory.Release(step.Fires.Skip(at).SelectMany(f => f));
                throw;
            }
        }
        return step.Next;
    }

    async Task FireAsync(IReadOnlyList<SeenFile> files)
    {
        _ending.Token.ThrowIfCancellationRequested();
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
            _memory.Release(files.Where(f => !taken.Contains(f.Key)));
            Ring();
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
        return parts.Workspace.In(trigger.Definition.Area).Connections.Find(name) is { } connection
            ? SftpPlace.LookAsync(connection, parts.Secrets, _source.Path, _ending.Token)
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
        _watch?.Dispose();
    }
}
