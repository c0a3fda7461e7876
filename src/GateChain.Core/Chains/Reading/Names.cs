using GateChain.Core.Chains.Source;
using GateChain.Core.Problems;

namespace GateChain.Core.Chains.Reading;

/// <summary>The rules for names.</summary>
static class Names
{
    public static void Check(ScalarNode name, ProblemList problems, string what)
    {
        if (!IsName(name.Text))
        {
            problems.Add(ProblemKinds.BadName, name.Span, $"the name of {what} begins with a letter and holds letters, digits and _; this is “{name.Text}”");
        }
    }

    /// <summary>Whether steps, variables, parameters and the like can be called so.</summary>
    public static bool IsName(string name) => name.Length is > 0 and <= 100 && char.IsAsciiLetter(name[0]) && name.All(c => char.IsAsciiLetterOrDigit(c) || c == '_');

    public static bool IsChainName(string name) =>
        name.Length is > 0 and <= 100 && char.IsAsciiLetter(name[0]) && name.All(c => char.IsAsciiLetterOrDigit(c) || c == '-');
}
