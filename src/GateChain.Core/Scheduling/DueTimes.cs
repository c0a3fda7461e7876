namespace GateChain.Core.Scheduling;

/// <summary>What becomes of a due time on a day off.</summary>
public enum OnDayOff
{
    /// <summary>It is left out.</summary>
    Skip,

    /// <summary>It comes on the nearest day before that is none.</summary>
    Before,

    /// <summary>It comes on the nearest day behind that is none.</summary>
    After,
}

/// <summary>A due time, and how far back it reaches.</summary>
/// <param name="At">The due time.</param>
/// <param name="From">The one before it, whatever the first one is; the same moment when there was none.</param>
public readonly record struct DueTime(DateTimeOffset At, DateTimeOffset From);

/// <summary>
/// The due times of a trigger: those of its schedule, days off and bounds taken into account. Immutable and pure.
/// Thread-safe.
/// </summary>
public sealed class DueTimes
{
    // How far days off move a due time at most, and how long a row of days off is gone through.
    const int MostMoved = 60;
    const int MostSkipped = 20_000;

    // Where zones and calendars end, nothing is due.
    static readonly DateTimeOffset Earliest = new(1900, 1, 1, 0, 0, 0, TimeSpan.Zero),
        Latest = new(9990, 1, 1, 0, 0, 0, TimeSpan.Zero);

    readonly TimeZoneInfo _zone;
    readonly IReadOnlyList<IDayOff> _off;
    readonly OnDayOff _onDayOff;

    /// <param name="schedule">The schedule.</param>
    /// <param name="zone">Whose days are meant.</param>
    /// <param name="off">Days on which it does not happen.</param>
    /// <param name="onDayOff">What becomes of due times on them.</param>
    /// <param name="from">There is none before; null for no first one.</param>
    /// <param name="until">There is none at it or behind; null for no last one.</param>
    public DueTimes(
        Schedule schedule,
        TimeZoneInfo zone,
        IReadOnlyList<IDayOff>? off = null,
        OnDayOff onDayOff = OnDayOff.Skip,
        DateTimeOffset? from = null,
        DateTimeOffset? until = null
    ) => (Schedule, _zone, _off, _onDayOff, From, Until) = (schedule, zone, off ?? [], onDayOff, from, until);

    /// <summary>The schedule.</summary>
    public Schedule Schedule { get; }

    /// <summary>There is none before; null for no first one.</summary>
    public DateTimeOffset? From { get; }

    /// <summary>There is none at it or behind; null for no last one.</summary>
    public DateTimeOffset? Until { get; }

    /// <summary>The first due time behind a moment; null when there is none any more.</summary>
    public DueTime? Next(DateTimeOffset after)
    {
        if (From is { } first && after < first)
            after = first.AddTicks(-1);
        if (after > Latest)
            return null;
        if (after < Earliest)
            after = Earliest;
        return NextAny(after) is { } at && (Until is null || at < Until)
            ? new(at.ToUniversalTime(), (PreviousAny(at) ?? at).ToUniversalTime())
            : null;
    }

    /// <summary>The due times of a span, in order.</summary>
    /// <param name="after">Its beginning; one at it is not in it.</param>
    /// <param name="until">Its end; one at it is in it.</param>
    public IEnumerable<DueTime> Between(DateTimeOffset after, DateTimeOffset until)
    {
        for (var at = Next(after); at is { } due && due.At <= until; at = Next(due.At))
            yield return due;
    }

    /// <summary>The due times of a span, in order.</summary>
    /// <param name="from">Its beginning; one at it is in it.</param>
    /// <param name="before">Its end; one at it is not in it.</param>
    public IEnumerable<DueTime> Within(DateTimeOffset from, DateTimeOffset before)
    {
        var after = from == DateTimeOffset.MinValue ? from : from.AddTicks(-1);
        return Between(after, DateTimeOffset.MaxValue).TakeWhile(due => due.At < before);
    }

    /// <summary>The last due time before a moment; null when there was none.</summary>
    public DateTimeOffset? Previous(DateTimeOffset before)
    {
        if (Until is { } last && before > last)
            before = last;
        if (before < Earliest)
            return null;
        if (before > Latest)
            before = Latest;
        return PreviousAny(before) is { } at && (From is null || at >= From) ? at.ToUniversalTime() : null;
    }

    DateTimeOffset? NextAny(DateTimeOffset after)
    {
        if (_off.Count == 0)
            return Schedule.Next(after);
        if (_onDayOff == OnDayOff.Skip)
        {
            var at = Schedule.Next(after);
            for (var i = 0; at is { } due && IsOff(due); i++)
                at = i < MostSkipped ? Schedule.Next(NightBefore(due)) : null;
            return at;
        }
        // What is moved may come before what it overtakes.
        DateTimeOffset? best = null;
        var own = Schedule.Next(after.AddDays(-MostMoved));
        for (var i = 0; own is { } due && i < MostSkipped && (best is null || due < best.Value.AddDays(MostMoved)); i++)
        {
            if (Moved(due) is { } moved && moved > after && (best is null || moved < best))
                best = moved;
            own = Schedule.Next(due);
        }
        return best;
    }

    DateTimeOffset? PreviousAny(DateTimeOffset before)
    {
        if (_off.Count == 0)
            return Schedule.Previous(before);
        if (_onDayOff == OnDayOff.Skip)
        {
            var at = Schedule.Previous(before);
            for (var i = 0; at is { } due && IsOff(due); i++)
                at = i < MostSkipped ? Schedule.Previous(Midnight(due)) : null;
            return at;
        }
        DateTimeOffset? best = null;
        var own = Schedule.Previous(before.AddDays(MostMoved));
        for (
            var i = 0;
            own is { } due && i < MostSkipped && (best is null || due > best.Value.AddDays(-MostMoved));
            i++
        )
        {
            if (Moved(due) is { } moved && moved < before && (best is null || moved > best))
                best = moved;
            own = Schedule.Previous(due);
        }
        return best;
    }

    DateTime Local(DateTimeOffset at) => TimeZoneInfo.ConvertTime(at, _zone).DateTime;

    bool IsOff(DateTimeOffset at) => IsOff(DateOnly.FromDateTime(Local(at)));

    bool IsOff(DateOnly day) => _off.Any(o => o.Has(day));

    DateTimeOffset Midnight(DateTimeOffset at) => LocalTimes.First(_zone, Local(at).Date);

    // The last moment of its day: a day off is left at once, however many due times it has.
    DateTimeOffset NightBefore(DateTimeOffset at)
    {
        var next = LocalTimes.First(_zone, Local(at).Date.AddDays(1)).AddTicks(-1);
        return next > at ? next : at;
    }

    DateTimeOffset? Moved(DateTimeOffset at)
    {
        var local = Local(at);
        var day = DateOnly.FromDateTime(local);
        for (var i = 0; i <= MostMoved; i++)
        {
            var other = day.AddDays(_onDayOff == OnDayOff.Before ? -i : i);
            if (!IsOff(other))
                return i == 0 ? at : LocalTimes.First(_zone, other.ToDateTime(TimeOnly.FromDateTime(local)));
        }
        return null;
    }
}
