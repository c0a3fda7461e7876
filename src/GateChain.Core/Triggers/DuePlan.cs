using GateChain.Core.Scheduling;
using GateChain.Core.Values;

namespace GateChain.Core.Triggers;

/// <summary>What a schedule knows of the past.</summary>
/// <param name="Mark">The newest due time that was dealt with; null for none.</param>
/// <param name="Since">Due times up to here do not count: it was armed, edited or switched on then.</param>
/// <param name="PresentSince">From here on somebody was there: what should have fired before was missed.</param>
public readonly record struct DueProgress(DateTimeOffset? Mark, DateTimeOffset Since, DateTimeOffset PresentSince);

/// <summary>A due time that has come.</summary>
/// <param name="Due">When it was due.</param>
/// <param name="From">From where on it counts: the due time before it, or the last one that fired.</param>
/// <param name="Missed">How many due times before it have no fire of their own because nobody was there.</param>
/// <param name="PassedOver">Why it does not fire; null when it does.</param>
public readonly record struct DueFire(DateTimeOffset Due, DateTimeOffset From, int Missed, string? PassedOver)
{
    /// <summary>Its key among the fires of its trigger.</summary>
    public string Key => KeyOf(Due);

    /// <summary>The key of a due time.</summary>
    public static string KeyOf(DateTimeOffset due) => $"due:{TimeText.Timestamp(Value.Timestamp(due))}";

    /// <summary>What happened, as expressions see it.</summary>
    /// <param name="trigger">The trigger.</param>
    /// <param name="now">The moment.</param>
    /// <param name="backfill">Whether it is made up for.</param>
    public Value Event(string trigger, DateTimeOffset now, bool backfill = false) =>
        Value.Map(
            ("trigger", Value.String(trigger)),
            ("at", Value.Timestamp(now)),
            ("due", Value.Timestamp(Due)),
            ("period", Value.Map(("from", Value.Timestamp(From)), ("to", Value.Timestamp(Due)))),
            ("missed", Value.Int(Missed)),
            ("backfill", Value.Bool(backfill))
        );
}

/// <summary>What of a schedule fires now, and when to look again. Pure. Thread-safe.</summary>
/// <param name="Now">What has come, in order.</param>
/// <param name="Next">When to look again; null for never.</param>
public sealed record DuePlan(IReadOnlyList<DueFire> Now, DateTimeOffset? Next)
{
    /// <summary>The most that one look gives: the rest comes with the next one, at once.</summary>
    public const int Most = 500;

    // Missed times of a second each, for more than a day, are not counted to the end.
    const int MostCounted = 100_000;

    /// <summary>What a schedule does at a moment.</summary>
    /// <param name="trigger">The trigger's name.</param>
    /// <param name="schedule">Its schedule.</param>
    /// <param name="memory">What is known of the past.</param>
    /// <param name="now">The moment.</param>
    /// <param name="makeUp">Whether missed times are made up even when <c>missed</c> is <c>none</c>.</param>
    public static DuePlan At(
        string trigger,
        ScheduleSource schedule,
        DueProgress memory,
        DateTimeOffset now,
        bool makeUp = false
    )
    {
        var rule = makeUp && schedule.Missed == MissedRule.None ? MissedRule.Last : schedule.Missed;
        var fires = new List<DueFire>();
        var start = memory.Mark is { } mark && mark > memory.Since ? mark : memory.Since;
        DateTimeOffset MomentOf(DateTimeOffset due) => due + schedule.DelayOf(trigger, due);

        DueTime? newest = null;
        var (count, first) = (0, start);
        // Passes over what was gathered, or fires for the newest of it.
        void Gathered()
        {
            if (newest is not { } last)
                return;
            fires.Add(
                rule == MissedRule.None
                    ? new(last.At, last.From, count - 1, Missing(count, first, last.At))
                    : new(last.At, count > 1 ? memory.Mark ?? last.From : last.From, count - 1, null)
            );
            newest = null;
        }
        for (var due = schedule.Times.Next(start); due is { } at; due = schedule.Times.Next(at.At))
        {
            var moment = MomentOf(at.At);
            if (moment > now)
            {
                Gathered();
                return new(fires, moment);
            }
            if (moment < memory.PresentSince && rule != MissedRule.All)
            {
                if (newest is null)
                    (first, count) = (at.At, 0);
                (newest, count) = (at, count + 1);
                // Far behind: from the newest one on it is counted again.
                if (count == MostCounted && schedule.Times.Previous(memory.PresentSince) is { } far && far > at.At)
                    at = at with { At = far.AddTicks(-1) };
                continue;
            }
            Gathered();
            if (fires.Count >= Most)
                return new(fires, now);
            fires.Add(new(at.At, at.From, 0, null));
        }
        Gathered();
        return new(fires, null);
    }

    static string Missing(int count, DateTimeOffset first, DateTimeOffset last) =>
        count == 1
            ? "it was missed while the service was not there, and missed is none"
            : $"{count:N0} due times from {TimeText.Timestamp(Value.Timestamp(first))} to "
                + $"{TimeText.Timestamp(Value.Timestamp(last))} were missed while the service was not there, "
                + "and missed is none";
}
