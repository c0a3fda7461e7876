using GateChain.Client;
using GateChain.Core.Triggers;
using GateChain.Engine.Triggers;
using GateChain.Engine.Workspaces;
using GateChain.Service.Access;
using GateChain.Storage;

namespace GateChain.Service.Views;

/// <summary>Seven days of starts: those that were, and those that are planned.</summary>
static class WeekViews
{
    const int Most = 100;

    public static async Task<IReadOnlyList<WeekDayInfo>> OfAsync(
        DateOnly from,
        DateTimeOffset now,
        TriggerIndex index,
        WorkspaceService workspace,
        ITriggerStore store,
        IRunStore runs,
        Visitor visitor
    )
    {
        var start = new DateTimeOffset(from.ToDateTime(TimeOnly.MinValue), TimeSpan.Zero);
        var fires = (
            await store.ListAsync(new(Since: start, Limit: 1000) { Triggers = TriggerViews.SeenNames(index, visitor) })
        )
            .Where(f => f.Said.At < start.AddDays(7))
            .ToLookup(f => DateOnly.FromDateTime(f.Said.At.UtcDateTime));
        var schedules = index
            .All.Where(t => t.Definition.Source is ScheduleSource && visitor.Sees(t.Definition.Area))
            .ToList();
        var week = new List<WeekDayInfo>();
        for (var date = from; date < from.AddDays(7); date = date.AddDays(1))
        {
            var begin = new DateTimeOffset(date.ToDateTime(TimeOnly.MinValue), TimeSpan.Zero);
            var planned = schedules
                .Where(t => t.IsArmed)
                .SelectMany(t => Planned(t, begin > now ? begin : now, begin.AddDays(1)))
                .OrderBy(p => p.At)
                .ToList();
            var off = schedules
                .SelectMany(t =>
                    ((ScheduleSource)t.Definition.Source).Off.Where(name =>
                        workspace.In(t.Definition.Area).Calendars.Find(name)?.Has(date) == true
                    )
                )
                .Distinct()
                .ToList();
            var shown = fires[date].ToList();
            week.Add(
                new(
                    date,
                    off,
                    [.. planned.Take(Most)],
                    await TriggerViews.OfAsync(shown.Take(Most), runs),
                    Math.Max(0, planned.Count - Most) + Math.Max(0, shown.Count - Most)
                )
            );
        }
        return week;
    }

    internal static IEnumerable<PlannedInfo> Planned(Trigger trigger, DateTimeOffset from, DateTimeOffset until)
    {
        var source = (ScheduleSource)trigger.Definition.Source;
        return source
            .Times.Within(from, until)
            .Take(Most + 1)
            .Select(t => new PlannedInfo(
                trigger.Name,
                trigger.Definition.Chain,
                t.At + source.DelayOf(trigger.Name, t.At)
            ));
    }
}
