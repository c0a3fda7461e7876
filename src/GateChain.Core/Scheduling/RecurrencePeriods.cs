namespace GateChain.Core.Scheduling;

/// <summary>The periods of a recurrence, by their number from its start, and the local times in each.</summary>
/// <remarks>Source: RFC 5545, section 3.3.10.</remarks>
sealed class RecurrencePeriods
{
    readonly Recurrence _rule;
    readonly DateTime _start;

    // What the rule does not say is as at its start.
    readonly IReadOnlyList<int> _months,
        _monthDays;
    readonly IReadOnlyList<WeekDayPlace> _weekDays;

    public RecurrencePeriods(Recurrence rule, DateTime start)
    {
        (_rule, _start) = (rule, start);
        var hasDays = rule.ByWeekNo.Count + rule.ByYearDay.Count + rule.ByMonthDay.Count + rule.ByDay.Count > 0;
        (_months, _monthDays, _weekDays) = (rule.ByMonth, rule.ByMonthDay, rule.ByDay);
        switch (rule.Frequency)
        {
            case Frequency.Yearly when !hasDays:
                _months = rule.ByMonth.Count > 0 ? rule.ByMonth : [start.Month];
                _monthDays = [start.Day];
                break;
            case Frequency.Yearly when rule.ByWeekNo.Count > 0 && rule.ByDay.Count == 0:
                _weekDays = [new(0, start.DayOfWeek)];
                break;
            case Frequency.Monthly when !hasDays:
                _monthDays = [start.Day];
                break;
            case Frequency.Weekly when !hasDays:
                _weekDays = [new(0, start.DayOfWeek)];
                break;
            default:
                break;
        }
    }

    /// <summary>How long a period is, when it is counted in time that passes; null for days and more.</summary>
    public TimeSpan? Length =>
        _rule.Frequency switch
        {
            Frequency.Hourly => TimeSpan.FromHours(_rule.Interval),
            Frequency.Minutely => TimeSpan.FromMinutes(_rule.Interval),
            Frequency.Secondly => TimeSpan.FromSeconds(_rule.Interval),
            _ => null,
        };

    /// <summary>
    /// The number of the period that a local time is in, or of the one before it; 0 for what is earlier.
    /// </summary>
    public long IndexOf(DateTime local)
    {
        if (local <= _start)
            return 0;
        return (
                _rule.Frequency switch
                {
                    Frequency.Yearly => local.Year - _start.Year,
                    Frequency.Monthly => (local.Year - _start.Year) * 12L + local.Month - _start.Month,
                    Frequency.Weekly => (Week(DateOnly.FromDateTime(local)).DayNumber - FirstWeek.DayNumber) / 7,
                    _ => (long)(local.Date - _start.Date).TotalDays,
                }
            ) / _rule.Interval;
    }

    // Further than any schedule looks, and within what dates can say.
    public bool IsInReach(long index)
    {
        var units = index * _rule.Interval;
        var most = (new DateTime(9990, 1, 1) - _start);
        return _rule.Frequency switch
        {
            Frequency.Yearly => _start.Year + units < 9990,
            Frequency.Monthly => _start.Year + units / 12 < 9990,
            Frequency.Weekly => units < most.TotalDays / 7,
            Frequency.Daily => units < most.TotalDays,
            _ => index < most / Length!.Value,
        };
    }

    /// <summary>The first local time of a period of days or more.</summary>
    public DateTime StartOf(long index)
    {
        var units = index * _rule.Interval;
        return _rule.Frequency switch
        {
            Frequency.Yearly => new(_start.Year + (int)units, 1, 1),
            Frequency.Monthly => new DateTime(_start.Year, _start.Month, 1).AddMonths((int)units),
            Frequency.Weekly => FirstWeek.AddDays((int)(7 * units)).ToDateTime(default),
            _ => _start.Date.AddDays(units),
        };
    }

    DateOnly FirstWeek => Week(DateOnly.FromDateTime(_start));

    DateOnly Week(DateOnly day) => day.AddDays(-(((int)day.DayOfWeek - (int)_rule.WeekStart + 7) % 7));

    /// <summary>The local times of a period, in order.</summary>
    /// <param name="first">Its first one; of a period under a day, what the clock shows at its moment.</param>
    public IEnumerable<DateTime> Of(DateTime first)
    {
        var times = DaysOf(first).SelectMany(d => TimesOf(d, first));
        if (_rule.BySetPos.Count == 0)
            return times;
        var set = times.ToList();
        return _rule
            .BySetPos.Select(p => p > 0 ? p - 1 : set.Count + p)
            .Where(i => i >= 0 && i < set.Count)
            .Distinct()
            .Order()
            .Select(i => set[i]);
    }

    /// <summary>
    /// Of a period under a day whose day or hour the rule leaves out: how long that day or hour is, and when it began
    /// by the clock; null when the rule leaves neither out.
    /// </summary>
    public (DateTime From, TimeSpan Length)? LeftOut(DateTime first) =>
        !Fits(DateOnly.FromDateTime(first), first.Year) ? (first.Date, TimeSpan.FromDays(1))
        : _rule.ByHour.Count > 0 && !_rule.ByHour.Contains(first.Hour)
            ? (first.Date.AddHours(first.Hour), TimeSpan.FromHours(1))
        : null;

    IEnumerable<DateOnly> DaysOf(DateTime first)
    {
        var day = DateOnly.FromDateTime(first);
        var days = _rule.Frequency switch
        {
            // A week of a year may reach into its neighbours.
            Frequency.Yearly when _rule.ByWeekNo.Count > 0 => Enumerable.Range(-6, 380).Select(day.AddDays),
            Frequency.Yearly => Enumerable.Range(0, DateTime.IsLeapYear(day.Year) ? 366 : 365).Select(day.AddDays),
            Frequency.Monthly => Enumerable.Range(0, DateTime.DaysInMonth(day.Year, day.Month)).Select(day.AddDays),
            Frequency.Weekly => Enumerable.Range(0, 7).Select(day.AddDays),
            _ => [day],
        };
        return days.Where(d => Fits(d, day.Year));
    }

    bool Fits(DateOnly day, int year) =>
        (_months.Count == 0 || _months.Contains(day.Month))
        && (_monthDays.Count == 0 || Contains(_monthDays, day.Day, DateTime.DaysInMonth(day.Year, day.Month)))
        && (
            _rule.ByYearDay.Count == 0
            || Contains(_rule.ByYearDay, day.DayOfYear, DateTime.IsLeapYear(day.Year) ? 366 : 365)
        )
        && (_rule.ByWeekNo.Count == 0 || IsInWeek(day, year))
        && (_weekDays.Count == 0 || _weekDays.Any(w => w.Day == day.DayOfWeek && IsAt(day, w.Place)));

    // Numbers from 1, or from -1 backwards.
    static bool Contains(IReadOnlyList<int> numbers, int number, int most) =>
        numbers.Contains(number) || numbers.Contains(number - most - 1);

    bool IsAt(DateOnly day, int place)
    {
        if (place == 0)
            return true;
        var inMonth = _rule.Frequency == Frequency.Monthly || _rule.ByMonth.Count > 0;
        var (at, most) = inMonth
            ? (day.Day, DateTime.DaysInMonth(day.Year, day.Month))
            : (day.DayOfYear, DateTime.IsLeapYear(day.Year) ? 366 : 365);
        return place > 0 ? (at - 1) / 7 + 1 == place : (most - at) / 7 + 1 == -place;
    }

    // Week 1 is the first that has four days of the year.
    bool IsInWeek(DateOnly day, int year)
    {
        var (first, next) = (FirstOf(year), FirstOf(year + 1));
        if (day < first || day >= next)
            return false;
        return Contains(
            _rule.ByWeekNo,
            (day.DayNumber - first.DayNumber) / 7 + 1,
            (next.DayNumber - first.DayNumber) / 7
        );
    }

    DateOnly FirstOf(int year)
    {
        var week = Week(new(year, 1, 1));
        return new DateOnly(year, 1, 1).DayNumber - week.DayNumber < 4 ? week : week.AddDays(7);
    }

    IEnumerable<DateTime> TimesOf(DateOnly day, DateTime first) =>
        from hour in Units(_rule.ByHour, Frequency.Hourly, first.Hour, _start.Hour)
        from minute in Units(_rule.ByMinute, Frequency.Minutely, first.Minute, _start.Minute)
        from second in Units(_rule.BySecond, Frequency.Secondly, first.Second, _start.Second)
        select day.ToDateTime(new(hour, minute, second));

    // Periods that are shorter than a unit lie in one of it; the part of the rule then only lets it through.
    IEnumerable<int> Units(IReadOnlyList<int> listed, Frequency unit, int own, int atStart)
    {
        if (_rule.Frequency <= unit)
            return listed.Count == 0 || listed.Contains(own) ? [own] : [];
        return listed.Count > 0 ? listed : [Length is null ? atStart : own];
    }
}
