namespace GateChain.Core.Expressions;

/// <summary>What would put a mistake right.</summary>
/// <param name="Text">In words.</param>
/// <param name="Replacement">What to write in the place of what is wrong; null when words are all there is.</param>
public sealed record Fix(string Text, string? Replacement = null)
{
    public static implicit operator Fix?(string? text) => text is null ? null : new(text);

    public override string ToString() => Text;
}

/// <summary>Finds the known name that was most likely meant.</summary>
public static class Nearest
{
    /// <summary>The nearest of <paramref name="known"/> by edit distance, or null when none is near.</summary>
    public static string? Find(string name, IEnumerable<string> known)
    {
        string? best = null;
        var bestDistance = Math.Max(1, name.Length / 3) + 1;
        foreach (var candidate in known)
        {
            if (
                Math.Abs(candidate.Length - name.Length) < bestDistance
                && Distance(name, candidate) is var distance
                && distance < bestDistance
            )
            {
                (best, bestDistance) = (candidate, distance);
            }
        }
        return best;
    }

    /// <summary>The end of a sentence that asks whether another name was meant; empty when none is near.</summary>
    public static string Hint(string name, IEnumerable<string> known) => Fix(name, known) is { } fix ? $"; {fix}" : "";

    /// <summary>“did you mean …?” or null.</summary>
    public static Fix? Fix(string name, IEnumerable<string> known) =>
        Find(name, known) is { } near ? new($"did you mean “{near}”?", near) : null;

    // Edits are: put in, leave out, replace, and swap two neighbours.
    static int Distance(string a, string b)
    {
        var rows = new int[a.Length + 1, b.Length + 1];
        for (var i = 0; i <= a.Length; i++)
            rows[i, 0] = i;
        for (var j = 0; j <= b.Length; j++)
            rows[0, j] = j;
        for (var i = 1; i <= a.Length; i++)
        {
            for (var j = 1; j <= b.Length; j++)
            {
                var same = char.ToLowerInvariant(a[i - 1]) == char.ToLowerInvariant(b[j - 1]);
                rows[i, j] = Math.Min(
                    rows[i - 1, j - 1] + (same ? 0 : 1),
                    1 + Math.Min(rows[i - 1, j], rows[i, j - 1])
                );
                if (i > 1 && j > 1 && a[i - 1] == b[j - 2] && a[i - 2] == b[j - 1])
                    rows[i, j] = Math.Min(rows[i, j], rows[i - 2, j - 2] + 1);
            }
        }
        return rows[a.Length, b.Length];
    }
}
