using System.Collections.Frozen;

namespace GateChain.Core.Values;

/// <summary>
/// The members of an enum as they are written in files, answers and messages: in small letters. Thread-safe.
/// </summary>
public static class EnumWords
{
    /// <summary>For example <c>succeeded</c>; makes no text of its own.</summary>
    public static string Word<T>(this T member)
        where T : struct, Enum =>
        Of<T>.Words.TryGetValue(member, out var word) ? word : member.ToString().ToLowerInvariant();

    static class Of<T>
        where T : struct, Enum
    {
        public static readonly FrozenDictionary<T, string> Words = Enum.GetValues<T>()
            .Distinct()
            .ToFrozenDictionary(m => m, m => m.ToString().ToLowerInvariant());
    }
}
