using System.Text;
using System.Text.RegularExpressions;
using GateChain.Core.Values;
using GateChain.Kinds.Contract;

namespace GateChain.Kinds.Databases;

/// <summary>
/// Lists as parameters: <c>IN ($list)</c> is one of its values, on every database; <c>= ANY ($list)</c> is an array,
/// where the database has arrays. Anywhere else a list is JSON.
/// </summary>
static class SqlLists
{
    const int MostValues = 1_000;

    /// <summary>
    /// Writes a statement for the lists that it has behind IN and ANY, and gives the parameters that it has then.
    /// </summary>
    /// <param name="sql">The statement, with parameters as <c>$name</c>.</param>
    /// <param name="parameters">The values.</param>
    /// <param name="arrays">Whether the database reads an array from a text such as <c>{1,2}</c>.</param>
    /// <exception cref="StepFailedException">NOT IN of nothing, which no database can be told; or a list that is too
    /// long, or holds what is no single value.</exception>
    public static (string Sql, List<KeyValuePair<string, Value>> Parameters) Spread(
        string sql,
        IEnumerable<KeyValuePair<string, Value>> parameters,
        bool arrays
    )
    {
        var result = new List<KeyValuePair<string, Value>>();
        foreach (var (name, value) in parameters)
        {
            if (value.Kind != ValueKind.List)
            {
                result.Add(new(name, value));
                continue;
            }
            var spread = false;
            sql = SqlText.Replace(sql, Behind(name), found =>
            {
                if (found.Groups["any"].Success)
                    return found.Value;
                spread = true;
                return $"{found.Groups["in"].Value}({Values(name, value.AsList, found.Groups["not"].Success)})";
            });
            if (spread)
                result.AddRange(value.AsList.Select((item, i) => KeyValuePair.Create($"{name}_{i}", item)));
            if (SqlText.Mentions(sql, name))
            {
                result.Add(
                    new(
                        name,
                        arrays && SqlText.Matches(sql, Behind(name)) ? Value.String(Literal(value.AsList)) : value
                    )
                );
            }
        }
        return (sql, result);
    }

    static Regex Behind(string name) =>
        new(
            $@"(?<in>(?<not>\bNOT\s+)?\bIN\s*)\(\s*\${name}\s*\)|(?<any>\b(?:ANY|ALL|SOME)\s*)\(\s*\${name}\b",
            RegexOptions.IgnoreCase | RegexOptions.CultureInvariant
        );

    static string Values(string name, IReadOnlyList<Value> list, bool not)
    {
        if (list.Count > MostValues)
        {
            throw new StepFailedException(
                "setting",
                $"the list “{name}” has {list.Count:N0} values; IN takes {MostValues:N0} at most",
                "Load them into a table, and join it. Nothing was changed."
            );
        }
        if (list.FirstOrDefault(i => i.Kind is ValueKind.List or ValueKind.Map) is { IsNull: false } inner)
        {
            throw new StepFailedException(
                "setting",
                $"the list “{name}” holds {Core.Expressions.Article.Of(inner.KindWord)}, and IN takes single values",
                "Nothing was changed."
            );
        }
        if (list.Count > 0)
            return string.Join(", ", list.Select((_, i) => $"${name}_{i}"));
        // Nothing is in nothing, and NULL says so; that all is outside of nothing it does not say.
        return not
            ? throw new StepFailedException(
                "setting",
                $"the list “{name}” is empty, and NOT IN of nothing can't be said",
                $"Leave the condition out then, for example by size(…) == 0 in a decide before it. Nothing was changed."
            )
            : "NULL";
    }

    // {1,"a b",NULL}
    static string Literal(IReadOnlyList<Value> list)
    {
        var text = new StringBuilder("{");
        for (var i = 0; i < list.Count; i++)
        {
            if (i > 0)
                text.Append(',');
            switch (list[i].Kind)
            {
                case ValueKind.Null:
                    text.Append("NULL");
                    break;
                case ValueKind.List:
                    text.Append(Literal(list[i].AsList));
                    break;
                default:
                    text.Append('"')
                        .Append(
                            ValueText
                                .ToPlainString(list[i])
                                .Replace("\\", "\\\\", StringComparison.Ordinal)
                                .Replace("\"", "\\\"", StringComparison.Ordinal)
                        )
                        .Append('"');
                    break;
            }
        }
        return text.Append('}').ToString();
    }
}
