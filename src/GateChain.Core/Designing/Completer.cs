using System.Text.RegularExpressions;
using GateChain.Core.Expressions;

namespace GateChain.Core.Designing;

/// <summary>Finds what can be written at an offset of an expression that may be unfinished.</summary>
sealed partial class Completer(CelType names)
{
    static readonly Dictionary<string, string> Docs = FunctionDocs
        .All.GroupBy(d => d.Name)
        .ToDictionary(g => g.Key, g => $"{g.First().Doc}. Example: {g.First().Example}");
    static readonly string[] ListMacros = ["all", "exists", "exists_one", "map", "filter"];

    public (int From, IReadOnlyList<Completion> Items) Complete(string text, int cursor)
    {
        if (InText(text, cursor))
            return (cursor, []);
        var from = cursor;
        while (from > 0 && IsWord(text[from - 1]))
            from--;
        var items =
            from > 0 && text[from - 1] == '.' ? Members(text, from - 1)
            : from > 1 && text[from - 1] == '?' && text[from - 2] == '.' ? Members(text, from - 2)
            : Roots(text, from);
        return (
            from,
            [
                .. items
                    .OrderBy(i =>
                        i.Kind switch
                        {
                            "name" => 0,
                            "function" => 1,
                            _ => 2,
                        }
                    )
                    .ThenBy(i => i.Label, StringComparer.Ordinal),
            ]
        );
    }

    static bool IsWord(char c) => char.IsAsciiLetterOrDigit(c) || c == '_';

    IEnumerable<Completion> Roots(string text, int from) =>
        Local(text, from)
            .Fields!.Select(f => new Completion(f.Key, "name", TypeOf(f.Value), null))
            .Concat(
                Functions
                    .GlobalNames.Where(n => !n.Contains('.', StringComparison.Ordinal))
                    .Distinct()
                    .Select(n => new Completion(n, "function", Signature(n, member: false), Docs.GetValueOrDefault(n)))
            )
            .Concat(
                ((string[])["true", "false", "null"]).Select(w => new Completion(
                    w,
                    "word",
                    w == "null" ? "null_type" : "bool",
                    null
                ))
            );

    IEnumerable<Completion> Members(string text, int dot)
    {
        var operand = text[OperandStart(text, dot)..dot];
        if (Expression.Parse(operand).Expression is not { } expression)
            return [];
        var type = expression.Check(Local(text, dot)).Type;
        if (type.Name == "optional")
        {
            return Methods(type)
                .Concat(
                    (type.Arguments[0].Fields ?? new Dictionary<string, CelType>()).Select(f => new Completion(
                        f.Key,
                        "name",
                        TypeOf(f.Value),
                        null
                    ))
                );
        }
        return (type.Fields ?? new Dictionary<string, CelType>())
            .Select(f => new Completion(f.Key, "name", TypeOf(f.Value), null))
            .Concat(type.Name == "object" ? [] : Methods(type));
    }

    static IEnumerable<Completion> Methods(CelType type)
    {
        foreach (var name in Functions.MemberNames.Distinct())
        {
            var isMacro = Functions.Find(name) is not { HasMember: true };
            var fits = isMacro
                ? (type.Name is "list" or "map" && !name.StartsWith("opt", StringComparison.Ordinal))
                    || (type.Name == "optional" && name.StartsWith("opt", StringComparison.Ordinal))
                : Functions
                    .Find(name)!
                    .Overloads.Any(o =>
                        o.IsMember && (type.IsDyn || o.Parameters[0].IsParameter || o.Parameters[0].Name == type.Name)
                    );
            if (fits)
            {
                yield return new(
                    name,
                    "function",
                    isMacro ? "macro" : Signature(name, member: true),
                    Docs.GetValueOrDefault(name)
                );
            }
        }
    }

    static string Signature(string name, bool member)
    {
        if (Functions.Find(name)?.Overloads.FirstOrDefault(o => o.IsMember == member) is not { } overload)
            return "macro";
        return $"({string.Join(", ", overload.Parameters.Skip(member ? 1 : 0))}) → {overload.Result}";
    }

    static string TypeOf(CelType type) => type.Name != "object" ? type.ToString() : "…";

    /// <summary>
    /// The names in scope and those of the macros around an offset: in <c>xs.filter(x, x.</c> also <c>x</c>.
    /// </summary>
    CelType Local(string text, int at)
    {
        var fields = new Dictionary<string, CelType>(names.Fields!);
        foreach (Match match in MacroStart().Matches(text[..at]))
        {
            if (!ListMacros.Contains(match.Groups[1].Value) || Closes(text, match.Index + match.Length, at))
                continue;
            var range = Expression
                .Parse(text[OperandStart(text, match.Index)..match.Index])
                .Expression?.Check(CelType.Object(fields))
                .Type;
            fields[match.Groups[2].Value] = range is { Name: "list" or "map" } ? range.Arguments[0] : CelType.Dyn;
        }
        return CelType.Object(fields);
    }

    [GeneratedRegex(@"\.(\w+)\(\s*(\w+)\s*,")]
    private static partial Regex MacroStart();

    static bool Closes(string text, int from, int to)
    {
        var depth = 1;
        for (var i = from; i < to && depth > 0; i++)
        {
            depth += text[i] switch
            {
                '(' => 1,
                ')' => -1,
                _ => 0,
            };
        }
        return depth == 0;
    }

    /// <summary>Where the operand begins that ends before a dot: names, calls, indexes and literals in a row.</summary>
    static int OperandStart(string text, int end)
    {
        var at = end;
        while (at > 0)
        {
            var c = text[at - 1];
            if (c is ')' or ']' or '}')
            {
                at = Opening(text, at - 1);
            }
            else if (c is '"' or '\'')
            {
                var opening = at >= 2 ? text.LastIndexOf(c, at - 2) : -1;
                if (opening < 0)
                    break;
                at = opening;
            }
            else if (IsWord(c) || c == '.' || (c == '?' && at > 1 && text[at - 2] == '.'))
            {
                at--;
            }
            else
            {
                break;
            }
        }
        return at;
    }

    static int Opening(string text, int closing)
    {
        var depth = 0;
        for (var i = closing; i >= 0; i--)
        {
            depth += text[i] switch
            {
                ')' or ']' or '}' => 1,
                '(' or '[' or '{' => -1,
                _ => 0,
            };
            if (depth == 0)
                return i;
        }
        return 0;
    }

    static bool InText(string text, int cursor)
    {
        char? quote = null;
        for (var i = 0; i < cursor; i++)
        {
            if (quote is not null && text[i] == '\\')
                i++;
            else if (quote is null && text[i] is '"' or '\'')
                quote = text[i];
            else if (text[i] == quote)
                quote = null;
        }
        return quote is not null;
    }
}
