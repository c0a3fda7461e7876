using System.Globalization;
using GateChain.Core.Values;

namespace GateChain.Core.Expressions;

public static partial class Functions
{
    static void AddTimes()
    {
        foreach (
            var (name, part) in new (string, Func<DateTimeOffset, long>)[]
            {
                ("getFullYear", t => t.Year),
                ("getMonth", t => t.Month - 1),
                ("getDate", t => t.Day),
                ("getDayOfMonth", t => t.Day - 1),
                ("getDayOfWeek", t => (long)t.DayOfWeek),
                ("getDayOfYear", t => t.DayOfYear - 1),
                ("getHours", t => t.Hour),
                ("getMinutes", t => t.Minute),
                ("getSeconds", t => t.Second),
                ("getMilliseconds", t => t.Millisecond),
            }
        )
        {
            Add($"timestamp.{name}() -> int", a => Value.Int(part(a[0].AsDateTimeOffset)));
            Add($"timestamp.{name}(string) -> int", a =>
                InZone(a[0].AsDateTimeOffset, a[1].AsString) is { } local
                    ? Value.Int(part(local))
                    : Fail($"{a[1]} is not a time zone")
            );
        }
        Add("duration.getHours() -> int", a => Value.Int(a[0].Seconds / 3600));
        Add("duration.getMinutes() -> int", a => Value.Int(a[0].Seconds / 60));
        Add("duration.getSeconds() -> int", a => Value.Int(a[0].Seconds));
        Add("duration.getMilliseconds() -> int", a => Value.Int(a[0].Nanos / 1_000_000));
    }

    static DateTimeOffset? InZone(DateTimeOffset at, string zone)
    {
        var signed = zone.Length > 0 && zone[0] is '+' or '-';
        if (
            TimeSpan.TryParseExact(zone.AsSpan(signed ? 1 : 0), "hh\\:mm", CultureInfo.InvariantCulture, out var offset)
        )
        {
            return at.ToOffset(zone[0] == '-' ? -offset : offset);
        }

        return TimeZoneInfo.TryFindSystemTimeZoneById(zone, out var known) ? TimeZoneInfo.ConvertTime(at, known) : null;
    }

    static void AddOptionals()
    {
        Add("optional.of(A) -> optional<A>", a => Value.Some(a[0]));
        Add("optional.ofNonZeroValue(A) -> optional<A>", a => IsZero(a[0]) ? Value.None : Value.Some(a[0]));
        Add("optional.none() -> optional<A>", _ => Value.None);
        Add("optional<A>.hasValue() -> bool", a => Value.Bool(a[0].HasValue));
        Add("optional<A>.value() -> A", a => a[0].HasValue ? a[0].Inner : Fail("the optional holds nothing"));
        Add("optional<A>.orValue(A) -> A", a => a[0].HasValue ? a[0].Inner : a[1]);
        Add("optional<A>.or(optional<A>) -> optional<A>", a => a[0].HasValue ? a[0] : a[1]);
    }

    static bool IsZero(Value value) =>
        value.Kind switch
        {
            ValueKind.Null => true,
            ValueKind.Bool => !value.AsBool,
            ValueKind.Int or ValueKind.Uint or ValueKind.Double or ValueKind.Decimal => value.ToDouble() == 0,
            ValueKind.String => value.AsString.Length == 0,
            ValueKind.Bytes => value.AsBytes.Length == 0,
            ValueKind.List => value.AsList.Count == 0,
            ValueKind.Map => value.AsMap.Count == 0,
            ValueKind.Timestamp or ValueKind.Duration => value is { Seconds: 0, Nanos: 0 },
            _ => false,
        };
}
