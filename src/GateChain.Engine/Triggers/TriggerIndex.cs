using GateChain.Core.Expressions;
using GateChain.Core.Identity;
using GateChain.Core.Running;
using GateChain.Core.Triggers;
using GateChain.Engine.Basics;
using GateChain.Engine.Workspaces;
using GateChain.Storage;

namespace GateChain.Engine.Triggers;

/// <summary>A trigger as it is now: what its file says, and what is kept of it. Immutable.</summary>
/// <param name="Definition">What its file says.</param>
/// <param name="State">What is kept.</param>
/// <param name="Hold">Why it does not fire automatically though it is on; null when it does.</param>
public sealed record Trigger(TriggerDefinition Definition, TriggerState State, Hold? Hold)
{
    /// <summary>Its name.</summary>
    public string Name => Definition.Name;

    /// <summary>Whether it fires automatically.</summary>
    public bool IsArmed => State.IsOn && Hold is null;
}

/// <summary>
/// All triggers, on and off, and the folders in which triggers are held. Raises an event when they change. Thread-safe.
/// </summary>
public sealed class TriggerIndex : IDisposable
{
    readonly WorkspaceService _workspace;
    readonly ITriggerStore _store;
    readonly TimeProvider _time;
    readonly SemaphoreSlim _changing = new(1, 1);
    volatile IReadOnlyDictionary<string, Trigger> _triggers = new Dictionary<string, Trigger>();
    volatile IReadOnlyList<Hold> _holds = [];

    internal TriggerIndex(WorkspaceService workspace, ITriggerStore store, TimeProvider time) =>
        (_workspace, _store, _time) = (workspace, store, time);

    /// <summary>All of them, by name.</summary>
    public IEnumerable<Trigger> All => _triggers.Values.OrderBy(t => t.Name, StringComparer.Ordinal);

    /// <summary>The folders in which triggers are held.</summary>
    public IReadOnlyList<Hold> Holds => _holds;

    /// <summary>The trigger of a name; null when there is none.</summary>
    public Trigger? Find(string name) => _triggers.GetValueOrDefault(name);

    /// <summary>The trigger of a name.</summary>
    /// <exception cref="RefusedException">There is none.</exception>
    public Trigger Get(string name) =>
        Find(name)
        ?? throw new RefusedException(
            RefusalKind.NotFound,
            $"there is no trigger “{name}”{Nearest.Hint(name, _triggers.Keys)}"
        );

    /// <summary>Called when triggers, their states or holds have changed.</summary>
    internal event Action? Changed;

    /// <summary>Called after <see cref="Changed"/>, and awaited before the request that made the change is answered.
    /// </summary>
    internal event Func<Task>? ChangedAsync;

    Task NotifyAsync()
    {
        Changed?.Invoke();
        return ChangedAsync?.Invoke() ?? Task.CompletedTask;
    }

    /// <summary>Reads definitions and states again, and notes what has changed in the files.</summary>
    internal async Task LoadAsync()
    {
        await _changing.WaitAsync().ConfigureAwait(false);
        try
        {
            await LoadLockedAsync().ConfigureAwait(false);
        }
        finally
        {
            _changing.Release();
        }
        await NotifyAsync().ConfigureAwait(false);
    }

    async Task LoadLockedAsync()
    {
        var now = _time.GetUtcNow();
        _holds = await _store.HoldsAsync().ConfigureAwait(false);
        var states = (await _store.StatesAsync().ConfigureAwait(false)).ToDictionary(s => s.Name);
        var triggers = new Dictionary<string, Trigger>();
        foreach (var definition in _workspace.Triggers)
        {
            // Of two with one name the first counts; a push would not have let the second in.
            if (triggers.ContainsKey(definition.Name))
                continue;
            // One that is still there keeps what it has: its name may be somebody else's.
            if (
                definition.Renamed is { } old
                && !states.ContainsKey(definition.Name)
                && !_workspace.Triggers.Any(t => t.Name == old)
                && states.Remove(old, out var former)
            )
            {
                await _store.RenameAsync(old, definition.Name).ConfigureAwait(false);
                states[definition.Name] = former with { Name = definition.Name };
            }
            var known = states.GetValueOrDefault(definition.Name);
            var state = Follow(definition, known, now);
            if (state != known)
                await _store.SaveAsync(state).ConfigureAwait(false);
            triggers[definition.Name] = Of(definition, state);
        }
        _triggers = triggers;
    }

    // What a file says changes a state only when it says something else than before.
    static TriggerState Follow(TriggerDefinition definition, TriggerState? known, DateTimeOffset now)
    {
        if (known is null)
        {
            return new(definition.Name, definition.Active, definition.Active, now) { Text = definition.Text };
        }
        if (known.FileSays != definition.Active)
        {
            known = known with { IsOn = definition.Active, FileSays = definition.Active, By = null, Since = now };
        }
        // Due times before an edit are not missed by it.
        return known.Text == definition.Text ? known : known with { Text = definition.Text, Since = now };
    }

    Trigger Of(TriggerDefinition definition, TriggerState state) =>
        new(definition, state, _holds.FirstOrDefault(h => new Area(h.Area).Holds(definition.Area)));

    /// <summary>Switches a trigger on or off; the switch counts more than the file until the file changes.</summary>
    /// <param name="name">The trigger.</param>
    /// <param name="on">Whether it is on from here on.</param>
    /// <param name="missed">Whether due times that passed while it was off count as missed ones.</param>
    /// <param name="by">Who asks.</param>
    /// <exception cref="RefusedException">There is no such trigger.</exception>
    /// <exception cref="StorageException">It could not be written.</exception>
    public async Task SwitchAsync(string name, bool on, bool missed, Actor by)
    {
        await _changing.WaitAsync().ConfigureAwait(false);
        try
        {
            var trigger = Get(name);
            var now = _time.GetUtcNow();
            if (trigger.State.IsOn == on)
                return;
            var state = (await StateAsync(name).ConfigureAwait(false)) with { IsOn = on, By = by.Name, Switched = now };
            // Due times that passed while it was off are made up for only when the request says so.
            if (on && !missed)
                state = state with { Since = now };
            await _store
                .SaveAsync(
                    state,
                    new(now, by, on ? "switch on" : "switch off", $"trigger {name}", missed ? "missed times too" : null)
                )
                .ConfigureAwait(false);
            Put(trigger with { State = state });
        }
        finally
        {
            _changing.Release();
        }
        await NotifyAsync().ConfigureAwait(false);
    }

    async Task<TriggerState> StateAsync(string name) =>
        (await _store.StatesAsync().ConfigureAwait(false)).First(s => s.Name == name);

    void Put(Trigger trigger) => _triggers = new Dictionary<string, Trigger>(_triggers) { [trigger.Name] = trigger };

    /// <summary>Holds all triggers of a folder, or releases them.</summary>
    /// <param name="area">The folder, with what lies below it.</param>
    /// <param name="on">Whether everything is held from here on.</param>
    /// <param name="why">Why; null when nobody says.</param>
    /// <param name="by">Who asks.</param>
    /// <exception cref="StorageException">It could not be written.</exception>
    public async Task HoldAsync(Area area, bool on, string? why, Actor by)
    {
        var now = _time.GetUtcNow();
        await _changing.WaitAsync().ConfigureAwait(false);
        try
        {
            await _store
                .SetHoldAsync(
                    area.Path,
                    on ? new(area.Path, by.Name, now, why) : null,
                    new(now, by, on ? "hold on" : "hold off", area == Area.Root ? "everything" : $"folder {area}", why)
                )
                .ConfigureAwait(false);
            _holds = await _store.HoldsAsync().ConfigureAwait(false);
            _triggers = _triggers.Values.ToDictionary(t => t.Name, t => Of(t.Definition, t.State));
        }
        finally
        {
            _changing.Release();
        }
        await NotifyAsync().ConfigureAwait(false);
        if (!on && area == Area.Root && Released is { } released)
            await released().ConfigureAwait(false);
    }

    /// <summary>Called when nothing holds all triggers any more.</summary>
    public event Func<Task>? Released;

    /// <summary>Takes a state that was stored elsewhere, without reading it again.</summary>
    internal void Note(string name, Func<TriggerState, TriggerState> change)
    {
        _changing.Wait();
        try
        {
            if (Find(name) is { } trigger)
                Put(trigger with { State = change(trigger.State) });
        }
        finally
        {
            _changing.Release();
        }
    }

    /// <summary>Nothing is read any more.</summary>
    public void Dispose() => _changing.Dispose();
}
