using GateChain.Core.Datasets;

namespace GateChain.Kinds.Databases;

/// <summary>
/// The tables that statements name, as far as their words tell: behind <c>FROM</c>, <c>JOIN</c>, <c>INTO</c>,
/// <c>UPDATE</c> and their like. What a procedure or a statement in a text does is not seen. Pure.
/// </summary>
static class SqlTables
{
    // Functions that have a FROM within their parentheses which names no table.
    static readonly HashSet<string> OwnFrom = new(StringComparer.OrdinalIgnoreCase)
    {
        "extract",
        "trim",
        "substring",
        "overlay",
        "position",
    };

    // Before UPDATE they make something else of it than a statement.
    static readonly HashSet<string> NoUpdate = new(StringComparer.OrdinalIgnoreCase)
    {
        "for",
        "key",
        "do",
        "on",
        "then",
    };

    // What rows come from and go to that are in no table.
    static readonly HashSet<string> Streams = new(StringComparer.OrdinalIgnoreCase) { "stdin", "stdout", "program" };

    // Words between that of a statement and the table.
    static readonly HashSet<string> Between = new(StringComparer.OrdinalIgnoreCase)
    {
        "table",
        "only",
        "if",
        "not",
        "exists",
        "ignore",
        "or",
        "replace",
        "temp",
        "temporary",
        "view",
        "materialized",
        "lateral",
    };

    /// <summary>What statements read and write of a connection.</summary>
    public static IEnumerable<DataUse> Of(string connection, string sql) =>
        Named(sql)
            .Select(t =>
                t.Writes
                    ? DataUse.Writes(DataForm.Table, connection, t.Name)
                    : DataUse.Reads(DataForm.Table, connection, t.Name)
            )
            .Distinct();

    static List<(string Name, bool Writes)> Named(string sql)
    {
        var words = SqlText.Words(sql);
        var found = new List<(string, bool)>();
        var made = Made(words);
        // For each open parenthesis: whether it is that of a function with a FROM of its own, and of a list of tables.
        var open = new Stack<(bool IsFunction, bool IsFrom)>();
        var inFrom = false;
        for (var i = 0; i < words.Count; i++)
        {
            var word = words[i];
            switch (word.ToLowerInvariant())
            {
                case "(":
                    open.Push((i > 0 && OwnFrom.Contains(words[i - 1]), inFrom));
                    inFrom = false;
                    break;
                case ")":
                    inFrom = open.Count > 0 && open.Pop().IsFrom;
                    break;
                case ";"
                or "where"
                or "group"
                or "order"
                or "having"
                or "limit"
                or "union"
                or "set"
                or "on"
                or "values":
                    inFrom = false;
                    break;
                case "from" when open.Count > 0 && open.Peek().IsFunction || i > 0 && Is(words[i - 1], "distinct"):
                    break;
                case "from" when i > 0 && Is(words[i - 1], "delete"):
                    Take(i, writes: true);
                    break;
                case "from" or "join" or "using":
                    inFrom = true;
                    Take(i, writes: false);
                    break;
                case "," when inFrom:
                    Take(i, writes: false);
                    break;
                case "into":
                case "update" when i == 0 || !NoUpdate.Contains(words[i - 1]):
                case "truncate":
                case "create" or "alter" or "drop" when Is(Next(i), "table") || Is(Next(i), "view"):
                case "copy" when i == 0 || words[i - 1] == ";":
                    Take(i, writes: true);
                    break;
                default:
                    break;
            }
        }
        return found;

        string Next(int i) => i + 1 < words.Count ? words[i + 1] : "";

        void Take(int at, bool writes)
        {
            do at++;
            while (at < words.Count && Between.Contains(words[at]));
            if (at >= words.Count || !IsName(words[at]) || made.Contains(words[at]) || Streams.Contains(words[at]))
                return;
            // What is called gives rows, and is no table.
            if (!writes && Next(at) == "(")
                return;
            found.Add((words[at], writes));
        }
    }

    // Names that the statement itself gives to queries: WITH name AS (…), name AS (…).
    static HashSet<string> Made(IReadOnlyList<string> words)
    {
        var made = new HashSet<string>(StringComparer.OrdinalIgnoreCase);
        if (!words.Any(w => Is(w, "with")))
            return made;
        for (var i = 1; i + 2 < words.Count; i++)
        {
            var before = words[i - 1];
            if (
                (Is(before, "with") || Is(before, "recursive") || before == ",")
                && IsName(words[i])
                && (Is(words[i + 1], "as") || words[i + 1] == "(")
            )
            {
                made.Add(words[i]);
            }
        }
        return made;
    }

    static bool Is(string word, string what) => word.Equals(what, StringComparison.OrdinalIgnoreCase);

    static bool IsName(string word) => char.IsLetter(word[0]) || word[0] is '_' or '"' or '`' or '[' or '$';
}
