using GateChain.Core.Chains.Kinds;
using GateChain.Core.Expressions;

namespace GateChain.Core.Chains;

/// <summary>What a guard's rule decides about a step on its threshold.</summary>
public enum Verdict
{
    Proceed,
    Skip,
    Fail,
    Stop,
    Hold,
}

/// <summary>
/// Checks on a step's threshold: probes look at the outside world, the first rule that holds gives the verdict.
/// </summary>
/// <param name="Probes">What is looked at, in the order of the file.</param>
/// <param name="Rules">In the order of the file; the last one is <c>otherwise</c> and always holds, so that a guard
/// always decides.</param>
public sealed record GuardRule(IReadOnlyList<Probe> Probes, IReadOnlyList<GuardCase> Rules);

/// <param name="Name">What rules call it: <c>probes.&lt;name&gt;</c>.</param>
/// <param name="Kind">What it looks at.</param>
/// <param name="Settings">Its own settings.</param>
/// <param name="Span">Where its name stands.</param>
public sealed record Probe(string Name, KindDescription Kind, MapSetting Settings, Span Span);

/// <param name="When">What must hold; null for <c>otherwise</c>.</param>
/// <param name="Verdict">What it decides.</param>
/// <param name="Message">Why, for people; may hold <c>${…}</c>. Null for none.</param>
/// <param name="Hold">How it is held; null for other verdicts.</param>
public sealed record GuardCase(SourceExpression? When, Verdict Verdict, Setting? Message, HoldRule? Hold);

/// <summary>How long a step is held, and what comes then.</summary>
/// <param name="Recheck">How long until the next look; null when a clock time says it.</param>
/// <param name="At">The clock time of the next look; null when <paramref name="Recheck"/> says it.</param>
/// <param name="Times">How many further looks there are; null when a duration bounds it.</param>
/// <param name="Longest">How long it is held at most, from the first time this rule held; null when a count bounds
/// it.</param>
/// <param name="Then">What is decided when the limit is reached; never <see cref="Verdict.Hold"/>.</param>
public sealed record HoldRule(TimeSpan? Recheck, ClockTime? At, int? Times, TimeSpan? Longest, Verdict Then);

/// <summary>A time of the day in a zone.</summary>
/// <param name="Time">For example 06:00.</param>
/// <param name="Zone">The zone; UTC when none is named.</param>
public sealed record ClockTime(TimeOnly Time, TimeZoneInfo Zone)
{
    /// <summary>
    /// The next moment at which clocks of the zone show the time, after <paramref name="now"/>. A time that clocks leap
    /// over comes when they have leapt; one they show twice comes the first time.
    /// </summary>
    public DateTimeOffset NextAfter(DateTimeOffset now)
    {
        for (
            var day = DateOnly.FromDateTime(TimeZoneInfo.ConvertTime(now, Zone).DateTime).AddDays(-1);
            ;
            day = day.AddDays(1)
        )
        {
            var local = day.ToDateTime(Time);
            while (Zone.IsInvalidTime(local))
                local = local.AddMinutes(1);
            var offset = Zone.IsAmbiguousTime(local)
                ? Zone.GetAmbiguousTimeOffsets(local).Max()
                : Zone.GetUtcOffset(local);
            var moment = new DateTimeOffset(local, offset).ToUniversalTime();
            if (moment > now)
                return moment;
        }
    }
}

/// <summary>What an expect rule decides about a result.</summary>
public enum ExpectVerdict
{
    Accept,
    Redo,
    Fail,
    Warn,
}

/// <param name="When">What must hold, over <c>result</c>.</param>
/// <param name="Verdict">What it decides.</param>
/// <param name="Message">Why, for people; may hold <c>${…}</c>. Null for none.</param>
public sealed record ExpectCase(SourceExpression When, ExpectVerdict Verdict, Setting? Message);
