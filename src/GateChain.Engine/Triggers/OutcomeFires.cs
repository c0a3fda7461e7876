using GateChain.Core.Running.Events;
using GateChain.Core.Triggers;
using GateChain.Core.Values;
using GateChain.Engine.Reading;
using GateChain.Storage;

namespace GateChain.Engine.Triggers;

/// <summary>
/// Fires for what runs have come to. Reads the outbox: what happened before a crash is told after it. Thread-safe.
/// </summary>
sealed class OutcomeFires(
    TriggerIndex index,
    FireService fireService,
    ITriggerStore fires,
    IJournal journal,
    IRunStore runs,
    RunReader reader,
    TimeProvider time
)
{
    // Nothing is fired by more runs than that, one after the other.
    const int MostAbove = 100;

    /// <summary>Handles one row; told again, it does nothing more.</summary>
    public async Task HandleAsync(OutboxRow row, CancellationToken cancel)
    {
        if (row.Kind is RunNotificationKind.Started or RunNotificationKind.Resumed)
            return;
        var about = index
            .All.Where(t => t.Definition.Source is OutcomeSource source && source.IsAbout(row.Chain))
            .ToList();
        if (about.Count == 0)
            return;
        // News of a fire that has no run.
        if (row.Run == 0)
        {
            await NoRunAsync(row, about).ConfigureAwait(false);
            return;
        }
        var end = await EndAsync(row, cancel).ConfigureAwait(false);
        // One that continues by itself has not failed yet.
        if (end is { ResumeAt: not null } || await runs.FindAsync(row.Run).ConfigureAwait(false) is not { } stored)
            return;
        var seen = await reader
            .ReadAsync(row.Run, (s, _) =>
                new Seen(
                    Value.Map(s.Params),
                    s.Warnings.Count > 0,
                    s.Try is not null,
                    s.Leg,
                    s.Fire?.Event.AsMap.Find("backfill") is { Kind: ValueKind.Bool, AsBool: true }
                )
            )
            .ConfigureAwait(false);
        var words = WordsOf(row, end, seen);
        var above = await AboveAsync(stored).ConfigureAwait(false);
        foreach (var trigger in about)
        {
            var source = (OutcomeSource)trigger.Definition.Source;
            // What happens elsewhere is none of its business.
            if (!trigger.Definition.Area.Holds(stored.Area))
                continue;
            if ((stored.Parent is not null && !source.Children) || (seen.IsTry && !source.Tries))
                continue;
            foreach (var word in words.Where(source.Is.Contains))
                await FireAsync(trigger, row, word, end, seen, above).ConfigureAwait(false);
        }
    }

    sealed record Seen(Value Params, bool IsWarned, bool IsTry, int Leg, bool IsBackfill);

    /// <param name="Triggers">The triggers whose fires led to a run.</param>
    /// <param name="Chains">The chains of the runs that led to it, its own among them.</param>
    sealed record Above(HashSet<string> Triggers, HashSet<string> Chains);

    static List<string> WordsOf(OutboxRow row, RunSettled? end, Seen seen) =>
        row.Kind switch
        {
            RunNotificationKind.Paused => ["paused"],
            RunNotificationKind.Late => ["late"],
            RunNotificationKind.Endangered => ["endangered"],
            _ when end is null => [row.State],
            _ => seen.IsWarned && end.Outcome == Core.Chains.Outcome.Succeeded
                ? ["succeeded", "warned"]
                : [end.Outcome.Word()],
        };

    // What the decision said that made the notification; what the run does later is another matter.
    async Task<RunSettled?> EndAsync(OutboxRow row, CancellationToken cancel)
    {
        if (row.Kind != RunNotificationKind.Ended)
            return null;
        await foreach (var entry in journal.ReadAsync(row.Run, row.Seq - 1, cancel).ConfigureAwait(false))
        {
            if (entry.Seq > row.Seq)
                break;
            var events = Decision.FromBytes(entry.Body).Events;
            if (events.OfType<RunSettled>().LastOrDefault() is { } settled)
                return settled;
            // It was to continue by itself and will not: it ends as it had before.
            if (events.OfType<RecoveryCalledOff>().Any())
            {
                return await reader
                    .ReadAsync(row.Run, (s, _) => new RunSettled(s.Outcome!.Value, s.Outputs, s.Error))
                    .ConfigureAwait(false);
            }
        }
        return null;
    }

    Task FireAsync(Trigger trigger, OutboxRow row, string word, RunSettled? end, Seen seen, Above above) =>
        FireAsync(
            trigger,
            $"run:{row.Run}:{seen.Leg}:{row.Seq}:{word}",
            new(
                word,
                end?.Error?.Code,
                end?.Error?.Message,
                seen.Params,
                end?.Outputs ?? Value.EmptyMap,
                seen.IsBackfill
            ),
            row,
            Feeds(trigger, above) ?? NotArmed(trigger)
        );

    // What an outcome trigger is told.
    sealed record Told(string Outcome, string? Code, string? Message, Value Params, Value Outputs, bool IsBackfill);

    async Task FireAsync(Trigger trigger, string key, Told told, OutboxRow row, string? passedOver) =>
        await fireService
            .FireAsync(
                trigger.Definition,
                new(key, Event(trigger, told, row))
                {
                    Takes = [key],
                    Settled = passedOver is null ? null : (FireFate.PassedOver, passedOver),
                }
            )
            .ConfigureAwait(false);

    static string? Feeds(Trigger trigger, Above above) =>
        above.Triggers.Contains(trigger.Name) ? $"it would feed itself: the run goes back to a fire of “{trigger.Name}”"
        : above.Chains.Contains(trigger.Definition.Chain)
            ? $"it would feed itself: the run goes back to one of “{trigger.Definition.Chain}”"
        : null;

    /// <summary>Why a trigger does not fire by itself; null when it does.</summary>
    internal static string? NotArmed(Trigger trigger) =>
        !trigger.State.IsOn ? "the trigger is off"
        : trigger.Hold is { } hold ? $"nothing starts by itself: {hold.By} holds it since {hold.At:u}"
        : null;

    Value Event(Trigger trigger, Told told, OutboxRow row) =>
        Value.Map(
            ("trigger", Value.String(trigger.Name)),
            ("at", Value.Timestamp(time.GetUtcNow())),
            ("run", Value.Int(row.Run)),
            ("chain", Value.String(row.Chain)),
            ("outcome", Value.String(told.Outcome)),
            (
                "error",
                Value.Map(("code", Value.String(told.Code ?? "")), ("message", Value.String(told.Message ?? "")))
            ),
            ("params", told.Params),
            ("outputs", told.Outputs),
            ("backfill", Value.Bool(told.IsBackfill))
        );

    async Task NoRunAsync(OutboxRow row, List<Trigger> about)
    {
        if (await fires.FindAsync(row.Seq).ConfigureAwait(false) is not { } fire)
            return;
        var (by, why) = (fire.Said.Trigger, fire.Said.Why);
        var told = new Told(
            row.State,
            row.State,
            $"trigger “{by}”: {why}",
            Value.EmptyMap,
            Value.EmptyMap,
            fire.Said.Backfill is not null
        );
        foreach (var trigger in about.Where(t => ((OutcomeSource)t.Definition.Source).Is.Contains(row.State)))
        {
            var passedOver =
                by == trigger.Name
                    ? $"it would feed itself: it is a fire of “{trigger.Name}” that was {row.State}"
                    : NotArmed(trigger);
            await FireAsync(trigger, $"fire:{row.Seq}:{row.State}", told, row, passedOver).ConfigureAwait(false);
        }
    }

    // The runs that called it, the runs whose outcomes fired it, and so on.
    async Task<Above> AboveAsync(StoredRun stored)
    {
        var above = new Above([], []);
        for (StoredRun? at = stored; at is not null && above.Chains.Count + above.Triggers.Count < MostAbove; )
        {
            above.Chains.Add(at.Chain);
            if (at.Parent is { } call)
            {
                at = await runs.FindAsync(call.Run).ConfigureAwait(false);
                continue;
            }
            if (at.Trigger is not { } name)
                break;
            if (!above.Triggers.Add(name))
                break;
            var run = await reader.ReadAsync(at.Id, (s, _) => s.Fire?.Event.AsMap.Find("run")).ConfigureAwait(false);
            at = run is { Kind: ValueKind.Int, AsInt: > 0 } from
                ? await runs.FindAsync(from.AsInt).ConfigureAwait(false)
                : null;
        }
        return above;
    }
}
