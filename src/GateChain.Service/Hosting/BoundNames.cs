using System.Globalization;
using GateChain.Core.Values;

namespace GateChain.Service.Hosting;

/// <summary>One bound that whoever runs the service may set.</summary>
/// <param name="Name">What it is called.</param>
/// <param name="Default">What holds otherwise, as it is written.</param>
/// <param name="Doc">What it bounds.</param>
/// <param name="Set">The bounds with another value; null when the value is not one.</param>
public sealed record BoundName(string Name, string Default, string Doc, Func<Bounds, string, Bounds?> Set);

/// <summary>The bounds by name: <c>serve --bound value=32MiB</c>.</summary>
public static class BoundNames
{
    public static IReadOnlyList<BoundName> All { get; } =
    [
        new("levels", "64", "Lists and maps around the innermost value; 1 to 64.", (b, t) =>
            Number(t, 1, 64) is { } n ? b with { Levels = (int)n } : null
        ),
        new("value", "8MiB", "Bytes of one value, as JSON.", (b, t) =>
            Size(t) is { } n ? b with { ValueSize = n } : null
        ),
        new("run", "256MiB", "Bytes of all values of a run.", (b, t) =>
            Size(t) is { } n ? b with { RunSize = n } : null
        ),
        new("decision", "64MiB", "Bytes of what is stored at once.", (b, t) =>
            Size(t) is { } n and <= 512L << 20 ? b with { DecisionSize = n } : null
        ),
        new("steps", "10000000", "Steps of one evaluation.", (b, t) =>
            Number(t, 1000, int.MaxValue / 4) is { } n ? b with { EvaluationSteps = (int)n } : null
        ),
        new("evaluation", "10s", "Time of one evaluation.", (b, t) =>
            Time(t) is { } s ? b with { EvaluationTime = s } : null
        ),
        new("check", "1m", "Time of one check or rehearsal.", (b, t) =>
            Time(t) is { } s ? b with { CheckTime = s } : null
        ),
        new("answer", "64MiB", "Bytes of what a rehearsal answers.", (b, t) =>
            Size(t) is { } n ? b with { AnswerSize = n } : null
        ),
    ];

    /// <summary>The bounds with what is said, and what is wrong with it.</summary>
    /// <param name="given">Texts of the form <c>name=value</c>.</param>
    public static (Bounds Bounds, IReadOnlyList<string> Wrong) Read(IEnumerable<string> given)
    {
        var bounds = Bounds.Default;
        var wrong = new List<string>();
        foreach (var text in given)
        {
            var (name, value) = text.Split('=', 2) is [var n, var v] ? (n, v) : (text, "");
            if (All.FirstOrDefault(b => b.Name == name) is not { } bound)
                wrong.Add($"there is no bound “{name}”; there are {string.Join(", ", All.Select(b => b.Name))}");
            else if (bound.Set(bounds, value) is { } set)
                bounds = set;
            else
                wrong.Add($"“{value}” is no value for the bound {name}; it is {bound.Default} when nothing is said");
        }
        return (bounds, wrong);
    }

    static long? Number(string text, long least, long most) =>
        long.TryParse(text, NumberStyles.None, CultureInfo.InvariantCulture, out var n) && n >= least && n <= most
            ? n
            : null;

    // No less than what a chain needs to say anything.
    static long? Size(string text)
    {
        foreach (var (unit, shift) in (ReadOnlySpan<(string, int)>)[("KiB", 10), ("MiB", 20), ("GiB", 30)])
        {
            if (text.EndsWith(unit, StringComparison.Ordinal))
            {
                return Number(text[..^3], 1, long.MaxValue >> 32) is { } n && n << shift >= 64 << 10
                    ? n << shift
                    : null;
            }
        }
        return Number(text, 64 << 10, long.MaxValue / 2);
    }

    static TimeSpan? Time(string text) =>
        TimeText.ParseSetting(text) is { } span
        && span >= TimeSpan.FromMilliseconds(100)
        && span <= TimeSpan.FromHours(1)
            ? span
            : null;
}
