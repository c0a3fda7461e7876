namespace GateChain.Core.Running.State;

/// <summary>
/// A point in time as states keep it, in UTC, or none: a third of the size of a <see cref="DateTimeOffset"/> that may
/// be missing. Very many are kept.
/// </summary>
readonly record struct Moment
{
    // No run was ever in the year 1.
    readonly long _ticks;

    Moment(long ticks) => _ticks = ticks;

    public static implicit operator Moment(DateTimeOffset? at) => new(at?.UtcTicks ?? 0);

    public static implicit operator DateTimeOffset?(Moment moment) =>
        moment._ticks == 0 ? null : new DateTimeOffset(moment._ticks, TimeSpan.Zero);
}
