using System.Globalization;

namespace GateChain.Core.Scheduling;

/// <summary>Tells a recurrence rule in a sentence.</summary>
static class RecurrenceSentence
{
    public static string Of(Recurrence rule, DateTime start)
    {
        var parts = new List<string> { Often(rule) };
        if (rule.ByMonth.Count > 0)
        {
            parts.Add(
                $"in {Days.And([.. rule.ByMonth.Select(CultureInfo.InvariantCulture.DateTimeFormat.GetMonthName)])}"
            );
        }
        if (rule.ByWeekNo.Count > 0)
            parts.Add($"in {Places(rule.ByWeekNo, "week")}");
        if (rule.ByYearDay.Count > 0)
            parts.Add($"on the {Places(rule.ByYearDay, "day")} of the year");
        if (rule.ByMonthDay.Count > 0)
            parts.Add($"on the {Places(rule.ByMonthDay, "day")} of the month");
        if (rule.ByDay.Count > 0)
        {
            parts.Add($"on {Days.And([.. rule.ByDay.Select(Day)])}");
        }
        if (rule.BySetPos.Count > 0)
            parts.Add($"of these the {Days.And([.. rule.BySetPos.Select(Place)])}");
        parts.Add(Times(rule, start));
        if (rule.Count is { } count)
            parts.Add(count == 1 ? "once" : $"{count.ToString("N0", CultureInfo.InvariantCulture)} times");
        if (rule.Until is { } until)
            parts.Add($"until {until.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture)}");
        return string.Join(
            ", ",
            new[] { string.Join(' ', parts.Take(1)) }.Concat(parts.Skip(1)).Where(p => p.Length > 0)
        );
    }

    static string Day(WeekDayPlace day) => day.Place == 0 ? day.Day.ToString() : $"the {Place(day.Place)} {day.Day}";

    static string Often(Recurrence rule)
    {
        var unit = rule.Frequency switch
        {
            Frequency.Yearly => "year",
            Frequency.Monthly => "month",
            Frequency.Weekly => "week",
            Frequency.Daily => "day",
            Frequency.Hourly => "hour",
            Frequency.Minutely => "minute",
            _ => "second",
        };
        return rule.Interval == 1 ? $"every {unit}" : $"every {Days.Ordinal(rule.Interval)} {unit}";
    }

    static string Times(Recurrence rule, DateTime start)
    {
        if (rule.Frequency <= Frequency.Hourly)
        {
            return string.Join(
                ", ",
                new[]
                {
                    Listed("hour", rule.ByHour),
                    Listed("minute", rule.ByMinute),
                    Listed("second", rule.BySecond),
                }.Where(t => t.Length > 0)
            );
        }
        var times = new ListedTimes(
            from hour in rule.ByHour.DefaultIfEmpty(start.Hour)
            from minute in rule.ByMinute.DefaultIfEmpty(start.Minute)
            from second in rule.BySecond.DefaultIfEmpty(start.Second)
            select new TimeOnly(hour, minute, second)
        );
        return times.Words is { Count: <= 12 } ? times.Sentence : $"at {times.Words!.Count} times of the day";
    }

    static string Listed(string unit, IReadOnlyList<int> numbers) =>
        numbers.Count == 0 ? ""
        : numbers.Count == 1 ? $"at {unit} {numbers[0]}"
        : $"at {unit}s {Days.And([.. numbers.Select(n => n.ToString(CultureInfo.InvariantCulture))])}";

    static string Places(IReadOnlyList<int> numbers, string unit) =>
        numbers.All(n => n > 0)
            ? Days.And([.. numbers.Select(Days.Ordinal)]) + (unit == "week" ? " week" : "")
            : $"{Days.And([.. numbers.Select(Place)])}{(unit == "week" ? " week" : " day")}";

    static string Place(int place) =>
        place == -1 ? "last"
        : place < 0 ? $"{Days.Ordinal(-place)} last"
        : Days.Ordinal(place);
}
