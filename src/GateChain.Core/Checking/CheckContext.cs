using GateChain.Core.Chains;
using GateChain.Core.Problems;

namespace GateChain.Core.Checking;

/// <summary>What the rules look at while one chain is checked: gathered once, used by all of them.</summary>
sealed class CheckContext(Chain chain, WorkspaceContext? workspace, ProblemList problems)
{
    public Chain Chain => chain;

    /// <summary>What stands beside the chain; null leaves out the checks that need it.</summary>
    public WorkspaceContext? Workspace => workspace;

    public ProblemList Problems => problems;

    public Names Names { get; } = new(chain, workspace);

    /// <summary>All expressions of the chain.</summary>
    public IReadOnlyList<PlacedExpression> Expressions => field ??= [.. new PlacedExpressions(chain, Names).All()];

    /// <summary>To be called by rules between pieces of work that may take long.</summary>
    /// <exception cref="OperationCanceledException">The check has taken long enough.</exception>
    public void ThrowIfTimeIsUp() => workspace?.Cancel.ThrowIfCancellationRequested();

    public void Deconstruct(out Chain checkedChain, out WorkspaceContext? beside, out ProblemList found) =>
        (checkedChain, beside, found) = (chain, workspace, problems);
}
