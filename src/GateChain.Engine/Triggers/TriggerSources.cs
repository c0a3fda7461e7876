using GateChain.Core.Triggers;
using Microsoft.Extensions.Logging;

namespace GateChain.Engine.Triggers;

/// <summary>
/// Arms the triggers that wait by themselves for something outside, and disarms them when they are switched off, held
/// or changed. Thread-safe.
/// </summary>
sealed class TriggerSources(TriggerParts parts) : IAsyncDisposable
{
    readonly Dictionary<string, (TriggerDefinition Definition, ITriggerSource Source)> _armed = [];
    readonly SemaphoreSlim _bell = new(0);
    readonly CancellationTokenSource _ending = new();
    Task? _loop;

    /// <summary>Begins to follow the book.</summary>
    public void Start()
    {
        parts.Book.Changed += Ring;
        _loop = Task.Run(LoopAsync);
        Ring();
    }

    void Ring() => _bell.Release();

    /// <summary>What keeps a trigger from seeing all that it should, a sentence each; mostly none.</summary>
    public IReadOnlyList<string> TroublesOf(string trigger)
    {
        lock (_armed)
            return _armed.TryGetValue(trigger, out var armed) ? armed.Source.Troubles : [];
    }

    internal ITriggerSource? Find(string trigger)
    {
        lock (_armed)
            return _armed.TryGetValue(trigger, out var armed) ? armed.Source : null;
    }

    async Task LoopAsync()
    {
        while (true)
        {
            await _bell.WaitAsync(_ending.Token).ConfigureAwait(false);
            try
            {
                await FollowAsync().ConfigureAwait(false);
            }
            catch (Exception e) when (e is not OutOfMemoryException)
            {
                parts.Logger.LogError(e, "Triggers could not be armed");
            }
        }
    }

    async Task FollowAsync()
    {
        var wanted = parts.Book.All.Where(t => t.IsArmed).ToDictionary(t => t.Name);
        List<ITriggerSource> gone;
        lock (_armed)
        {
            // What a definition says of its expressions counts too: an edited trigger is armed anew.
            var old = _armed
                .Where(a => !wanted.TryGetValue(a.Key, out var now) || !IsSame(now.Definition, a.Value.Definition))
                .ToList();
            gone = [.. old.Select(a => a.Value.Source)];
            foreach (var (name, _) in old)
                _armed.Remove(name);
        }
        foreach (var source in gone)
            await source.DisposeAsync().ConfigureAwait(false);
        lock (_armed)
        {
            foreach (var trigger in wanted.Values.Where(t => !_armed.ContainsKey(t.Name)))
            {
                if (SourceOf(trigger) is not { } source)
                    continue;
                _armed[trigger.Name] = (trigger.Definition, source);
                source.Arm();
            }
        }
    }

    static bool IsSame(TriggerDefinition a, TriggerDefinition b) => a.Whole == b.Whole && a.Area == b.Area;

    ITriggerSource? SourceOf(Trigger trigger) =>
        trigger.Definition.Source switch
        {
            ArrivalSource => new ArrivalWatch(trigger, parts),
            WatchSource => new WatchLooks(trigger, parts),
            _ => null,
        };

    /// <summary>Disarms all of them.</summary>
    public async ValueTask DisposeAsync()
    {
        parts.Book.Changed -= Ring;
        await _ending.CancelAsync().ConfigureAwait(false);
        if (_loop is not null)
            await _loop.ConfigureAwait(ConfigureAwaitOptions.SuppressThrowing);
        List<ITriggerSource> all;
        lock (_armed)
            all = [.. _armed.Values.Select(a => a.Source)];
        foreach (var source in all)
            await source.DisposeAsync().ConfigureAwait(false);
    }
}
