using GateChain.Core.Expressions;
using Ical.Net;
using Ical.Net.CalendarComponents;
using Ical.Net.DataTypes;

namespace GateChain.Core.Scheduling.Calendars;

/// <summary>Reads the days of an iCalendar file. The days are those of its events, whole days or not.</summary>
/// <remarks>Source: RFC 5545.</remarks>
public static class CalendarFile
{
    // Further away nobody plans; a rule without an end is followed so far.
    static readonly DateOnly Last = new(2100, 1, 1);

    /// <summary>The most days that a file may name.</summary>
    public const int Most = 100_000;

    /// <summary>The days of a file, or what is wrong with it. Never throws.</summary>
    public static (IReadOnlySet<DateOnly>? Days, Sentence? Problem) Read(string text)
    {
        // Calendars of this library are not for several threads: nothing of it is kept.
        try
        {
            var days = new HashSet<DateOnly>();
            if (CalendarCollection.Load(text) is not { Count: > 0 } calendars)
                return (null, $"there is no VCALENDAR in it");
            foreach (var happening in calendars.SelectMany(c => c.Events))
            {
                if (happening.DtStart is null)
                    return (null, $"the event “{happening.Summary}” has no DTSTART");
                if (
                    happening.RecurrenceRule?.Frequency
                    is FrequencyType.Hourly
                        or FrequencyType.Minutely
                        or FrequencyType.Secondly
                )
                {
                    return (null, $"the event “{happening.Summary}” is repeated within a day; calendars have days");
                }
                Add(happening, days);
                if (days.Count > Most)
                    return (null, $"it names more than {Most:N0} days");
            }
            return (days, null);
        }
        // The library throws what its parts throw.
        catch (Exception e) when (e is not OutOfMemoryException)
        {
            return (null, $"it can't be read as iCalendar: {e.Message}");
        }
    }

    static void Add(CalendarEvent happening, HashSet<DateOnly> days)
    {
        // Kept apart from repeats: the library continues for ever where a rule has no end.
        foreach (var at in happening.GetOccurrences().Take(Most))
        {
            var first = DateOf(at.Period.StartTime);
            if (first >= Last)
                return;
            // An event of whole days ends on the day behind its last one; another one on the day that it ends in.
            var end = at.Period.EffectiveEndTime is { } until ? DateOf(until) : first;
            if (happening.IsAllDay || at.Period.EffectiveEndTime is { HasTime: true, Hour: 0, Minute: 0, Second: 0 })
                end = end.AddDays(-1);
            for (var day = first; day <= end || day == first; day = day.AddDays(1))
            {
                days.Add(day);
                if (days.Count > Most)
                    return;
            }
        }
    }

    static DateOnly DateOf(CalDateTime at) => new(at.Year, at.Month, at.Day);
}
