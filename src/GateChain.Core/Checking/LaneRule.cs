using GateChain.Core.Expressions;
using GateChain.Core.Problems;

namespace GateChain.Core.Checking;

/// <summary>Lanes that steps name must be declared.</summary>
sealed class LaneRule : ICheckRule
{
    public void Check(CheckContext context)
    {
        var (chain, workspace, problems) = context;
        if (workspace is null)
            return;
        foreach (
            var lane in chain
                .AllSteps.Where(s => s.Lane is not null && !workspace.Lanes.Contains(s.Lane))
                .GroupBy(s => s.Lane!)
        )
        {
            problems.Add(
                ProblemKinds.UnknownLane,
                lane.First().LaneSpan ?? lane.First().Span,
                $"there is no lane “{lane.Key}” in lanes.yaml",
                Nearest.Fix(lane.Key, workspace.Lanes) ?? $"declare it: {lane.Key}: {{ width: 1 }}"
            );
        }
    }
}
