namespace GateChain.Core.Values;

/// <summary>
/// How big things may be. They are checked where values come into a run, never while its journal is read: what is on
/// disk stays readable. Immutable; the defaults are those that the docs tell.
/// </summary>
public sealed record Bounds
{
    const long Mebibyte = 1 << 20;

    public static Bounds Default { get; } = new();

    /// <summary>
    /// The most lists and maps around the innermost value. Default 64; more than 64 can't be set, the journal reads no
    /// deeper.
    /// </summary>
    public int Levels { get; init; } = 64;

    /// <summary>
    /// The most bytes of one value, as JSON has them. A list that a loop, a look or a query gathers counts by its
    /// items. Default 8 MiB.
    /// </summary>
    public long ValueSize { get; init; } = 8 * Mebibyte;

    /// <summary>The most bytes of all values of a run together. Default 256 MiB.</summary>
    public long RunSize { get; init; } = 256 * Mebibyte;

    /// <summary>The most bytes of one journal row. Default 64 MiB.</summary>
    public long DecisionSize { get; init; } = 64 * Mebibyte;

    /// <summary>
    /// The most steps of one evaluation: a node computed is one, and what a function goes through counts by its size.
    /// Default 10 million.
    /// </summary>
    public int EvaluationSteps { get; init; } = 10_000_000;

    /// <summary>
    /// How many events a decision has before what continues without waiting is left to the next one. Default 2,000.
    /// </summary>
    public int DecisionEvents { get; init; } = 2_000;

    /// <summary>
    /// How long a decision may take before what continues without waiting is left to the next one. The core has no
    /// clock: whoever calls it counts. Default 1 s.
    /// </summary>
    public TimeSpan DecisionTime { get; init; } = TimeSpan.FromSeconds(1);

    /// <summary>How long one evaluation may take. Default 10 s.</summary>
    public TimeSpan EvaluationTime { get; init; } = TimeSpan.FromSeconds(10);

    /// <summary>How long one check or rehearsal may take. Default 60 s.</summary>
    public TimeSpan CheckTime { get; init; } = TimeSpan.FromSeconds(60);

    /// <summary>The most bytes of what a check or a rehearsal answers. Default 64 MiB.</summary>
    public long AnswerSize { get; init; } = 64 * Mebibyte;

    /// <summary>Why a value is too big; null when it is not.</summary>
    /// <param name="value">The value.</param>
    /// <param name="gathered">Whether a list counts by its items.</param>
    public string? Refuse(Value value, bool gathered = false)
    {
        if (value.Depth > Levels)
            return $"it is nested more than {Levels} levels deep";
        if (value.Size <= ValueSize)
            return null;
        if (!gathered || value.Kind != ValueKind.List)
            return $"it has more than {Text(ValueSize)}";
        var big = value.AsList.Index().FirstOrDefault(i => i.Item.Size > ValueSize, (-1, default)).Index;
        return big < 0 ? null : $"its item {big} has more than {Text(ValueSize)}";
    }

    /// <summary>The same for a map of values, such as outputs; names the one that is too big.</summary>
    public string? RefuseAny(Value values, bool gathered = false)
    {
        foreach (var (name, value) in values.AsMap.Entries)
        {
            if (Refuse(value, gathered) is { } why)
                return $"“{ValueText.ToPlainString(name)}” is too big: {why}";
        }
        return null;
    }

    /// <summary>A number of bytes as people read it.</summary>
    public static string Text(long bytes) =>
        bytes switch
        {
            >= 1 << 30 when bytes % (1 << 30) == 0 => $"{bytes >> 30} GiB",
            >= 1 << 20 => $"{bytes / (double)Mebibyte:0.#} MiB",
            >= 1 << 10 => $"{bytes / 1024.0:0.#} KiB",
            _ => $"{bytes} bytes",
        };
}
