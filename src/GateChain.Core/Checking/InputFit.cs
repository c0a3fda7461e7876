using GateChain.Core.Chains;
using GateChain.Core.Expressions;
using GateChain.Core.Problems;

namespace GateChain.Core.Checking;

/// <summary>Whether what is given to a chain is what it takes: by a call, by a trigger.</summary>
/// <param name="kind">The kind of problem that it is when it does not fit.</param>
/// <param name="giver">Who gives it: <c>the call</c>.</param>
/// <param name="key">Where it stands: <c>inputs</c>.</param>
sealed class InputFit(ProblemKind kind, string giver, string key)
{
    /// <summary>Adds a problem for each parameter that is missing, unknown or ill-typed.</summary>
    /// <param name="chain">What takes it.</param>
    /// <param name="given">What is given.</param>
    /// <param name="scope">What the expressions can read.</param>
    /// <param name="secrets">The giver's own parameters that are secrets: only they are handed on as one.</param>
    /// <param name="place">Where a problem is told that has no place of its own.</param>
    /// <param name="problems">Gets what is wrong.</param>
    public void Check(
        ChainInterface chain,
        IReadOnlyList<NamedExpression> given,
        CelType scope,
        IReadOnlySet<string> secrets,
        Span place,
        ProblemList problems
    )
    {
        foreach (var input in given)
        {
            if (chain.Parameters.FirstOrDefault(p => p.Name == input.Name) is not { } parameter)
            {
                problems.Add(
                    kind,
                    input.Span,
                    $"“{chain.Name}” has no parameter “{input.Name}”",
                    Nearest.Fix(input.Name, chain.Parameters.Select(p => p.Name))
                );
                continue;
            }
            if (parameter.IsSecret)
            {
                if (!GivesSecret(input.Expression, secrets))
                {
                    problems.Add(
                        kind,
                        input.ExpressionAt.All,
                        $"“{input.Name}” of “{chain.Name}” is a secret, and is given by its name",
                        "write \"secret:NAME\" with its quotes, or hand on a parameter that is a secret itself"
                    );
                }
                continue;
            }
            var (type, mistakes) = input.Expression.Check(scope);
            if (mistakes.Count == 0 && !parameter.Type.Takes(type))
            {
                problems.Add(
                    kind,
                    input.ExpressionAt.All,
                    $"“{input.Name}” of “{chain.Name}” is {Article.Of(parameter.Type)}, "
                        + $"and this gives {Article.Of(type)}"
                );
            }
        }
        foreach (var missing in chain.Parameters.Where(p => p.Default is null && !given.Any(i => i.Name == p.Name)))
        {
            problems.Add(
                kind,
                place,
                $"“{chain.Name}” needs “{missing.Name}” ({missing.Type}), and {giver} does not give it",
                $"add {key}: {{ {missing.Name}: … }}"
            );
        }
    }

    static bool GivesSecret(Expression given, IReadOnlySet<string> secrets) =>
        given.Tree is LiteralExpr literal
            ? SecretNames.In(literal) is { Length: > 0 }
            : SecretParameters.NameIn(given) is { } handedOn && secrets.Contains(handedOn);
}
