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
}
