namespace GateChain.Core.Expressions;

/// <summary>“a string”, “an int”, “an each”; what has no vowel is spelled when it is said: “an sftp”.</summary>
public static class Article
{
    /// <summary>A name with its article; “null” has none.</summary>
    /// <param name="named">What its text names: a type, a kind, a word.</param>
    public static string Of(object named)
    {
        var name = named.ToString()!;
        // “u” is said as in “uint” where names begin with it.
        var before = name.Any("aeiouy".Contains) ? "aeio" : "fhlmnrsx";
        return (
                name == "null" ? ""
                : before.Contains(name[0]) ? "an "
                : "a "
            ) + name;
    }
}
