namespace GateChain.Core.Scheduling;

/// <summary>Times of some days, as the clocks of a zone show them.</summary>
/// <param name="days">The days.</param>
/// <param name="times">The times.</param>
/// <param name="zone">The zone.</param>
/// <param name="elapses">What becomes of a time that the clock shows twice because it is put back. False for times that
/// are named: it comes once. True for what continues all day: it comes twice. One that the clock never shows, because
/// it is put forward over it, comes at the first moment behind the gap either way.</param>
public sealed class DaySchedule(Days days, TimesOfDay times, TimeZoneInfo zone, bool elapses = false) : Schedule
{
    // Clocks are put back by less; within it a local time may mean a moment on the other side of the one that is asked.
    static readonly TimeSpan MostTurned = TimeSpan.FromHours(3);

    public override DateTimeOffset? Next(DateTimeOffset after)
    {
        if (!IsInReach(after))
            return null;
        for (var at = From(Local(after) - Turned(after)); at is { } time; at = From(time.AddSeconds(1)))
        {
            foreach (var moment in Moments(time))
            {
                if (moment > after)
                    return elapses ? First(after, moment) : moment;
            }
            if (time >= DateTime.MaxValue.AddDays(-1))
                break;
        }
        return null;
    }

    public override DateTimeOffset? Previous(DateTimeOffset before)
    {
        if (!IsInReach(before))
            return null;
        for (var at = Until(Local(before) + Turned(before)); at is { } time; at = Until(time.AddSeconds(-1)))
        {
            foreach (var moment in Moments(time).Reverse())
            {
                if (moment < before)
                    return elapses ? Last(before, moment) : moment;
            }
            if (time <= DateTime.MinValue.AddDays(1))
                break;
        }
        return null;
    }

    DateTime Local(DateTimeOffset at) => TimeZoneInfo.ConvertTime(at, zone).DateTime;

    // How far from a moment's own local time the search has to begin: nowhere near a change of the clocks.
    TimeSpan Turned(DateTimeOffset at) =>
        zone.GetUtcOffset(at - MostTurned) == zone.GetUtcOffset(at + MostTurned) ? TimeSpan.Zero : MostTurned;

    static bool IsInReach(DateTimeOffset at) => at.Year is > 1 and < 9999;

    IReadOnlyList<DateTimeOffset> Moments(DateTime local) =>
        elapses && LocalTimes.All(zone, local) is { Count: > 0 } all ? all : [LocalTimes.First(zone, local)];

    // Where local times come twice, those of the second round are later than those behind them in the first.
    DateTimeOffset First(DateTimeOffset after, DateTimeOffset found)
    {
        var best = found;
        for (
            var at = From(Local(found).AddSeconds(1));
            at is { } time && time < Local(found) + MostTurned;
            at = From(time.AddSeconds(1))
        )
        {
            var moments = Moments(time);
            foreach (var moment in moments.Where(m => m > after && m < best))
                best = moment;
            // Once times come once again they only get later.
            if (moments.Count == 1 && moments[0] >= best)
                break;
        }
        return best;
    }

    DateTimeOffset Last(DateTimeOffset before, DateTimeOffset found)
    {
        var best = found;
        for (
            var at = Until(Local(found).AddSeconds(-1));
            at is { } time && time > Local(found) - MostTurned;
            at = Until(time.AddSeconds(-1))
        )
        {
            var moments = Moments(time);
            foreach (var moment in moments.Where(m => m < before && m > best))
                best = moment;
            if (moments.Count == 1 && moments[0] <= best)
                break;
        }
        return best;
    }

    // The first local time that is not before one.
    DateTime? From(DateTime local)
    {
        var day = DateOnly.FromDateTime(local);
        if (days.Has(day) && times.From(TimeOnly.FromDateTime(local)) is { } today)
            return day.ToDateTime(today);
        return
            day < DateOnly.MaxValue
            && days.From(day.AddDays(1)) is { } next
            && times.From(TimeOnly.MinValue) is { } first
            ? next.ToDateTime(first)
            : null;
    }

    DateTime? Until(DateTime local)
    {
        var day = DateOnly.FromDateTime(local);
        if (days.Has(day) && times.Until(TimeOnly.FromDateTime(local)) is { } today)
            return day.ToDateTime(today);
        return
            day > DateOnly.MinValue
            && days.Until(day.AddDays(-1)) is { } last
            && times.Until(TimeOnly.MaxValue) is { } late
            ? last.ToDateTime(late)
            : null;
    }

    public override string Sentence => $"every {days.Sentence} {times.Sentence}";

    public override ScheduleWords? Words =>
        days.Words is var (every, on) && times.Words is { } at ? new(every, at, on) : null;
}
