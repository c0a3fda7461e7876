using System.Globalization;
using GateChain.Core.Values;
using GateChain.Kinds.Data;
using GateChain.Kinds.Load;

namespace GateChain.Kinds.Check;

/// <summary>What a cell is as a number or a time, whether its source has types or texts. Immutable.</summary>
/// <param name="marks">How texts have numbers; null for the usual way.</param>
sealed class CellValues(NumberMarks? marks)
{
    /// <summary>The number; null when it is none.</summary>
    public decimal? Number(object cell) =>
        cell switch
        {
            long n => n,
            ExactNumber { Decimal: { } exact } => exact,
            double d when Math.Abs(d) < 1e27 => (decimal)d,
            string text
                when (marks is null ? text : marks.Plain(text)) is { } plain
                    && decimal.TryParse(plain, NumberStyles.Float, CultureInfo.InvariantCulture, out var number) =>
                number,
            _ => null,
        };

    /// <summary>The time, in UTC; null when it is none.</summary>
    public static DateTime? Time(object cell) =>
        cell switch
        {
            DateTime at => at,
            DateOnly day => day.ToDateTime(TimeOnly.MinValue, DateTimeKind.Utc),
            string text
                when DateTime.TryParse(
                    text,
                    CultureInfo.InvariantCulture,
                    DateTimeStyles.AssumeUniversal | DateTimeStyles.AdjustToUniversal,
                    out var at
                ) => at,
            _ => null,
        };

    /// <summary>A bound as the settings have it: a number or a time.</summary>
    /// <exception cref="Contract.StepFailedException">It is neither.</exception>
    public static object Bound(Value value, string check) =>
        value.Kind switch
        {
            ValueKind.Int => (decimal)value.AsInt,
            ValueKind.Double => (decimal)value.AsDouble,
            ValueKind.Decimal => decimal.Parse(value.AsDecimal.ToString(), CultureInfo.InvariantCulture),
            ValueKind.Timestamp => value.AsDateTimeOffset.UtcDateTime,
            ValueKind.String
                when decimal.TryParse(
                    value.AsString,
                    NumberStyles.Float,
                    CultureInfo.InvariantCulture,
                    out var number
                ) => number,
            ValueKind.String when Time(value.AsString) is { } at => at,
            _ => throw new Contract.StepFailedException(
                "setting",
                $"“{ValueText.ToPlainString(value)}” of check “{check}” is neither a number nor a time"
            ),
        };
}
