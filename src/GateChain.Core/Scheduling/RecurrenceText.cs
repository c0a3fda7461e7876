using System.Globalization;
using GateChain.Core.Expressions;

namespace GateChain.Core.Scheduling;

/// <summary>Reads a recurrence rule as calendars write it: <c>FREQ=MONTHLY;BYDAY=-1FR</c>.</summary>
/// <remarks>Source: RFC 5545, section 3.3.10.</remarks>
public static class RecurrenceText
{
    static readonly string[] DayNames = ["SU", "MO", "TU", "WE", "TH", "FR", "SA"];

    /// <summary>The rule of a text, or what is wrong with it. Never throws.</summary>
    public static (Recurrence? Rule, Sentence? Problem) Parse(string text)
    {
        var parts = new Dictionary<string, string>();
        foreach (var part in text.Trim().ToUpperInvariant().Replace("RRULE:", "", StringComparison.Ordinal).Split(';'))
        {
            if (part.Split('=') is not [{ Length: > 0 } name, { Length: > 0 } value])
                return (null, $"“{part}” is no part of a rule; a part is written NAME=VALUE");
            if (!parts.TryAdd(name, value))
                return (null, $"the rule has {name} twice");
        }
        if (
            !parts.Remove("FREQ", out var often)
            || !Enum.TryParse<Frequency>(often, ignoreCase: true, out var frequency)
            || char.IsAsciiDigit(often[0])
        )
        {
            return (null, $"a rule says how often: FREQ=DAILY, WEEKLY, MONTHLY, YEARLY, HOURLY, MINUTELY or SECONDLY");
        }
        var rule = new Recurrence(frequency);
        foreach (var (name, value) in parts)
        {
            if (With(rule, name, value) is not { } read)
                return (null, $"“{name}={value}” is no part of a rule");
            rule = read;
        }
        return Conflict(rule) is { } problem ? (null, problem) : (rule, null);
    }

    static Recurrence? With(Recurrence rule, string name, string value) =>
        name switch
        {
            "INTERVAL" => Number(value, 1, 100_000) is { } n ? rule with { Interval = n } : null,
            "COUNT" => Number(value, 1, 1_000_000) is { } n ? rule with { Count = n } : null,
            "UNTIL" => Until(rule, value),
            "BYSECOND" => Numbers(value, 0, 59) is { } all ? rule with { BySecond = all } : null,
            "BYMINUTE" => Numbers(value, 0, 59) is { } all ? rule with { ByMinute = all } : null,
            "BYHOUR" => Numbers(value, 0, 23) is { } all ? rule with { ByHour = all } : null,
            "BYDAY" => WeekDays(value) is { } all ? rule with { ByDay = all } : null,
            "BYMONTHDAY" => Signed(value, 31) is { } all ? rule with { ByMonthDay = all } : null,
            "BYYEARDAY" => Signed(value, 366) is { } all ? rule with { ByYearDay = all } : null,
            "BYWEEKNO" => Signed(value, 53) is { } all ? rule with { ByWeekNo = all } : null,
            "BYMONTH" => Numbers(value, 1, 12) is { } all ? rule with { ByMonth = all } : null,
            "BYSETPOS" => Signed(value, 366) is { } all ? rule with { BySetPos = all } : null,
            "WKST" => Array.IndexOf(DayNames, value) is >= 0 and var day
                ? rule with
                {
                    WeekStart = (DayOfWeek)day,
                }
                : null,
            _ => null,
        };

    // What the table of the standard leaves out.
    static Sentence? Conflict(Recurrence rule) =>
        rule is { Count: not null, Until: not null } ? (Sentence)$"a rule ends by COUNT or by UNTIL, not by both"
        : rule.ByWeekNo.Count > 0 && rule.Frequency != Frequency.Yearly ? (Sentence)$"BYWEEKNO is for FREQ=YEARLY"
        : rule.ByYearDay.Count > 0 && rule.Frequency is Frequency.Daily or Frequency.Weekly or Frequency.Monthly
            ? (Sentence)$"BYYEARDAY is not for FREQ={rule.Frequency.ToString().ToUpperInvariant()}"
        : rule.ByMonthDay.Count > 0 && rule.Frequency == Frequency.Weekly
            ? (Sentence)$"BYMONTHDAY is not for FREQ=WEEKLY"
        : rule.ByDay.Any(d => d.Place != 0)
        && (rule.Frequency is not (Frequency.Monthly or Frequency.Yearly) || rule.ByWeekNo.Count > 0)
            ? (Sentence)$"the place of a day, as in 2TU, is for FREQ=MONTHLY, and for YEARLY without BYWEEKNO"
        : rule.BySetPos.Count > 0 && !HasSet(rule)
            ? (Sentence)$"BYSETPOS chooses among others: it needs another part that begins with BY"
        : null;

    static bool HasSet(Recurrence rule) =>
        rule.BySecond.Count
            + rule.ByMinute.Count
            + rule.ByHour.Count
            + rule.ByDay.Count
            + rule.ByMonthDay.Count
            + rule.ByYearDay.Count
            + rule.ByWeekNo.Count
            + rule.ByMonth.Count
        > 0;

    static Recurrence? Until(Recurrence rule, string value)
    {
        string[] forms = ["yyyyMMdd'T'HHmmss'Z'", "yyyyMMdd'T'HHmmss", "yyyyMMdd"];
        for (var i = 0; i < forms.Length; i++)
        {
            if (DateTime.TryParseExact(value, forms[i], CultureInfo.InvariantCulture, DateTimeStyles.None, out var at))
            {
                // A day without a time is in it to its end.
                return rule with { Until = i == 2 ? at.AddDays(1).AddSeconds(-1) : at, UntilIsUtc = i == 0 };
            }
        }
        return null;
    }

    static int? Number(string text, int least, int most) =>
        int.TryParse(text, NumberStyles.AllowLeadingSign, CultureInfo.InvariantCulture, out var number)
        && number >= least
        && number <= most
            ? number
            : null;

    static List<int>? Numbers(string text, int least, int most)
    {
        var all = text.Split(',').Select(t => Number(t, least, most)).ToList();
        return all.Contains(null) ? null : [.. all.Select(n => n!.Value).Distinct().Order()];
    }

    static List<int>? Signed(string text, int most) =>
        Numbers(text, -most, most) is { } all && !all.Contains(0) ? all : null;

    static List<WeekDayPlace>? WeekDays(string text)
    {
        var days = new List<WeekDayPlace>();
        foreach (var part in text.Split(','))
        {
            if (part.Length < 2 || Array.IndexOf(DayNames, part[^2..]) is not (>= 0 and var day))
                return null;
            var place = part.Length == 2 ? 0 : Number(part[..^2], -53, 53);
            if (place is not { } known || (part.Length > 2 && known == 0))
                return null;
            days.Add(new(known, (DayOfWeek)day));
        }
        return days;
    }
}
