using GateChain.Core.Triggers;
using GateChain.Core.Values;
using GateChain.Engine.Basics;
using GateChain.Engine.Runs;
using GateChain.Engine.Secrets;
using GateChain.Engine.Workspaces;
using GateChain.Storage;
using Microsoft.Extensions.Logging;

namespace GateChain.Engine.Triggers;

/// <summary>One occasion of a trigger.</summary>
/// <param name="Key">Names it among the fires of its trigger.</param>
/// <param name="Event">What happened: a map as <see cref="EventTypes"/> says.</param>
sealed record Occasion(string Key, Value Event)
{
    /// <summary>What it takes for good; <see cref="NewFire.Takes"/>.</summary>
    public IReadOnlyList<string> Takes { get; init; } = [];

    /// <summary>Whether it may well have been dealt with before: that is asked first.</summary>
    public bool MayRepeat { get; init; }

    /// <summary>Its due time, when the trigger's mark moves up to there.</summary>
    public DateTimeOffset? Mark { get; init; }

    /// <summary>When it was due; null for what is not planned.</summary>
    public DateTimeOffset? Due { get; init; }

    /// <summary>What the trigger remembers from here on; null leaves that as it is.</summary>
    public string? Memory { get; init; }

    /// <summary>The backfill that it is one of; null for none.</summary>
    public long? Backfill { get; init; }

    /// <summary>Whether its run writes nothing of what its chain keeps.</summary>
    public bool KeepsNothing { get; init; }

    /// <summary>The content that its run follows; null for the latest release.</summary>
    public string? Release { get; init; }

    /// <summary>Whether what could not start a run may be asked for once more under the same key.</summary>
    public bool IsFreeWhenRefused { get; init; }

    /// <summary>By when its run has to be through; null when nobody says.</summary>
    public DateTimeOffset? By { get; init; }

    /// <summary>What becomes of it without asking, and why; null to ask.</summary>
    public (FireFate Fate, string Why)? Settled { get; init; }
}

/// <summary>What became of an occasion.</summary>
/// <param name="Fate">What.</param>
/// <param name="Run">The run that was started; null for none.</param>
/// <param name="Why">Why there is none; null when there is.</param>
/// <param name="IsRepeat">Whether it was dealt with before, and nothing was done now.</param>
/// <param name="Busy">The run that was first, when the chain's <c>whenBusy</c> is <c>skip</c>; null for other
/// reasons.</param>
public sealed record FireResult(FireFate Fate, long? Run, string? Why, bool IsRepeat = false, long? Busy = null);

/// <summary>
/// Where all occasions come in: decides what they do, starts runs, and writes down what became of them. Each occasion
/// starts one run at most, whatever crashes. Thread-safe.
/// </summary>
public sealed class FireService
{
    readonly RunStarter _starter;
    readonly KeptValueService _kept;
    readonly SecretVault _secrets;
    readonly ITriggerStore _store;
    readonly TimeProvider _time;
    readonly Bounds _bounds;
    readonly ILogger _logger;

    internal FireService(
        RunStarter starter,
        KeptValueService kept,
        SecretVault secrets,
        ITriggerStore store,
        TimeProvider time,
        Bounds bounds,
        ILogger logger
    )
    {
        (_starter, _kept, _secrets, _store) = (starter, kept, secrets, store);
        (_time, _bounds, _logger) = (time, bounds, logger);
    }

    /// <summary>Called when a run that was wanted is not there: that is news for others.</summary>
    internal event Action? Missed;

    /// <summary>Called when a fire is on disk.</summary>
    internal event Action<string>? Written;

    /// <summary>Deals with an occasion; what became of it is on disk when this returns.</summary>
    /// <exception cref="StorageException">Nothing can be written at the moment: the occasion is not taken.</exception>
    internal async Task<FireResult> FireAsync(TriggerDefinition trigger, Occasion occasion)
    {
        if (
            occasion.MayRepeat
            && (await _store.TakenAsync(trigger.Name, occasion.Takes).ConfigureAwait(false)).Count > 0
        )
        {
            return await RepeatAsync(trigger, occasion).ConfigureAwait(false);
        }
        // What comes from outside is not asked whether it fits.
        var happened = _secrets.Mask.Of(occasion.Event);
        if (_bounds.Refuse(happened) is { } tooBig)
        {
            happened = Value.Map(("trigger", Value.String(trigger.Name)), ("at", Value.Timestamp(_time.GetUtcNow())));
            return await EndAsync(trigger, occasion, happened, FireFate.Refused, $"the event is too big: {tooBig}")
                .ConfigureAwait(false);
        }
        if (occasion.Settled is { } settled)
            return await EndAsync(trigger, occasion, happened, settled.Fate, settled.Why).ConfigureAwait(false);
        try
        {
            var profile = await _starter.ChooseAsync(trigger.Chain, trigger.Profile).ConfigureAwait(false);
            var kept = await _kept.ValuesAsync(trigger.Chain, profile.Name).ConfigureAwait(false);
            switch (Decide(trigger, happened, profile, kept))
            {
                case FireDecision.PassOver { Why: var why }:
                    return await EndAsync(trigger, occasion, happened, FireFate.PassedOver, why).ConfigureAwait(false);
                case FireDecision.Refuse { Why: var why }:
                    return await EndAsync(trigger, occasion, happened, FireFate.Refused, why).ConfigureAwait(false);
                case FireDecision.Start { Params: var values }:
                    var run = await _starter
                        .StartAsync(
                            trigger.Chain,
                            occasion.Release,
                            !occasion.KeepsNothing,
                            values,
                            profile,
                            Said(trigger, occasion, happened, FireFate.Started, null),
                            new(trigger.Name, occasion.Key, happened, occasion.Due, occasion.By),
                            trigger.Area
                        )
                        .ConfigureAwait(false);
                    Written?.Invoke(trigger.Name);
                    return new(FireFate.Started, run, null);
                default:
                    throw new InvalidOperationException("a decision of another kind");
            }
        }
        catch (RefusedException e) when (e.IsTaken)
        {
            return await RepeatAsync(trigger, occasion).ConfigureAwait(false);
        }
        catch (RefusedException e)
        {
            var fate = e.Busy is null ? FireFate.Refused : FireFate.PassedOver;
            var result = await EndAsync(trigger, occasion, happened, fate, e.Message).ConfigureAwait(false);
            return result with { Busy = e.Busy };
        }
    }

    FireDecision Decide(TriggerDefinition trigger, Value happened, RunProfile profile, Value kept)
    {
        using var limit = new CancellationTokenSource(_bounds.CheckTime);
        return FireRules.Decide(trigger, happened, profile.Values, kept, _bounds, limit.Token);
    }

    NewFire Said(TriggerDefinition trigger, Occasion occasion, Value happened, FireFate fate, string? why) =>
        new(
            trigger.Name,
            _time.GetUtcNow(),
            occasion.Key,
            ValueJson.ToText(happened, plain: false),
            fate,
            why is null ? null : _secrets.Mask.Text(why)
        )
        {
            Takes = fate == FireFate.Refused && occasion.IsFreeWhenRefused ? [] : occasion.Takes,
            Chain = trigger.Chain,
            Mark = occasion.Mark,
            Memory = occasion.Memory,
            Backfill = occasion.Backfill,
        };

    async Task<FireResult> EndAsync(
        TriggerDefinition trigger,
        Occasion occasion,
        Value happened,
        FireFate fate,
        string why
    )
    {
        var said = Said(trigger, occasion, happened, fate, why);
        if (await _store.RecordAsync(said).ConfigureAwait(false) is null)
            return await RepeatAsync(trigger, occasion).ConfigureAwait(false);
        if (fate is FireFate.Refused or FireFate.Late)
        {
            _logger.LogWarning("Trigger {Trigger} has not started {Chain}: {Why}", trigger.Name, trigger.Chain, why);
            Missed?.Invoke();
        }
        Written?.Invoke(trigger.Name);
        return new(fate, null, said.Why);
    }

    async Task<FireResult> RepeatAsync(TriggerDefinition trigger, Occasion occasion) =>
        await _store.FindAsync(trigger.Name, occasion.Key).ConfigureAwait(false) is { } fire
            ? new(fire.Said.Fate, fire.Run, fire.Said.Why, IsRepeat: true)
            : new(FireFate.PassedOver, null, "it was dealt with before", IsRepeat: true);
}
