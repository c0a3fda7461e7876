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
    /// <param name="quote">What texts stand in.</param>
    /// <param name="escape">What stands before a quote that belongs to the text; the quote itself, mostly.</param>
    public static State Of(ReadOnlySpan<char> record, char delimiter, char quote = '"', char escape = '"')
    {
        if (!record.Contains(quote))
            return State.Good;
        for (var at = 0; at < record.Length; )
        {
            if (record[at] == quote)
            {
                if ((at = Close(record, at + 1, quote, escape)) < 0)
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

    // Behind the quote that closes; where nothing else escapes one, two of them are one within the text.
    public static int Close(ReadOnlySpan<char> record, int at, char quote, char escape)
    {
        while (record[at..].IndexOfAny(quote, escape) is >= 0 and var found)
        {
            at += found + 1;
            if (escape != quote && record[at - 1] == quote)
                return at;
            if (escape == quote && (at >= record.Length || record[at] != quote))
                return at;
            at++;
            if (at > record.Length)
                return -1;
        }
        return -1;
    }
}
