using GateChain.Kinds.Load.Sources;

namespace GateChain.Kinds.Load;

/// <summary>How numbers are written in a text file, where it is not with a point and without thousands.</summary>
/// <param name="point">What stands before the decimals.</param>
/// <param name="thousands">What stands between thousands; null for nothing.</param>
sealed class NumberMarks(char point, char? thousands)
{
    /// <summary>The marks; null for the usual ones.</summary>
    public static NumberMarks? Of(LoadText rules)
    {
        var point = OpenText.Character("decimal", rules.Decimal) ?? '.';
        var thousands = OpenText.Character("thousands", rules.Thousands);
        return point == '.' && thousands is null ? null : new(point, thousands);
    }

    /// <summary>A number that is usually written, as it is written there.</summary>
    public string Written(string plain) => plain.Replace('.', point);

    /// <summary>The number as it is usually written; null when its thousands stand where none are.</summary>
    public string? Plain(string text)
    {
        text = text.Trim();
        var at = text.IndexOf(point);
        var whole = at < 0 ? text : text[..at];
        if (thousands is { } between && whole.Contains(between))
        {
            var parts = whole.Split(between);
            // Groups of three; else it is another number than it seems: 1,5 is not fifteen.
            if (parts.Skip(1).Any(p => p.Length != 3) || parts[0].TrimStart('-', '+').Length is 0 or > 3)
                return null;
            whole = string.Concat(parts);
        }
        // A point that is none of the marks would be read as one.
        if (point != '.' && whole.Contains('.'))
            return null;
        return at < 0 ? whole : $"{whole}.{text[(at + 1)..]}";
    }
}
