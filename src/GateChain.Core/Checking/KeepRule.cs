using GateChain.Core.Chains;
using GateChain.Core.Problems;

namespace GateChain.Core.Checking;

/// <summary>Of runs side by side only one can hand its values on.</summary>
sealed class KeepRule : ICheckRule
{
    public void Check(CheckContext context)
    {
        if (context.Chain is not { WhenBusy: BusyRule.Allow } chain)
            return;
        foreach (var variable in chain.Kept)
        {
            context.Problems.Add(
                ProblemKinds.KeptBesideOthers,
                variable.Span,
                $"runs of “{chain.Name}” go side by side (whenBusy: allow), and only one of them can keep "
                    + $"“{variable.Name}”: the others end with a warning",
                "add whenBusy: queue"
            );
        }
    }
}
