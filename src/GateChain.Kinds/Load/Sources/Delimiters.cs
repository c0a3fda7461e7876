namespace GateChain.Kinds.Load.Sources;

/// <summary>Finds what stands between the fields of a CSV file.</summary>
static class Delimiters
{
    static readonly char[] Known = [',', ';', '\t', '|'];

    /// <summary>The one of comma, semicolon, tab and bar that stands in a line most often; a comma for none.</summary>
    /// <param name="text">Begins with the line; what stands in quotes does not count.</param>
    /// <param name="quote">What texts stand in; null for nothing.</param>
    public static char Find(ReadOnlySpan<char> text, char? quote)
    {
        var counts = new int[Known.Length];
        var within = false;
        foreach (var sign in text)
        {
            if (sign == quote)
                within = !within;
            else if (!within && sign is '\r' or '\n')
                break;
            else if (!within && Array.IndexOf(Known, sign) is >= 0 and var at)
                counts[at]++;
        }
        var most = counts.Max();
        return most == 0 ? ',' : Known[Array.IndexOf(counts, most)];
    }

    /// <summary>How often one stands in a line, outside of quotes.</summary>
    public static int Count(string line, char delimiter, char quote)
    {
        var (count, within) = (0, false);
        foreach (var sign in line)
        {
            if (sign == quote)
                within = !within;
            else if (!within && sign == delimiter)
                count++;
        }
        return count;
    }

    /// <summary>The one by which most lines have the same number of fields, more than one, and that number.</summary>
    /// <param name="lines">Some lines.</param>
    /// <param name="quote">What texts stand in.</param>
    public static (char Delimiter, int Fields) Common(IReadOnlyList<string> lines, char quote)
    {
        var best = Known
            .SelectMany(d =>
                lines
                    .Select(l => Count(l, d, quote))
                    .Where(n => n > 0)
                    .GroupBy(n => n, (n, g) => (d, n, Lines: g.Count()))
            )
            .OrderByDescending(c => c.Lines)
            .ThenByDescending(c => c.n)
            .FirstOrDefault();
        return best.Lines * 2 > lines.Count ? (best.d, best.n + 1) : (',', 1);
    }
}
