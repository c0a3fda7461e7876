using GateChain.Core.Triggers;

namespace GateChain.Engine.Triggers;

/// <summary>
/// Arms the triggers that wait by themselves for something outside, and disarms them when they are switched off, held
/// or changed. Thread-safe.
/// </summary>
sealed class TriggerSources(TriggerParts parts) : IAsyncDisposable
{
    readonly Dictionary<string, (TriggerDefinition Definition, ITriggerSource Source)> _armed = [];

    // Who brings a trigger waits until it sees all that comes; not for a server that does not answer.
    static readonly TimeSpan Patience = TimeSpan.FromSeconds(5);

    readonly SemaphoreSlim _following = new(1, 1);
    volatile bool _ended;

    /// <summary>Begins to follow the index; what is armed at the start is not waited for.</summary>
    public async Task StartAsync()
    {
        parts.Triggers.ChangedAsync += ArmedAsync;
        await FollowAsync().ConfigureAwait(false);
    }

    async Task ArmedAsync()
    {
        var added = await FollowAsync().ConfigureAwait(false);
        await PatientlyAsync(added.Select(s => s.Armed)).ConfigureAwait(false);
    }

    Task PatientlyAsync(IEnumerable<Task> tasks) => Task.WhenAny(Task.WhenAll(tasks), Task.Delay(Patience, parts.Time));

    async Task<List<ITriggerSource>> FollowAsync()
    {
        // The last one to come sees what all of them have changed.
        await _following.WaitAsync().ConfigureAwait(false);
        try
        {
            return _ended ? [] : await FollowLockedAsync().ConfigureAwait(false);
        }
        finally
        {
            _following.Release();
        }
    }

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

    async Task<List<ITriggerSource>> FollowLockedAsync()
    {
        var wanted = parts.Triggers.All.Where(t => t.IsArmed).ToDictionary(t => t.Name);
        List<ITriggerSource> gone;
        lock (_armed)
        {
            // What a definition says of its expressions counts too: an edited trigger is armed again.
            var old = _armed
                .Where(a => !wanted.TryGetValue(a.Key, out var now) || !IsSame(now.Definition, a.Value.Definition))
                .ToList();
            gone = [.. old.Select(a => a.Value.Source)];
            foreach (var (name, _) in old)
                _armed.Remove(name);
        }
        // One that does not end is left behind: what it has taken is on disk, and not taken twice.
        await PatientlyAsync(gone.Select(s => s.DisposeAsync().AsTask())).ConfigureAwait(false);
        var added = new List<ITriggerSource>();
        lock (_armed)
        {
            foreach (var trigger in wanted.Values.Where(t => !_armed.ContainsKey(t.Name)))
            {
                if (SourceOf(trigger) is not { } source)
                    continue;
                _armed[trigger.Name] = (trigger.Definition, source);
                source.Arm();
                added.Add(source);
            }
        }
        return added;
    }

    static bool IsSame(TriggerDefinition a, TriggerDefinition b) => a.Whole == b.Whole && a.Area == b.Area;

    ITriggerSource? SourceOf(Trigger trigger) =>
        trigger.Definition.Source switch
        {
            ArrivalSource => new ArrivalWatch(trigger, parts),
            WatchSource => new WatchProbes(trigger, parts),
            _ => null,
        };

    /// <summary>Disarms all of them.</summary>
    public async ValueTask DisposeAsync()
    {
        parts.Triggers.ChangedAsync -= ArmedAsync;
        await _following.WaitAsync().ConfigureAwait(false);
        _ended = true;
        _following.Release();
        List<ITriggerSource> all;
        lock (_armed)
        {
            all = [.. _armed.Values.Select(a => a.Source)];
            _armed.Clear();
        }
        await Task.WhenAll(all.Select(s => s.DisposeAsync().AsTask())).ConfigureAwait(false);
    }
}
