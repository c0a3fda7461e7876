namespace GateChain.Core.Retention;

/// <summary>
/// How long runs are kept that have ended. Runs that have not, the last one of a chain that succeeded, and those that
/// somebody pinned stay whatever it says. Immutable.
/// </summary>
/// <param name="Days">Runs go that ended longer ago, 1 to 36,500 days; null for none.</param>
/// <param name="AtLeast">The newest so many of a chain stay, however long ago they ended; 0 to 1,000,000.</param>
/// <param name="AtMost">More than the newest so many of a chain do not stay, however young they are; 1 to 1,000,000;
/// null for no such bound.</param>
public sealed record KeepRule(int? Days, int AtLeast = 0, int? AtMost = null)
{
    const int MostDays = 36_500,
        MostRuns = 1_000_000;

    /// <summary>Everything stays.</summary>
    public static KeepRule Everything { get; } = new(null, 0, null);

    /// <summary>Whether nothing ever goes.</summary>
    public bool IsEverything => Days is null && AtMost is null;

    /// <summary>Why it is none; null when it is one.</summary>
    public string? Refusal =>
        Days is < 1 or > MostDays ? $"days is 1 to {MostDays:N0}"
        : AtLeast is < 0 or > MostRuns ? $"at-least is 0 to {MostRuns:N0}"
        : AtMost is < 1 or > MostRuns ? $"at-most is 1 to {MostRuns:N0}"
        : AtMost < AtLeast ? $"at-most is less than at-least: {AtMost:N0} and {AtLeast:N0}"
        : null;

    /// <summary>It in a sentence.</summary>
    public override string ToString()
    {
        if (IsEverything)
            return "everything is kept";
        var parts = new List<string>();
        if (Days is { } days)
            parts.Add($"kept for {days:N0} {(days == 1 ? "day" : "days")}");
        if (AtLeast > 0)
            parts.Add($"the newest {AtLeast:N0} in any case");
        if (AtMost is { } most)
            parts.Add($"never more than {most:N0}");
        return string.Join(", ", parts);
    }
}
