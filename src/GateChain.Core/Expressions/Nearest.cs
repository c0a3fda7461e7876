namespace GateChain.Core.Expressions;

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
            if (Math.Abs(candidate.Length - name.Length) < bestDistance && Distance(name, candidate) is var distance && distance < bestDistance)
            {
                (best, bestDistance) = (candidate, distance);
            }
        }
        return best;
    }

    /// <summary>“did you mean …?” or null.</summary>
    public static string? Mend(string name, IEnumerable<string> known) => Find(name, known) is { } near ? $"did you mean “{near}”?" : null;

    static int Distance(string a, string b)
    {
        var row = new int[b.Length + 1];
        for (var j = 0; j <= b.Length; j++) { row[j] = j; }
        for (var i = 1; i <= a.Length; i++)
        {
            var diagonal = row[0];
            row[0] = i;
            for (var j = 1; j <= b.Length; j++)
            {
                var same = char.ToLowerInvariant(a[i - 1]) == char.ToLowerInvariant(b[j - 1]);
                (diagonal, row[j]) = (row[j], Math.Min(diagonal + (same ? 0 : 1), 1 + Math.Min(row[j], row[j - 1])));
            }
        }
        return row[b.Length];
    }
}
