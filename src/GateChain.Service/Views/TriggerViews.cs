using GateChain.Client;
using GateChain.Core.Triggers;
using GateChain.Core.Values;
using GateChain.Engine.Runs;
using GateChain.Engine.Triggers;
using GateChain.Service.Access;
using GateChain.Storage;

namespace GateChain.Service.Views;

/// <summary>Triggers, fires and backfills as the API shows them.</summary>
static class TriggerViews
{
    public static TriggerInfo Of(ShownTrigger shown, IReadOnlyList<FireInfo> fires)
    {
        var (trigger, definition) = (shown.Trigger, shown.Trigger.Definition);
        return new(
            trigger.Name,
            definition.Chain,
            definition.Source.Kind,
            definition.Source.Sentence,
            definition.Area.File("triggers.yaml"),
            trigger.State.IsOn,
            trigger.State.FileSays,
            trigger.State.By,
            trigger.State.Switched,
            trigger.Hold is { } hold ? HoldWords(hold) : null,
            shown.Next is { } next ? new(next.Due, next.At) : null,
            shown.Troubles,
            definition.When?.Expression.Text,
            definition.Params.ToDictionary(p => p.Name, p => p.Expression.Text),
            definition.Profile,
            (definition.Source as ScheduleSource)?.Zone.Id,
            definition.Source is HookSource hook ? $"/hooks/{hook.Path}" : null,
            fires
        );
    }

    /// <summary>The names of the triggers that somebody sees; null for all.</summary>
    public static IReadOnlyList<string>? SeenNames(TriggerIndex index, Visitor visitor) =>
        visitor.Seen is null ? null : [.. index.All.Where(t => visitor.Sees(t.Definition.Area)).Select(t => t.Name)];

    static string HoldWords(Hold hold) =>
        $"held by {hold.By} since {hold.At:yyyy-MM-dd HH:mm} UTC{(hold.Why is null ? "" : $": {hold.Why}")}";

    /// <summary>Fires with how their runs fared.</summary>
    public static async ValueTask<IReadOnlyList<FireInfo>> OfAsync(IEnumerable<StoredFire> fires, IRunStore runs)
    {
        var shown = new List<FireInfo>();
        foreach (var fire in fires)
        {
            var head = fire.Run is { } run ? await runs.FindAsync(run) : null;
            shown.Add(
                new(
                    fire.Number,
                    fire.Said.Trigger,
                    fire.Said.At,
                    fire.Said.Key,
                    Word(fire.Said.Fate),
                    fire.Said.Why,
                    fire.Run,
                    head?.State,
                    JsonViews.Json(ValueJson.TryParse(fire.Said.Event, exact: true) ?? Value.Null),
                    fire.Said.Backfill
                )
            );
        }
        return shown;
    }

    public static string Word(FireFate fate) =>
        fate switch
        {
            FireFate.Started => "started",
            FireFate.PassedOver => "passed-over",
            FireFate.Late => "late",
            _ => "refused",
        };

    const int FailuresShown = 100;

    public static BackfillInfo Of(BackfillProgress progress) =>
        new(
            progress.Backfill.Number,
            progress.Backfill.Trigger,
            progress.Backfill.From,
            progress.Backfill.To,
            progress.Backfill.Parallel,
            BackfillService.Word(progress.Backfill.State),
            progress.Backfill.By,
            progress.Backfill.At,
            progress.Times,
            progress.Going,
            progress.Succeeded,
            progress.PassedOver,
            progress.Failed.Count,
            [.. progress.Failed.Take(FailuresShown).Select(f => new BackfillFailure(f.Due, f.Run, f.Why))]
        );

    public static PositionInfo Of(KeptPosition position) =>
        new(
            position.Profile,
            position.Name,
            JsonViews.Json(PositionService.Read(position)),
            position.Run,
            position.Step,
            position.By,
            position.At
        );

    public static KeptInfo Of(KeptSet kept) =>
        new(
            kept.Profile,
            kept.Version,
            JsonViews.Json(ValueJson.TryParse(kept.Values, exact: true) ?? Value.EmptyMap),
            kept.Run,
            kept.By,
            kept.At
        );

    public static TriggerSketch Sketch(TriggerDefinition trigger, DateTimeOffset now)
    {
        var schedule = trigger.Source as ScheduleSource;
        return new(
            trigger.Name,
            trigger.Source.Kind,
            trigger.Source.Sentence,
            schedule is null ? [] : [.. schedule.Times.Between(now, DateTimeOffset.MaxValue).Take(5).Select(t => t.At)],
            schedule?.Times.Schedule.Words is { } words ? new(words.Every, words.At, words.On) : null
        );
    }
}
