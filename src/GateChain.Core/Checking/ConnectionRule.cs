using GateChain.Core.Expressions;
using GateChain.Core.Problems;

namespace GateChain.Core.Checking;

/// <summary>Connections that settings name must be declared.</summary>
sealed class ConnectionRule : ICheckRule
{
    public void Check(CheckContext context)
    {
        var (chain, surroundings, problems) = context;
        if (surroundings is null)
            return;
        foreach (var step in chain.AllSteps)
        {
            foreach (var (name, span) in ConnectionNames.In(step))
            {
                if (!surroundings.Connections.ContainsKey(name))
                {
                    problems.Add(
                        ProblemKinds.UnknownConnection,
                        span,
                        $"there is no connection “{name}” in connections.yaml",
                        Nearest.Mend(name, surroundings.Connections.Keys)
                    );
                }
            }
        }
    }
}
