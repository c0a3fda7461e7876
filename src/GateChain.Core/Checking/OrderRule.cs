using GateChain.Core.Chains;
using GateChain.Core.Expressions;
using GateChain.Core.Problems;

namespace GateChain.Core.Checking;

/// <summary>An expression must not read a step that cannot have run yet when it is computed.</summary>
sealed class OrderRule : ICheckRule
{
    public void Check(Chain chain, Surroundings? surroundings, ProblemList problems)
    {
        foreach (var placed in PlacedExpressions.Of(chain))
        {
            var read = Walk.All(placed.At.Expression.Tree).OfType<SelectExpr>().Where(s => s.Operand is IdentExpr { Name: "steps" }).ToList();
            if (read.Count == 0) { continue; }
            var before = placed.Before().Select(s => s.Id).ToHashSet();
            foreach (var select in read.Where(s => before.Contains(s.Field)))
            {
                problems.Add(ProblemKinds.NotUpstream, placed.At.Place(select.FieldSpan), $"“{select.Field}” cannot have run yet when this is computed");
            }
        }
    }
}
