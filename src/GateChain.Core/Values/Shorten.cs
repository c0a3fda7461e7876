namespace GateChain.Core.Values;

/// <summary>Long text as it fits into a sentence or a column.</summary>
public static class Shorten
{
    /// <summary>
    /// The text itself, or its beginning and an ellipsis. A character of two halves is not cut in two.
    /// </summary>
    /// <param name="text">Any text.</param>
    /// <param name="most">The most characters, from 2.</param>
    public static string Text(string text, int most)
    {
        if (text.Length <= most)
            return text;
        var end = most - 1;
        return text[..(char.IsHighSurrogate(text[end - 1]) ? end - 1 : end)] + "…";
    }
}
