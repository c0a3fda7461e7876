namespace GateChain.Core.Datasets;

/// <summary>
/// Names in which <c>*</c>, <c>?</c> and <c>${…}</c> stand for what is not known yet: within a part of a path, and for
/// several parts where the whole part is <c>**</c> or an expression. Pure.
/// </summary>
static class NamePatterns
{
    // Longer ones are compared as texts: two of them take the product of their lengths in steps.
    const int Longest = 1_000;

    const char Any = '\uE000',
        One = '\uE001',
        Deep = '\uE002';

    public static bool IsPattern(string name) => name.AsSpan().IndexOfAny('*', '?') >= 0 || HasExpression(name);

    static bool HasExpression(string name) => name.Contains("${", StringComparison.Ordinal);

    /// <summary>Whether there is a name that both stand for.</summary>
    public static bool Meet(string a, string b, DataForm form)
    {
        if (form == DataForm.Table)
            (a, b) = (Plain(a), Plain(b));
        if (a == b)
            return true;
        if (!IsPattern(a) && !IsPattern(b) || a.Length > Longest || b.Length > Longest)
            return false;
        (a, b, var isComputed) = (Marks(a), Marks(b), HasExpression(a) || HasExpression(b));
        return (!isComputed || TellsFolder(a) && TellsFolder(b) || TellsFile(a) && TellsFile(b)) && Meet(a, b);
    }

    // What is computed could be anything. So the folders that two names begin with have to stand there, or a part of
    // the files' own names and not only their endings.
    static bool TellsFolder(string marks)
    {
        var slash = marks.IndexOf('/', StringComparison.Ordinal);
        return slash > 0 && marks.AsSpan(0, slash).IndexOfAny(Any, Deep, One) < 0;
    }

    static bool TellsFile(string marks)
    {
        var last = marks[(marks.LastIndexOf('/') + 1)..];
        var dot = last.IndexOf('.', StringComparison.Ordinal);
        return (dot < 0 ? last : last[..dot]).Any(char.IsLetterOrDigit);
    }

    // Names of tables are compared without regard to case and quotes, as databases mostly do.
    static string Plain(string table) =>
        table.Replace("\"", "", StringComparison.Ordinal).Replace("`", "", StringComparison.Ordinal).ToLowerInvariant();

    // Wildcards as single characters, several in a row as one.
    static string Marks(string name)
    {
        var marks = new System.Text.StringBuilder(name.Length);
        for (var i = 0; i < name.Length; i++)
        {
            var begin = i;
            if (name[i] == '$' && i + 1 < name.Length && name[i + 1] == '{')
            {
                i = End(name, i + 2);
            }
            else if (name[i] != '*')
            {
                marks.Append(name[i] == '?' ? One : name[i]);
                continue;
            }
            while (name[begin] == '*' && i + 1 < name.Length && name[i + 1] == '*')
                i++;
            var isPart = (begin == 0 || name[begin - 1] == '/') && (i + 1 >= name.Length || name[i + 1] == '/');
            var mark = isPart && i > begin ? Deep : Any;
            if (marks.Length == 0 || marks[^1] is not (Any or Deep))
                marks.Append(mark);
        }
        return marks.ToString();
    }

    // The brace that closes an expression; the end of the name when none does.
    static int End(string name, int from)
    {
        var depth = 1;
        for (var i = from; i < name.Length; i++)
        {
            depth += name[i] switch
            {
                '{' => 1,
                '}' => -1,
                _ => 0,
            };
            if (depth == 0)
                return i;
        }
        return name.Length;
    }

    // One row of a table of which ends of a fit which ends of b.
    static bool Meet(string a, string b)
    {
        var next = new bool[b.Length + 1];
        next[b.Length] = true;
        for (var j = b.Length - 1; j >= 0; j--)
            next[j] = IsWild(b[j]) && next[j + 1];
        for (var i = a.Length - 1; i >= 0; i--)
        {
            var now = new bool[b.Length + 1];
            now[b.Length] = IsWild(a[i]) && next[b.Length];
            for (var j = b.Length - 1; j >= 0; j--)
            {
                var (ends, takes) = (next[j], now[j + 1]);
                now[j] =
                    IsWild(a[i]) && (ends || Takes(a[i], b[j]) && takes)
                    || IsWild(b[j]) && (takes || Takes(b[j], a[i]) && ends)
                    || !IsWild(a[i]) && !IsWild(b[j]) && IsOne(a[i], b[j]) && next[j + 1];
            }
            next = now;
        }
        return next[0];
    }

    static bool IsWild(char c) => c is Any or Deep;

    static bool Takes(char wild, char c) => wild == Deep || c != '/';

    static bool IsOne(char a, char b) => a == b || a == One && b != '/' || b == One && a != '/';
}
