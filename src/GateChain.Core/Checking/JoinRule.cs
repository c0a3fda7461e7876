using GateChain.Core.Chains;
using GateChain.Core.Problems;

namespace GateChain.Core.Checking;

/// <summary>A join must be able to be satisfied by the gates that lead to its step.</summary>
sealed class JoinRule : ICheckRule
{
    public void Check(Chain chain, Surroundings? surroundings, ProblemList problems)
    {
        foreach (var step in chain.AllSteps)
        {
            if (step.Join.Mode == JoinMode.Count && step.Join.Needed > step.Incoming.Count)
            {
                problems.Add(ProblemKinds.BadJoin, step.Span, $"“{step.Id}” waits for {step.Join.Needed} open gates, and only {step.Incoming.Count} lead to it");
            }
            if (step.Join.Mode != JoinMode.All) { continue; }
            foreach (var from in step.Incoming.GroupBy(g => g.From).Where(g => g.Count() > 1))
            {
                var common = from.Aggregate(GateOutcomes.Always, (all, g) => all & (g.Match == GateMatch.Either ? GateOutcomes.Always : g.On));
                var branches = from.Select(g => g.Branch).OfType<string>().Distinct().Count();
                if (common == GateOutcomes.None || branches > 1)
                {
                    problems.Add(ProblemKinds.BadJoin, step.Span,
                        $"“{step.Id}” waits for all gates, and those from “{from.Key.Id}” can never all open", "use join: any or join: some");
                }
            }
        }
    }
}
