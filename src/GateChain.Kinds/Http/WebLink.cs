namespace GateChain.Kinds.Http;

/// <summary>Reads the header Link.</summary>
/// <remarks>Source: RFC 8288, section 3.</remarks>
static class WebLink
{
    /// <summary>
    /// The address of the next page; null when the header names none. Commas and semicolons may stand in addresses and
    /// in quoted texts.
    /// </summary>
    public static string? Next(string header)
    {
        var at = 0;
        while (at < header.Length)
        {
            var open = header.IndexOf('<', at);
            var close = open < 0 ? -1 : header.IndexOf('>', open);
            if (close < 0)
                return null;
            var address = header[(open + 1)..close];
            at = close + 1;
            if (IsNext(header, ref at))
                return address;
        }
        return null;
    }

    // Parameters up to the comma that begins another link. Of several "rel" the first counts; it may hold several
    // words.
    static bool IsNext(string header, ref int at)
    {
        bool? next = null;
        while (at < header.Length && header[at] != ',')
        {
            if (header[at] is ';' or ' ' or '\t')
            {
                at++;
                continue;
            }
            var start = at;
            while (at < header.Length && header[at] is not ('=' or ';' or ',' or ' ' or '\t'))
                at++;
            var name = header[start..at];
            while (at < header.Length && header[at] is ' ' or '\t')
                at++;
            if (at >= header.Length || header[at] != '=')
                continue;
            at++;
            while (at < header.Length && header[at] is ' ' or '\t')
                at++;
            var value = Value(header, ref at);
            if (name.Equals("rel", StringComparison.OrdinalIgnoreCase))
            {
                next ??= value
                    .Split(' ', StringSplitOptions.RemoveEmptyEntries)
                    .Contains("next", StringComparer.OrdinalIgnoreCase);
            }
        }
        at++;
        return next == true;
    }

    static string Value(string header, ref int at)
    {
        var value = new System.Text.StringBuilder();
        if (at < header.Length && header[at] == '"')
        {
            for (at++; at < header.Length && header[at] != '"'; at++)
            {
                if (header[at] == '\\' && at + 1 < header.Length)
                    at++;
                value.Append(header[at]);
            }
            at++;
            return value.ToString();
        }
        while (at < header.Length && header[at] is not (';' or ',' or ' ' or '\t'))
            value.Append(header[at++]);
        return value.ToString();
    }
}
