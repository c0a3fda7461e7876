namespace GateChain.Core.Scheduling;

/// <summary>
/// The due times of a schedule, before days off and bounds are looked at. Immutable and pure: the same question has the
/// same answer. Thread-safe.
/// </summary>
public abstract class Schedule
{
    /// <summary>The first due time behind a moment; null when there is none any more.</summary>
    /// <param name="after">The moment; it is not given itself.</param>
    public abstract DateTimeOffset? Next(DateTimeOffset after);

    /// <summary>The last due time before a moment; null when there was none.</summary>
    /// <param name="before">The moment; it is not given itself.</param>
    public abstract DateTimeOffset? Previous(DateTimeOffset before);

    /// <summary>How it is said in a sentence, for example <c>every day at 02:30</c>; without its zone.</summary>
    public abstract string Sentence { get; }

    /// <summary>
    /// The schedule in words, as <c>every</c>, <c>at</c> and <c>on</c> say them; null when they can't.
    /// </summary>
    public virtual ScheduleWords? Words => null;
}

/// <summary>A schedule as people write it.</summary>
/// <param name="Every">For example <c>15m</c>, <c>day</c>, <c>[mon, thu]</c>.</param>
/// <param name="At">Times of the day; null for steps under a day.</param>
/// <param name="On">A day of the month; null for none.</param>
public sealed record ScheduleWords(string Every, IReadOnlyList<string>? At = null, string? On = null);
