namespace GateChain.Core.Scheduling;

/// <summary>The moments of a recurrence rule.</summary>
/// <remarks>
/// Source: RFC 5545, section 3.3.10. Local times are moments as section 3.3.5 says; hours, minutes and seconds are
/// counted in time that passes.
/// </remarks>
public sealed class RecurrenceSchedule : Schedule
{
    // Periods without a moment that are gone through before a search ends: some rules never come again.
    const int MostEmpty = 100_000;

    static readonly TimeSpan Turned = TimeSpan.FromHours(1);

    readonly Recurrence _rule;
    readonly DateTime _start;
    readonly TimeZoneInfo _zone;
    readonly RecurrencePeriods _periods;

    /// <param name="rule">The rule.</param>
    /// <param name="start">Its first local time: what the rule does not say is taken from there.</param>
    /// <param name="zone">The zone of the local times.</param>
    public RecurrenceSchedule(Recurrence rule, DateTime start, TimeZoneInfo zone) =>
        (_rule, _start, _zone, _periods) = (rule, start, zone, new(rule, start));

    public override DateTimeOffset? Next(DateTimeOffset after)
    {
        foreach (var moment in From(_rule.Count is null ? Math.Max(0, IndexOf(after) - 2) : 0))
        {
            if (moment > after)
                return moment;
        }
        return null;
    }

    public override DateTimeOffset? Previous(DateTimeOffset before)
    {
        if (_rule.Count is not null)
        {
            DateTimeOffset? last = null;
            foreach (var moment in From(0))
            {
                if (moment >= before)
                    break;
                last = moment;
            }
            return last;
        }
        // A period after the other backwards: what is in them comes in order.
        var empty = 0;
        for (var index = IndexOf(before) + 1; index >= 0 && empty < MostEmpty; index--, empty++)
        {
            if (
                _periods.Length is { } length
                && _periods.IsInReach(index)
                && _periods.LeftOut(StartOf(index)) is var (began, _)
            )
            {
                index -= Math.Max(0, (long)((StartOf(index) - began - Turned) / length));
                continue;
            }
            var found = Moments(index).Where(m => m < before).ToList();
            if (found.Count > 0)
                return found.Max();
        }
        return null;
    }

    DateTimeOffset First => LocalTimes.Calendar(_zone, _start);

    long IndexOf(DateTimeOffset at) =>
        _periods.Length is { } length ? Math.Max(0, (long)((at - First) / length)) : _periods.IndexOf(Local(at));

    DateTime Local(DateTimeOffset at) => TimeZoneInfo.ConvertTime(at, _zone).DateTime;

    IEnumerable<DateTimeOffset> From(long first)
    {
        var (left, empty) = (_rule.Count ?? int.MaxValue, 0);
        DateTimeOffset? last = null;
        for (var index = first; empty < MostEmpty && _periods.IsInReach(index); index++)
        {
            empty++;
            // What is left out is not gone through second by second. Clocks may be turned in it: an hour is gone
            // through.
            if (_periods.Length is { } length && _periods.LeftOut(StartOf(index)) is var (began, whole))
            {
                index += Math.Max(0, (long)((began + whole - StartOf(index) - Turned) / length));
                continue;
            }
            foreach (var moment in Moments(index))
            {
                // Two local times may be one moment where clocks are put forward.
                if (moment == last)
                    continue;
                (empty, last) = (0, moment);
                yield return moment;
                if (--left == 0)
                    yield break;
            }
            if (_rule.Until is { } until && StartOf(index) > until.AddDays(2))
                yield break;
        }
    }

    DateTime StartOf(long index) =>
        _periods.Length is { } length ? Local(First + index * length) : _periods.StartOf(index);

    IEnumerable<DateTimeOffset> Moments(long index)
    {
        if (!_periods.IsInReach(index))
            return [];
        var first = StartOf(index);
        DateTimeOffset At(DateTime local) =>
            _periods.Length is { } length
                ? First + index * length + (local - first)
                : LocalTimes.Calendar(_zone, local);
        return _periods
            .Of(first)
            .Select(local => (Local: local, At: At(local)))
            .Where(m =>
                m.At >= First
                && (_rule.Until is not { } until || (_rule.UntilIsUtc ? m.At.UtcDateTime <= until : m.Local <= until))
            )
            .Select(m => m.At);
    }

    public override string Sentence => RecurrenceSentence.Of(_rule, _start);
}
