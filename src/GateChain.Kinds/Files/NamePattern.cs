using System.IO.Enumeration;

namespace GateChain.Kinds.Files;

/// <summary>Whether a name is like a pattern with <c>*</c> and <c>?</c>.</summary>
static class NamePattern
{
    /// <summary>Whether it is; small and capital letters differ.</summary>
    public static bool Fits(string name, string pattern) =>
        FileSystemName.MatchesSimpleExpression(pattern, name, ignoreCase: false);

    /// <summary>Whether a text is a pattern at all.</summary>
    public static bool Is(string text) => text.AsSpan().ContainsAny('*', '?');
}
