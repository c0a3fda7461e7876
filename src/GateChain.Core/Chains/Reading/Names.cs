using GateChain.Core.Chains.Source;
using GateChain.Core.Problems;

namespace GateChain.Core.Chains.Reading;

/// <summary>The rules for names.</summary>
static class Names
{
    /// <summary>The names that mean something in every expression somewhere; nothing else can be called so.</summary>
    public static IReadOnlyList<string> Reserved { get; } =
    [
        "params",
        "vars",
        "steps",
        "profile",
        "run",
        "now",
        "item",
        "index",
        "round",
        "event",
        "result",
        "error",
        "probes",
        "row",
        "bind",
    ];

    public static void Check(ScalarNode name, ProblemList problems, string what)
    {
        if (name.Text is "true" or "false" or "null")
        {
            problems.Add(
                ProblemKinds.BadName,
                name.Span,
                $"“{name.Text}” is a word of the expression language: nothing could read {what} of that name"
            );
        }

        if (!IsName(name.Text))
        {
            problems.Add(
                ProblemKinds.BadName,
                name.Span,
                $"the name of {what} begins with a letter and holds letters, digits and _; this is “{name.Text}”"
            );
        }
    }

    /// <summary>Names of what is never read by expressions: calendars, triggers.</summary>
    public static void Identifier(ScalarNode name, ProblemList problems, string what)
    {
        if (
            name.Text.Length is 0 or > 100
            || !char.IsAsciiLetter(name.Text[0])
            || !name.Text.All(c => char.IsAsciiLetterOrDigit(c) || c is '_' or '-')
        )
        {
            problems.Add(
                ProblemKinds.BadName,
                name.Span,
                $"the name of {what} begins with a letter and holds letters, digits, - and _; this is “{name.Text}”"
            );
        }
    }

    /// <summary>The name that a loop gives to what it goes through; null for none.</summary>
    public static string? Loop(MapReader map)
    {
        if (map.Scalar("as") is not { } name)
            return null;
        Check(name, map.Problems, "a loop's item");
        if (
            Reserved.Contains(name.Text)
            || (Expressions.CelType.FileNames.Contains(name.Text) && name.Text != "decimal")
        )
        {
            map.Problems.Add(
                ProblemKinds.BadName,
                name.Span,
                $"“{name.Text}” means something else in expressions; call the loop's item otherwise"
            );
        }
        return name.Text;
    }

    /// <summary>Whether steps, variables, parameters and the like can be called so.</summary>
    public static bool IsName(string name) =>
        name.Length is > 0 and <= 100
        && char.IsAsciiLetter(name[0])
        && name.All(c => char.IsAsciiLetterOrDigit(c) || c == '_');

    public static bool IsChainName(string name) =>
        name.Length is > 0 and <= 100
        && char.IsAsciiLetter(name[0])
        && name.All(c => char.IsAsciiLetterOrDigit(c) || c == '-');
}
