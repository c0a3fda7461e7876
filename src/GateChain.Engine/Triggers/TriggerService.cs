using GateChain.Core.Problems;
using GateChain.Core.Running;
using GateChain.Core.Triggers;
using GateChain.Core.Values;
using GateChain.Engine.Basics;
using GateChain.Engine.Workspaces;
using GateChain.Storage;

namespace GateChain.Engine.Triggers;

/// <summary>What people see of a trigger.</summary>
/// <param name="Trigger">The trigger.</param>
/// <param name="Troubles">What keeps it from starting its chain, a sentence each; mostly none.</param>
/// <param name="Next">When it fires next: the due time, and the moment with its spread; null when it does not by
/// itself, or nobody knows.</param>
public sealed record ShownTrigger(
    Trigger Trigger,
    IReadOnlyList<string> Troubles,
    (DateTimeOffset Due, DateTimeOffset At)? Next
);

/// <summary>What people do with triggers. Thread-safe.</summary>
public sealed class TriggerService
{
    readonly TriggerIndex _index;
    readonly FireService _fireService;
    readonly ITriggerStore _store;
    readonly WorkspaceService _workspace;
    readonly Func<TriggerSources?> _sources;
    readonly TimeProvider _time;

    internal TriggerService(
        TriggerIndex index,
        FireService fireService,
        ITriggerStore store,
        WorkspaceService workspace,
        Func<TriggerSources?> sources,
        TimeProvider time
    ) =>
        (_index, _fireService, _store, _workspace, _sources, _time) = (
            index,
            fireService,
            store,
            workspace,
            sources,
            time
        );

    /// <summary>All triggers, by name.</summary>
    public async Task<IReadOnlyList<ShownTrigger>> ListAsync()
    {
        var problems = await _workspace.TriggerProblemsAsync().ConfigureAwait(false);
        return [.. _index.All.Select(t => Show(t, problems.GetValueOrDefault(t.Name) ?? []))];
    }

    ShownTrigger Show(Trigger trigger, IReadOnlyList<Problem> problems)
    {
        var now = _time.GetUtcNow();
        var next = trigger.IsArmed ? ScheduleClock.Next(trigger, now).Take(1).ToList() : [];
        return new(
            trigger,
            [
                .. problems
                    .Where(p => p.IsError || p.Code == ProblemKinds.RetiredChain.Code)
                    .Select(p => p.Message.ToString()),
                .. (_sources()?.TroublesOf(trigger.Name) ?? []),
            ],
            next is [var first] ? first : null
        );
    }

    /// <summary>The next due times of a schedule, those of one that is off too.</summary>
    /// <param name="name">The trigger.</param>
    /// <param name="count">How many, 1 to 1,000.</param>
    /// <param name="after">From when on; null for now.</param>
    /// <exception cref="RefusedException">There is no such trigger, or it is no schedule.</exception>
    public IReadOnlyList<(DateTimeOffset Due, DateTimeOffset At)> Next(string name, int count, DateTimeOffset? after)
    {
        var trigger = _index.Get(name);
        return trigger.Definition.Source is ScheduleSource
            ? [.. ScheduleClock.Next(trigger, after ?? _time.GetUtcNow()).Take(Math.Clamp(count, 1, 1000))]
            : throw new RefusedException(
                RefusalKind.Invalid,
                $"nobody knows when “{name}” fires next: {trigger.Definition.Source.Sentence}"
            );
    }

    /// <summary>Fires a trigger by hand.</summary>
    /// <param name="name">The trigger; it may be off.</param>
    /// <param name="event">What is taken to have happened; null for what a schedule has now.</param>
    /// <param name="again">A fire whose event is taken; null for none.</param>
    /// <exception cref="RefusedException">There is no such trigger or fire, or the event is missing.</exception>
    /// <exception cref="StorageException">It could not be written.</exception>
    public async Task<FireResult> FireAsync(string name, Value? @event, long? again)
    {
        var definition = _index.Get(name).Definition;
        var now = _time.GetUtcNow();
        if (again is { } number)
        {
            var fire = await _store.FindAsync(number).ConfigureAwait(false);
            if (fire is null || fire.Said.Trigger != name)
                throw new RefusedException(RefusalKind.NotFound, $"“{name}” has no fire {number}");
            @event = ValueJson.TryParse(fire.Said.Event, exact: true);
        }
        if (@event is null && definition.Source is ScheduleSource schedule)
        {
            var due = new DateTimeOffset(now.Ticks - now.Ticks % TimeSpan.TicksPerSecond, TimeSpan.Zero);
            @event = new DueFire(due, schedule.Times.Previous(due) ?? due, 0, null).Event(name, now);
        }
        if (@event is not { Kind: ValueKind.Map } happened)
        {
            throw new RefusedException(
                RefusalKind.Invalid,
                $"“{name}” starts “{definition.Chain}” {definition.Source.Sentence}: "
                    + "say what happened with --event, or which fire to repeat with --again"
            );
        }
        happened = EventTypes.Fit(definition.Source, happened);
        var values = happened.AsMap.Entries.ToDictionary(e => e.Key.AsString, e => e.Value);
        values["trigger"] = Value.String(name);
        values["at"] = Value.Timestamp(now);
        var key = $"hand:{Guid.NewGuid():N}";
        return await _fireService
            .FireAsync(definition, new(key, Value.Map(DictionaryMap.Of(values))) { Takes = [key] })
            .ConfigureAwait(false);
    }
}
