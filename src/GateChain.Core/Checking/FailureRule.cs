using GateChain.Core.Chains;
using GateChain.Core.Problems;

namespace GateChain.Core.Checking;

/// <summary>A hint for steps whose failure nobody handles: no failure gate from the step or a container around it, and not absorbed.</summary>
sealed class FailureRule : ICheckRule
{
    public void Check(Chain chain, Surroundings? surroundings, ProblemList problems)
    {
        var handledAnywhere = chain.AllSteps.Any(IsHandled);
        foreach (var step in chain.AllSteps.Where(s => !s.Kind.IsControl && handledAnywhere))
        {
            if (!Outward(step).Any(IsHandled))
            {
                problems.Add(ProblemKinds.FailureUnseen, step.Span, $"nothing looks at a failure of “{step.Id}”, while other failures are handled");
            }
        }
    }

    static bool IsHandled(Step step) => step.IfFails == Chains.FailureRule.Absorb || step.Outgoing.Any(g => g.On.HasFlag(GateOutcomes.Failure));

    static IEnumerable<Step> Outward(Step step)
    {
        for (Step? at = step; at is not null; at = at.Scope.Owner) { yield return at; }
    }
}
