using System.Globalization;
using System.Numerics;

namespace GateChain.Core.Scheduling;

/// <summary>Times of a day, to the second. Immutable. Thread-safe.</summary>
public abstract class TimesOfDay
{
    /// <summary>The first of them that is not before a time; null when there is none.</summary>
    public abstract TimeOnly? From(TimeOnly time);

    /// <summary>The last of them that is not behind a time; null when there is none.</summary>
    public abstract TimeOnly? Until(TimeOnly time);

    /// <summary>How they are said, for example <c>at 02:30</c>.</summary>
    public abstract string Sentence { get; }

    /// <summary>The times one by one, when they are so few that people would write them; null otherwise.</summary>
    public abstract IReadOnlyList<string>? Words { get; }

    /// <summary>Reads <c>02:30</c> or <c>02:30:15</c>; null for none.</summary>
    internal static TimeOnly? Parse(string text) =>
        TimeOnly.TryParseExact(
            text,
            ["HH:mm", "HH:mm:ss"],
            CultureInfo.InvariantCulture,
            DateTimeStyles.None,
            out var time
        )
            ? time
            : null;

    /// <summary><c>02:30</c>, and seconds where there are some.</summary>
    internal static string Text(TimeOnly time) =>
        time.ToString(time.Second == 0 ? "HH:mm" : "HH:mm:ss", CultureInfo.InvariantCulture);
}

/// <summary>Times that are written one by one.</summary>
/// <param name="times">At least one.</param>
public sealed class ListedTimes(IEnumerable<TimeOnly> times) : TimesOfDay
{
    readonly TimeOnly[] _times = [.. times.Distinct().Order()];

    public override TimeOnly? From(TimeOnly time) =>
        _times.Where(t => t >= time).Select(t => (TimeOnly?)t).FirstOrDefault();

    public override TimeOnly? Until(TimeOnly time) =>
        _times.Where(t => t <= time).Select(t => (TimeOnly?)t).LastOrDefault();

    public override string Sentence => $"at {Days.And(Words!)}";

    public override IReadOnlyList<string>? Words => [.. _times.Select(Text)];
}

/// <summary>Some hours, in each some minutes, in each some seconds: bit n stands for n.</summary>
public sealed class FieldTimes(ulong hours, ulong minutes, ulong seconds) : TimesOfDay
{
    const int MostWords = 6;

    public override TimeOnly? From(TimeOnly time)
    {
        for (var hour = Up(hours, time.Hour); hour >= 0; hour = Up(hours, hour + 1))
        {
            var same = hour == time.Hour;
            for (var minute = Up(minutes, same ? time.Minute : 0); minute >= 0; minute = Up(minutes, minute + 1))
            {
                var second = Up(seconds, same && minute == time.Minute ? Ceiling(time) : 0);
                if (second >= 0)
                    return new(hour, minute, second);
            }
        }
        return null;
    }

    public override TimeOnly? Until(TimeOnly time)
    {
        for (var hour = Down(hours, time.Hour); hour >= 0; hour = Down(hours, hour - 1))
        {
            var same = hour == time.Hour;
            for (var minute = Down(minutes, same ? time.Minute : 59); minute >= 0; minute = Down(minutes, minute - 1))
            {
                var second = Down(seconds, same && minute == time.Minute ? time.Second : 59);
                if (second >= 0)
                    return new(hour, minute, second);
            }
        }
        return null;
    }

    static int Ceiling(TimeOnly time) => time.Second + (time.Ticks % TimeSpan.TicksPerSecond > 0 ? 1 : 0);

    // The first bit that is set, at or above a place; -1 for none.
    static int Up(ulong bits, int from) =>
        from < 64 && bits >> from << from is > 0 and var rest ? BitOperations.TrailingZeroCount(rest) : -1;

    static int Down(ulong bits, int from) =>
        from >= 0 && (bits & (ulong.MaxValue >> (63 - from))) is > 0 and var rest
            ? 63 - BitOperations.LeadingZeroCount(rest)
            : -1;

    public override IReadOnlyList<string>? Words =>
        BitOperations.PopCount(hours) * BitOperations.PopCount(minutes) * BitOperations.PopCount(seconds) > MostWords
            ? null
            : [.. All().Select(Text)];

    IEnumerable<TimeOnly> All()
    {
        for (
            var at = From(TimeOnly.MinValue);
            at is { } time;
            at = time == Last ? null : From(time.Add(TimeSpan.FromSeconds(1)))
        )
        {
            yield return time;
        }
    }

    static readonly TimeOnly Last = new(23, 59, 59);

    public override string Sentence =>
        Words is { } few
            ? $"at {Days.And(few)}"
            : Days.And([
                .. new[]
                {
                    seconds == 1 ? "" : $"at {Numbers(seconds, 60, "second")}",
                    $"at {Numbers(minutes, 60, "minute")}",
                    Numbers(hours, 24, "hour") is "every hour" ? "of every hour" : $"of {Numbers(hours, 24, "hour")}",
                }.Where(t => t.Length > 0),
            ]);

    // “every 5th minute”, “minutes 0, 20 and 40”, “hours 8 to 17”.
    static string Numbers(ulong bits, int most, string unit)
    {
        var all = Enumerable.Range(0, most).Where(n => (bits >> n & 1) == 1).ToList();
        if (all.Count == most)
            return $"every {unit}";
        if (all.Count == 1)
            return $"{unit} {all[0]}";
        var step = all[1] - all[0];
        if (all[0] == 0 && all.Count == (most + step - 1) / step && all.Select((n, i) => n == i * step).All(s => s))
            return $"every {Days.Ordinal(step)} {unit}";
        return all[^1] - all[0] == all.Count - 1
            ? $"{unit}s {all[0]} to {all[^1]}"
            : $"{unit}s {Days.And([.. all.Select(n => n.ToString(CultureInfo.InvariantCulture))])}";
    }
}
