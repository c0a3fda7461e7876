using System.Collections.Frozen;

namespace GateChain.Access.People;

/// <summary>Which passwords are taken.</summary>
/// <remarks>Source: OWASP ASVS 5, 6.2: length counts, not what characters there are; common ones are refused.</remarks>
static class PasswordRules
{
    /// <summary>Characters at least.</summary>
    public const int Least = 12;

    /// <summary>Characters at most: what is longer only keeps the service busy.</summary>
    public const int Most = 256;

    static readonly Lazy<FrozenSet<string>> Common = new(() =>
    {
        using var file = typeof(PasswordRules).Assembly.GetManifestResourceStream("common-passwords.txt")!;
        using var reader = new StreamReader(file);
        return reader.ReadToEnd().Split('\n', StringSplitOptions.RemoveEmptyEntries).ToFrozenSet();
    });

    /// <summary>Why a password is not taken; null when it is.</summary>
    /// <param name="password">The password.</param>
    /// <param name="name">Whose it is to be.</param>
    public static string? Problem(string password, string name)
    {
        if (password.Length < Least)
            return $"a password has {Least} characters at least; a sentence is easier to remember than a riddle";
        if (password.Length > Most)
            return $"a password has {Most} characters at most";
        var plain = password.ToLowerInvariant();
        if (plain.Distinct().Count() < 4)
            return "a password of so few different characters is guessed at once";
        if (name.Length > 2 && plain.Contains(name.ToLowerInvariant(), StringComparison.Ordinal))
            return "the name is the first thing that is tried: a password does not hold it";
        return IsCommon(plain) ? "this password is one of those that are tried first: it is used by very many" : null;
    }

    // Also one that is written twice, or lengthened by digits and signs.
    static bool IsCommon(string plain)
    {
        var core = plain.Trim([.. "0123456789!@#$%^&*()-_=+.,;:?/ "]);
        return Common.Value.Contains(plain)
            || (core.Length > 0 && Common.Value.Contains(core))
            || Enumerable
                .Range(2, 5)
                .Any(times =>
                    plain.Length % times == 0
                    && plain[..(plain.Length / times)] is var part
                    && Common.Value.Contains(part)
                    && string.Concat(Enumerable.Repeat(part, times)) == plain
                );
    }
}
