using GateChain.Core.Chains;
using GateChain.Core.Expressions;
using GateChain.Core.Problems;

namespace GateChain.Core.Checking;

/// <summary>
/// A parameter that is a secret stands by itself where a secret may: elsewhere it would only be a secret's name.
/// </summary>
sealed class SecretParameterRule : ICheckRule
{
    public void Check(CheckContext context)
    {
        var (chain, _, problems) = context;
        var secrets = SecretParameters.Of(chain);
        if (secrets.Count == 0)
            return;
        // A call's input is looked at beside what its child takes.
        var allowed = chain
            .AllSteps.SelectMany(s =>
                SecretSettings.Places(s).Concat(s.Call is { } call ? call.Inputs.Where(Fits(call)).Select(Of) : [])
            )
            .ToHashSet();
        foreach (var placed in context.Expressions)
        {
            if (SecretParameters.NameIn(placed.At.Expression) is not null && allowed.Contains(placed.At.Expression))
                continue;
            foreach (
                var mention in Walk.All(placed.At.Expression.Tree)
                    .Where(e => SecretParameters.NameIn(e) is { } name && secrets.Contains(name))
            )
            {
                problems.Add(
                    ProblemKinds.MisplacedSecret,
                    placed.At.Place(mention.Span),
                    $"“{SecretParameters.NameIn(mention)!}” is a secret: here it would only be the name of one",
                    "let it be a whole entry of headers or env, or hand it to a child's parameter that is a secret"
                );
            }
        }
    }

    static Func<NamedExpression, bool> Fits(CallRule call) =>
        input => call.Target is null || call.Target.Parameters.Any(p => p.Name == input.Name && p.IsSecret);

    static Expression Of(NamedExpression input) => input.Expression;
}
