using GateChain.Core.Chains;
using GateChain.Core.Problems;

namespace GateChain.Core.Checking;

/// <summary>
/// A hint for a chain that handles some failures and not others: no failure gate from the step or a container around
/// it, and not absorbed.
/// </summary>
sealed class FailureRule : ICheckRule
{
    const int Named = 8;

    public void Check(CheckContext context)
    {
        var (chain, _, problems) = context;
        if (
            chain.Handlers.ContainsKey(Occasion.Failure)
            || chain.Handlers.ContainsKey(Occasion.End)
            || !chain.AllSteps.Any(IsHandled)
        )
        {
            return;
        }
        var unseen = chain
            .Root.AllSteps.Where(s => !s.Kind.IsControl && !Outward(s).Any(IsHandled))
            .Where(s => !chain.IsQuiet(ProblemKinds.FailureUnseen, s))
            .ToList();
        if (unseen.Count > 0)
        {
            problems.Add(
                ProblemKinds.FailureUnseen,
                unseen[0].Span,
                $"other failures are handled, but nothing looks at a failure of {Few(unseen)}"
            );
        }
    }

    // The first of them say what is meant; of a thousand nobody reads all.
    static string Few(List<Step> steps) =>
        string.Join(", ", steps.Take(Named).Select(s => s.Id))
        + (steps.Count > Named ? $" and {steps.Count - Named} more" : "");

    static bool IsHandled(Step step) =>
        step.IfFails != Chains.FailureRule.Fail || step.Outgoing.Any(g => g.On.HasFlag(GateOutcomes.Failure));

    static IEnumerable<Step> Outward(Step step)
    {
        for (Step? at = step; at is not null; at = at.Scope.Owner)
            yield return at;
    }
}
