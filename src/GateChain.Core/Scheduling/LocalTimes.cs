namespace GateChain.Core.Scheduling;

/// <summary>
/// Moments of local times, also on the days on which a zone's clocks are turned. They are told from a zone's offsets at
/// moments alone: what the framework says of local times is wrong where winter is the time that is moved (Dublin).
/// </summary>
public static class LocalTimes
{
    // Within these around a local time, taken for UTC, lies every moment at which some zone shows it.
    static readonly TimeSpan Back = TimeSpan.FromHours(15),
        Forth = TimeSpan.FromHours(13);

    /// <summary>
    /// The moment of a local time. One that comes twice is the first of both. One that does not exist, because the
    /// clocks are put forward over it, is the first moment behind the gap.
    /// </summary>
    /// <param name="zone">The zone.</param>
    /// <param name="local">Its local time.</param>
    public static DateTimeOffset First(TimeZoneInfo zone, DateTime local) =>
        All(zone, local) is [var first, ..] ? first : GapEnd(zone, local);

    /// <summary>All moments of a local time, in order: none, one, or two.</summary>
    /// <param name="zone">The zone.</param>
    /// <param name="local">Its local time.</param>
    public static IReadOnlyList<DateTimeOffset> All(TimeZoneInfo zone, DateTime local)
    {
        var (before, after) = Around(zone, local);
        if (before == after)
            return [new(local, before)];
        // Of two offsets the larger one belongs to the earlier moment.
        var (large, small) = before > after ? (before, after) : (after, before);
        return
        [
            .. new[] { large, small }
                .Where(o => OffsetAt(zone, local, o) == o)
                .Select(o => new DateTimeOffset(local, o)),
        ];
    }

    /// <summary>
    /// The moment of a local time as calendars have it: one that does not exist is counted with the offset before the
    /// gap.
    /// </summary>
    /// <remarks>Source: RFC 5545, section 3.3.5.</remarks>
    public static DateTimeOffset Calendar(TimeZoneInfo zone, DateTime local) =>
        All(zone, local) is [var first, ..]
            ? first
            : TimeZoneInfo.ConvertTime(new DateTimeOffset(local, Around(zone, local).Before), zone);

    static (TimeSpan Before, TimeSpan After) Around(TimeZoneInfo zone, DateTime local) =>
        (zone.GetUtcOffset(Utc(local) - Back), zone.GetUtcOffset(Utc(local) + Forth));

    static DateTimeOffset Utc(DateTime local) =>
        new(DateTime.SpecifyKind(local, DateTimeKind.Unspecified), TimeSpan.Zero);

    static TimeSpan OffsetAt(TimeZoneInfo zone, DateTime local, TimeSpan offset) =>
        zone.GetUtcOffset(new DateTimeOffset(DateTime.SpecifyKind(local, DateTimeKind.Unspecified), offset));

    // The moment at which the offset changes, to the second.
    static DateTimeOffset GapEnd(TimeZoneInfo zone, DateTime local)
    {
        var before = Around(zone, local).Before;
        var (low, high) = (Utc(local) - Back, Utc(local) + Forth);
        while (high - low > TimeSpan.FromSeconds(1))
        {
            var middle = low + TimeSpan.FromSeconds(Math.Floor((high - low).TotalSeconds / 2));
            if (zone.GetUtcOffset(middle) == before)
                low = middle;
            else
                high = middle;
        }
        return TimeZoneInfo.ConvertTime(high, zone);
    }
}
