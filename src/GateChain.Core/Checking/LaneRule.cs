using GateChain.Core.Expressions;
using GateChain.Core.Problems;

namespace GateChain.Core.Checking;

/// <summary>Lanes that steps name must be declared.</summary>
sealed class LaneRule : ICheckRule
{
    public void Check(CheckContext context)
    {
        var (chain, surroundings, problems) = context;
        if (surroundings is null)
            return;
        foreach (
            var lane in chain
                .AllSteps.Where(s => s.Lane is not null && !surroundings.Lanes.Contains(s.Lane))
                .GroupBy(s => s.Lane!)
        )
        {
            problems.Add(
                ProblemKinds.UnknownLane,
                lane.First().LaneSpan ?? lane.First().Span,
                $"there is no lane “{lane.Key}” in lanes.yaml",
                Nearest.Mend(lane.Key, surroundings.Lanes) ?? $"declare it: {lane.Key}: {{ width: 1 }}"
            );
        }
    }
}
