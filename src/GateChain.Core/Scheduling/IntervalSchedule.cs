using GateChain.Core.Values;

namespace GateChain.Core.Scheduling;

/// <summary>Every so often, counted in time that passes: changes of clocks do not matter.</summary>
/// <param name="step">How often; at least a second.</param>
/// <param name="anchor">A moment that is due; the others are whole steps from it.</param>
public sealed class IntervalSchedule(TimeSpan step, DateTimeOffset anchor) : Schedule
{
    /// <summary>How often.</summary>
    public TimeSpan Step { get; } =
        step >= TimeSpan.FromSeconds(1)
            ? step
            : throw new ArgumentOutOfRangeException(nameof(step), "a step is a second at least");

    public override DateTimeOffset? Next(DateTimeOffset after) => At(Steps(after) + 1);

    public override DateTimeOffset? Previous(DateTimeOffset before) => At(Steps(before - TimeSpan.FromTicks(1)));

    // How many whole steps there are from the anchor to a moment.
    long Steps(DateTimeOffset at)
    {
        var ticks = (at - anchor).Ticks;
        return ticks >= 0 ? ticks / Step.Ticks : -((-ticks + Step.Ticks - 1) / Step.Ticks);
    }

    DateTimeOffset? At(long steps)
    {
        var ticks = (Int128)anchor.UtcTicks + (Int128)steps * Step.Ticks;
        return ticks >= DateTimeOffset.MinValue.UtcTicks && ticks <= DateTimeOffset.MaxValue.UtcTicks
            ? new((long)ticks, TimeSpan.Zero)
            : null;
    }

    public override string Sentence => $"every {Said}";

    string Said =>
        Step.Ticks % TimeSpan.TicksPerHour == 0 ? Count(Step.Ticks / TimeSpan.TicksPerHour, "hour")
        : Step.Ticks % TimeSpan.TicksPerMinute == 0 ? Count(Step.Ticks / TimeSpan.TicksPerMinute, "minute")
        : Count(Step.Ticks / TimeSpan.TicksPerSecond, "second");

    static string Count(long n, string unit) => n == 1 ? unit : $"{n} {unit}s";

    public override ScheduleWords Words => new(TimeText.Setting(Step));
}
