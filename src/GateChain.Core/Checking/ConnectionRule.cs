using GateChain.Core.Expressions;
using GateChain.Core.Problems;

namespace GateChain.Core.Checking;

/// <summary>Connections that settings name must be declared.</summary>
sealed class ConnectionRule : ICheckRule
{
    public void Check(CheckContext context)
    {
        var (chain, workspace, problems) = context;
        if (workspace is null)
            return;
        foreach (var step in chain.AllSteps)
        {
            Check(ConnectionNames.In(step), workspace.Connections.Keys, problems);
        }
    }

    /// <summary>Adds a problem for each name that is not declared.</summary>
    public static void Check(
        IEnumerable<(string Name, Span Span)> named,
        IEnumerable<string> declared,
        ProblemList problems
    )
    {
        foreach (var (name, span) in named.Where(n => !declared.Contains(n.Name)))
        {
            problems.Add(
                ProblemKinds.UnknownConnection,
                span,
                $"there is no connection “{name}” in connections.yaml",
                Nearest.Fix(name, declared)
            );
        }
    }
}
