namespace GateChain.Kinds.Load.Sources;

/// <summary>Whether the quotes of a record stand where they may.</summary>
/// <remarks>
/// Source: RFC 4180, section 2. A quote within a field that does not begin with one is a character like any other.
/// </remarks>
static class CsvQuotes
{
    public enum State
    {
        Good,
        TextBehind,
        NotClosed,
    }

    /// <summary>Looks at a record.</summary>
    /// <param name="record">As it stands in the file.</param>
    /// <param name="delimiter">What stands between fields.</param>
    public static State Of(ReadOnlySpan<char> record, char delimiter)
    {
        if (!record.Contains('"'))
            return State.Good;
        for (var at = 0; at < record.Length; )
        {
            if (record[at] == '"')
            {
                if ((at = Close(record, at + 1)) < 0)
                    return State.NotClosed;
                if (at < record.Length && record[at] != delimiter && record[at] is not ('\r' or '\n'))
                    return State.TextBehind;
            }
            var next = record[at..].IndexOf(delimiter);
            if (next < 0)
                break;
            at += next + 1;
        }
        return State.Good;
    }

    // Behind the quote that closes; two of them are one within the text.
    static int Close(ReadOnlySpan<char> record, int at)
    {
        while (record[at..].IndexOf('"') is >= 0 and var quote)
        {
            at += quote + 1;
            if (at >= record.Length || record[at] != '"')
                return at;
            at++;
        }
        return -1;
    }
}
