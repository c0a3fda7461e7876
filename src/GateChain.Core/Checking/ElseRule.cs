using GateChain.Core.Chains;
using GateChain.Core.Problems;

namespace GateChain.Core.Checking;

/// <summary>An else gate stands for “none of the others”, so there should be others with a condition.</summary>
sealed class ElseRule : ICheckRule
{
    public void Check(CheckContext context)
    {
        foreach (var gate in Scopes.All(context.Chain).SelectMany(s => s.Gates))
        {
            if (!gate.IsElse || gate.From.Outgoing.Any(g => g.When is not null))
                continue;
            context.Problems.Add(
                ProblemKinds.LoneElse,
                gate.Span,
                $"the else gate from “{gate.From.Id}” to “{gate.To.Id}” opens whenever its outcome fits: "
                    + $"no other gate of this step has a condition"
            );
        }
    }
}
