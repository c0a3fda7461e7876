using GateChain.Client;
using GateChain.Core.Triggers;
using GateChain.Engine.Basics;
using GateChain.Engine.Reading;
using GateChain.Engine.Triggers;
using GateChain.Engine.Workspaces;
using GateChain.Service.Access;
using GateChain.Storage;

namespace GateChain.Service.Views;

/// <summary>What an operator sees first: made of what runs, what ended lately, and what is planned.</summary>
/// <param name="runs">Which runs there are.</param>
/// <param name="history">How runs ended.</param>
/// <param name="fires">What became of triggers' occasions.</param>
/// <param name="triggers">What comes next.</param>
/// <param name="outlook">How runs stand.</param>
/// <param name="time">The clock.</param>
sealed class HomeViews(
    IRunStore runs,
    IHistory history,
    ITriggerStore fires,
    TriggerIndex triggers,
    RunOutlook outlook,
    BrokenChains broken,
    TimeProvider time
)
{
    // A list that nobody reads to its end helps nobody.
    const int Most = 50;

    static readonly TimeSpan FailuresCount = TimeSpan.FromDays(7),
        RefusalsCount = TimeSpan.FromDays(1),
        Ahead = TimeSpan.FromDays(1);

    /// <summary>How long a guard holds a step before a person is told.</summary>
    static readonly TimeSpan HeldLong = TimeSpan.FromMinutes(10);

    public async Task<HomeInfo> OfAsync(Visitor visitor)
    {
        var now = time.GetUtcNow();
        var (running, waiting) = await RunningAsync(now, visitor);
        var needs = waiting
            .Concat(await FailedAsync(now, visitor))
            .Concat(await RefusedAsync(now, visitor))
            .Concat(broken.Now.Where(b => visitor.Sees(b.Area)).Select(BrokenNeed))
            .OrderBy(n => Array.IndexOf(Order, n.What))
            .ThenByDescending(n => n.Since);
        return new(
            [.. needs.Take(Most)],
            running,
            [
                .. triggers
                    .All.Where(t =>
                        t.Definition.Source is ScheduleSource && t.IsArmed && visitor.Sees(t.Definition.Area)
                    )
                    .SelectMany(t => WeekViews.Planned(t, now, now + Ahead))
                    .OrderBy(p => p.At)
                    .Take(Most),
            ],
            [
                .. (await history.CountAsync(now - FailuresCount, now.AddMinutes(1), visitor.Seen))
                    .GroupBy(c => c.Hour)
                    .Select(h => new HourInfo(h.Key, Count(h, "succeeded"), Count(h, "failed"), Count(h, "stopped"))),
            ]
        );
    }

    static NeedInfo BrokenNeed(Broken broken) =>
        new("broken", broken.What, null, null, null, broken.Since!.Value, broken.Message, broken.More);

    static int Count(IEnumerable<HourCount> hour, string state) => hour.Where(c => c.State == state).Sum(c => c.Count);

    static readonly string[] Order = ["paused", "failed", "broken", "late", "endangered", "held", "refused"];

    static bool IsOwn(StoredRun run) => run.Parent is null && run.Origin != "try";

    async Task<(IReadOnlyList<RunningInfo>, IReadOnlyList<NeedInfo>)> RunningAsync(DateTimeOffset now, Visitor visitor)
    {
        var open = new List<StoredRun>();
        foreach (var state in (string[])["paused", "running", "queued"])
        {
            open.AddRange(
                (await runs.ListAsync(new(State: state, Limit: 4 * Most) { Areas = visitor.Seen })).Where(IsOwn)
            );
        }
        var (running, needs) = (new List<RunningInfo>(), new List<NeedInfo>());
        foreach (var run in open.OrderBy(r => r.Id).Take(2 * Most))
        {
            Outlook found;
            try
            {
                found = await outlook.OfAsync(run.Id);
            }
            catch (RefusedException e)
            {
                needs.Add(new("failed", run.Chain, run.Id, null, null, run.Started, e.Message, 0));
                continue;
            }
            running.Add(
                new(
                    run.Id,
                    run.Chain,
                    run.State,
                    run.Started,
                    found.Done,
                    found.Of,
                    found.Doing,
                    run.Late,
                    found.LateAt,
                    HistoryViews.Of(found.Expected)
                )
            );
            needs.AddRange(Needs(run, found, now));
        }
        return (running, needs);
    }

    static IEnumerable<NeedInfo> Needs(StoredRun run, Outlook found, DateTimeOffset now)
    {
        NeedInfo Need(string what, string? step, DateTimeOffset since, string text, int more = 0) =>
            new(what, run.Chain, run.Id, step, null, since, text, more);

        if (run.State == "paused")
        {
            var (path, why) = found.Paused is [var first, ..] ? first : (null, "");
            yield return Need(
                "paused",
                path,
                run.Started,
                path is null ? "somebody paused it" : $"“{path}” waits for a decision{(why is "" ? "" : $": {why}")}",
                Math.Max(0, found.Paused.Count - 1)
            );
        }
        if (run.Late)
        {
            yield return Need("late", null, run.Started, "it takes longer than it is due in");
        }
        else if (found is { Expected.Likely: var likely, LateAt: { } due } && likely > due)
        {
            yield return Need(
                "endangered",
                null,
                due,
                $"as its last {found.Expected.Runs} runs went, it will be late: due by {due:HH:mm}, expected about "
                    + $"{likely:HH:mm} UTC"
            );
        }
        var held = found.Held.Where(h => now - h.Since >= HeldLong).ToList();
        if (held.Count > 0)
            yield return Need("held", held[0].Path, held[0].Since, held[0].Why, held.Count - 1);
    }

    /// <summary>The latest failure of each chain that nothing has put right since.</summary>
    async Task<IEnumerable<NeedInfo>> FailedAsync(DateTimeOffset now, Visitor visitor)
    {
        var failed = (
            await runs.ListAsync(new(State: "failed", Limit: 500, From: now - FailuresCount) { Areas = visitor.Seen })
        )
            .Where(r => IsOwn(r) && r.ResumeAt is null)
            .ToList();
        var latest = await runs.NewestAsync(failed.Select(r => r.Chain), 20);
        return failed
            .GroupBy(r => r.Chain)
            .Select(chain =>
            {
                var good = latest[chain.Key].FirstOrDefault(r => r.State == "succeeded" && IsOwn(r))?.Id ?? 0;
                return chain.Where(r => r.Id > good).ToList();
            })
            .Where(left => left.Count > 0)
            .Select(left => new NeedInfo(
                "failed",
                left[0].Chain,
                left[0].Id,
                null,
                null,
                left[0].Ended ?? left[0].Started,
                left[0].Error ?? "it failed",
                left.Count - 1
            ));
    }

    async Task<IEnumerable<NeedInfo>> RefusedAsync(DateTimeOffset now, Visitor visitor) =>
        (
            await fires.ListAsync(
                new(Fate: FireFate.Refused, Since: now - RefusalsCount, Limit: 200)
                {
                    Triggers = TriggerViews.SeenNames(triggers, visitor),
                }
            )
        )
            .GroupBy(f => f.Said.Trigger)
            .Select(t => new NeedInfo(
                "refused",
                triggers.All.FirstOrDefault(x => x.Name == t.Key)?.Definition.Chain ?? "",
                null,
                null,
                t.Key,
                t.First().Said.At,
                t.First().Said.Why ?? "it could not start a run",
                t.Count() - 1
            ));
}
