using System.Text;
using System.Text.RegularExpressions;

namespace GateChain.Kinds.Databases;

/// <summary>Reads SQL as far as it must be known where a parameter stands and where only text does.</summary>
static class SqlText
{
    /// <summary>
    /// Writes parameters, which chains write as <c>$name</c>, as the database's driver wants them. Texts, quoted names
    /// and comments stay as they are.
    /// </summary>
    /// <param name="sql">One or more statements.</param>
    /// <param name="names">The parameters there are; other words with a dollar before them stay.</param>
    /// <param name="marker">What stands before a parameter's name.</param>
    public static string WithMarkers(string sql, IReadOnlySet<string> names, string marker)
    {
        var result = new StringBuilder(sql.Length);
        for (var i = 0; i < sql.Length; )
        {
            var end = Skip(sql, i);
            if (end == i && sql[i] == '$' && (i == 0 || !IsWord(sql[i - 1])))
            {
                end = i + 1;
                while (end < sql.Length && IsWord(sql[end]))
                    end++;
                var name = sql[(i + 1)..end];
                result.Append(names.Contains(name) ? marker + name : sql[i..end]);
            }
            else
            {
                end = Math.Max(end, i + 1);
                result.Append(sql, i, end - i);
            }
            i = end;
        }
        return result.ToString();
    }

    /// <summary>Replaces what a pattern finds, outside of texts, quoted names and comments.</summary>
    public static string Replace(string sql, Regex pattern, Func<Match, string> put) =>
        pattern.Replace(sql, found => IsCode(sql, found.Index) ? put(found) : found.Value);

    /// <summary>Whether a pattern is found, outside of texts, quoted names and comments.</summary>
    public static bool Matches(string sql, Regex pattern) =>
        pattern.Matches(sql).Any(found => IsCode(sql, found.Index));

    /// <summary>Whether a parameter is used.</summary>
    public static bool Mentions(string sql, string name) =>
        WithMarkers(sql, new HashSet<string> { name }, "\u0001").Contains("\u0001" + name, StringComparison.Ordinal);

    /// <summary>
    /// The words and signs of statements, without texts and comments. A name with its schema is one word, quoted or
    /// not, and so is <c>${…}</c>.
    /// </summary>
    public static IReadOnlyList<string> Words(string sql)
    {
        var words = new List<string>();
        for (var i = 0; i < sql.Length; )
        {
            var end = NameEnd(sql, i);
            if (end > i)
            {
                // A dot joins what stands on both sides of it.
                while (end < sql.Length && sql[end] == '.' && NameEnd(sql, end + 1) is var more && more > end + 1)
                    end = more;
                words.Add(sql[i..end]);
            }
            else if (Skip(sql, i) is var behind && behind > i)
            {
                end = behind;
            }
            else
            {
                end = i + 1;
                if (!char.IsWhiteSpace(sql[i]))
                    words.Add(sql[i..end]);
            }
            i = end;
        }
        return words;
    }

    // Behind the name that begins here; the same place when none does.
    static int NameEnd(string sql, int at)
    {
        if (at >= sql.Length)
            return at;
        if (sql[at] is '"' or '`')
            return Skip(sql, at);
        if (sql[at] == '[')
            return Behind(sql, sql.IndexOf(']', at), 1);
        var end = at;
        while (end < sql.Length && (char.IsLetterOrDigit(sql[end]) || sql[end] is '_' or '#' || At(sql, end, "${")))
            end = At(sql, end, "${") ? Behind(sql, sql.IndexOf('}', end), 1) : end + 1;
        return end;
    }

    static bool IsCode(string sql, int place)
    {
        for (var i = 0; i < place; )
        {
            var end = Skip(sql, i);
            if (end > place)
                return false;
            i = Math.Max(end, i + 1);
        }
        return true;
    }

    static bool IsWord(char c) => char.IsAsciiLetterOrDigit(c) || c == '_';

    // Behind what begins here and holds no parameters; the same place when nothing of the kind does.
    static int Skip(string sql, int at)
    {
        switch (sql[at])
        {
            case '\'' or '"' or '`':
                return Behind(sql, sql.IndexOf(sql[at], at + 1), 1);
            case '-' when At(sql, at, "--"):
                return Behind(sql, sql.IndexOf('\n', at), 1);
            case '/' when At(sql, at, "/*"):
                return Behind(sql, sql.IndexOf("*/", at + 2, StringComparison.Ordinal), 2);
            case '$':
                // $tag$ … $tag$ is a text.
                var close = at + 1;
                while (close < sql.Length && IsWord(sql[close]))
                    close++;
                if (close >= sql.Length || sql[close] != '$')
                    return at;
                var tag = sql[at..(close + 1)];
                return Behind(sql, sql.IndexOf(tag, close + 1, StringComparison.Ordinal), tag.Length);
            default:
                return at;
        }
    }

    static int Behind(string sql, int found, int length) => found < 0 ? sql.Length : found + length;

    static bool At(string sql, int at, string text) => string.CompareOrdinal(sql, at, text, 0, text.Length) == 0;
}
