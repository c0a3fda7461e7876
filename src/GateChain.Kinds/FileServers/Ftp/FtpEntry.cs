using System.Globalization;

namespace GateChain.Kinds.FileServers.Ftp;

/// <summary>What a line of a server's list tells.</summary>
/// <param name="Name">The last part of its path.</param>
/// <param name="IsFolder">Whether it is a folder.</param>
/// <param name="IsFile">Whether it surely is a file: of a link nobody knows before it is asked for.</param>
/// <param name="Size">In bytes; null where the line does not tell it.</param>
/// <param name="Changed">In UTC, to the second; null where the line tells less than that.</param>
sealed record FtpEntry(string Name, bool IsFolder, bool IsFile, long? Size, DateTime? Changed)
{
    const int TimeLength = 14;

    /// <summary>A line of <c>MLSD</c> (RFC 3659); null for the folder itself and the one above.</summary>
    public static FtpEntry? OfFacts(string line)
    {
        var gap = line.IndexOf(' ', StringComparison.Ordinal);
        if (gap < 0)
            return null;
        var facts = new Dictionary<string, string>(StringComparer.OrdinalIgnoreCase);
        foreach (var fact in line[..gap].Split(';', StringSplitOptions.RemoveEmptyEntries))
        {
            if (fact.IndexOf('=', StringComparison.Ordinal) is var at and > 0)
                facts[fact[..at]] = fact[(at + 1)..];
        }
        var type = facts.GetValueOrDefault("type", "").ToUpperInvariant();
        return type is "CDIR" or "PDIR"
            ? null
            : new(
                line[(gap + 1)..],
                type == "DIR",
                type == "FILE",
                long.TryParse(facts.GetValueOrDefault("size"), CultureInfo.InvariantCulture, out var size)
                    ? size
                    : null,
                TimeOf(facts.GetValueOrDefault("modify"))
            );
    }

    /// <summary>
    /// A line of <c>LIST</c>, as servers on Unix or Windows write it; null for what is none. No standard says how such
    /// a line looks, and its time is left alone: it has no seconds, no zone, and changes its form with the years.
    /// </summary>
    public static FtpEntry? OfList(string line) =>
        line.Length > 0 && "-dlbcps".Contains(line[0], StringComparison.Ordinal) ? OfUnix(line)
        : line.Length > 0 && char.IsAsciiDigit(line[0]) ? OfWindows(line)
        : null;

    // -rw-r--r--   1 owner group   1234 Nov 30 16:20 the name
    static FtpEntry? OfUnix(string line)
    {
        const int before = 8;
        if (After(line, before) is not { } name)
            return null;
        if (line[0] == 'l' && name.IndexOf(" -> ", StringComparison.Ordinal) is var arrow and > 0)
            name = name[..arrow];
        return name is "." or ".." ? null : new(name, line[0] == 'd', line[0] == '-', null, null);
    }

    // 11-30-26  04:20PM       <DIR>          the name
    static FtpEntry? OfWindows(string line)
    {
        const int before = 3;
        if (After(line, before) is not { } name)
            return null;
        var isFolder = line.Contains(" <DIR> ", StringComparison.Ordinal);
        return new(name, isFolder, !isFolder, null, null);
    }

    // What follows a number of words and the gap after them; a name may begin with a gap of its own only where one
    // character stands between.
    static string? After(string line, int words)
    {
        var at = 0;
        for (var word = 0; word < words; word++)
        {
            while (at < line.Length && line[at] == ' ')
                at++;
            while (at < line.Length && line[at] != ' ')
                at++;
        }
        if (words == 3)
        {
            while (at < line.Length - 1 && line[at + 1] == ' ')
                at++;
        }
        return at + 1 < line.Length ? line[(at + 1)..] : null;
    }

    /// <summary>A time as <c>MDTM</c> and <c>MLSD</c> tell it, in UTC; null for what is none.</summary>
    public static DateTime? TimeOf(string? text) =>
        text is { Length: >= TimeLength }
        && DateTime.TryParseExact(
            text[..TimeLength],
            "yyyyMMddHHmmss",
            CultureInfo.InvariantCulture,
            DateTimeStyles.AssumeUniversal | DateTimeStyles.AdjustToUniversal,
            out var time
        )
            ? time
            : null;
}
