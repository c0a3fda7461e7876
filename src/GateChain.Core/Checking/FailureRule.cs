using GateChain.Core.Chains;
using GateChain.Core.Problems;

namespace GateChain.Core.Checking;

/// <summary>A hint for a chain that handles some failures and not others: no failure gate from the step or a container around it, and not absorbed.</summary>
sealed class FailureRule : ICheckRule
{
    public void Check(CheckContext context)
    {
        var (chain, _, problems) = context;
        if (chain.Handlers.ContainsKey(Occasion.Failure) || chain.Handlers.ContainsKey(Occasion.End) || !chain.AllSteps.Any(IsHandled)) { return; }
        var unseen = chain.Root.AllSteps.Where(s => !s.Kind.IsControl && !Outward(s).Any(IsHandled)).ToList();
        if (unseen.Count > 0)
        {
            problems.Add(ProblemKinds.FailureUnseen, unseen[0].Span, $"other failures are handled, but nothing looks at a failure of {string.Join(", ", unseen.Select(s => s.Id))}");
        }
    }

    static bool IsHandled(Step step) => step.IfFails != Chains.FailureRule.Fail || step.Outgoing.Any(g => g.On.HasFlag(GateOutcomes.Failure));

    static IEnumerable<Step> Outward(Step step)
    {
        for (Step? at = step; at is not null; at = at.Scope.Owner) { yield return at; }
    }
}
