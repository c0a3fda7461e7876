using GateChain.Core.Expressions;
using GateChain.Core.Problems;

namespace GateChain.Core.Checking;

/// <summary>An expression must not read a step that cannot have run yet when it is computed.</summary>
sealed class OrderRule : ICheckRule
{
    public void Check(CheckContext context)
    {
        var (chain, _, problems) = context;
        foreach (var placed in context.Expressions)
        {
            var read = Walk.All(placed.At.Expression.Tree)
                .OfType<SelectExpr>()
                .Where(s => s.Operand is IdentExpr { Name: "steps" })
                .ToList();
            if (read.Count == 0)
                continue;
            foreach (var select in read.Where(s => placed.Before.Value.Any(b => b.Id == s.Field)))
            {
                problems.Add(
                    ProblemKinds.NotUpstream,
                    placed.At.Place(select.FieldSpan),
                    $"“{select.Field}” cannot have run yet when this is computed"
                );
            }
        }
    }
}
