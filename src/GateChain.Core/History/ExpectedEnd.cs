namespace GateChain.Core.History;

/// <summary>When a run will end, as earlier ones did.</summary>
/// <param name="Likely">Half of them would have ended by then.</param>
/// <param name="Early">One in ten would have.</param>
/// <param name="Late">Nine in ten would have.</param>
/// <param name="Runs">So many runs this is seen from.</param>
public sealed record Expectation(DateTimeOffset Likely, DateTimeOffset Early, DateTimeOffset Late, int Runs);

/// <summary>Tells when a run will end by how long the same steps took before. Pure.</summary>
public static class ExpectedEnd
{
    /// <summary>Of fewer runs nothing is told.</summary>
    public const int Least = 5;

    /// <param name="started">When the run began.</param>
    /// <param name="now">The moment that it is asked for.</param>
    /// <param name="running">The addresses of the steps that are running, with when the first instance of each
    /// began.</param>
    /// <param name="past">First legs of runs of the chain that succeeded.</param>
    /// <returns>Null when too few runs tell it.</returns>
    public static Expectation? Of(
        DateTimeOffset started,
        DateTimeOffset now,
        IReadOnlyDictionary<string, DateTimeOffset> running,
        IEnumerable<LegHistory> past
    )
    {
        var ends = past.Select(leg => EndAs(leg, started, running)).Order().ToList();
        if (ends.Count < Least)
            return null;
        // It has not ended yet, so it is none of those that would have.
        var left = ends.Where(e => e > now).ToList();
        return left.Count == 0
            ? new(now, now, now, ends.Count)
            : new(At(left, 0.5), At(left, 0.1), At(left, 0.9), ends.Count);
    }

    // From the begin of what is running now it takes as long as it did then; of several, until the last is through.
    static DateTimeOffset EndAs(
        LegHistory leg,
        DateTimeOffset started,
        IReadOnlyDictionary<string, DateTimeOffset> running
    ) =>
        leg
            .Steps.Where(s => s.Count > 0 && running.ContainsKey(s.Address))
            .Select(s => running[s.Address] + leg.Took - TimeSpan.FromMilliseconds(s.Begin))
            .DefaultIfEmpty(started + leg.Took)
            .Max();

    static DateTimeOffset At(List<DateTimeOffset> sorted, double share) =>
        sorted[(int)Math.Round((sorted.Count - 1) * share)];
}
