using GateChain.Core.Expressions;
using GateChain.Core.Problems;

namespace GateChain.Core.Checking;

/// <summary>
/// What is read of <c>event</c> is asked for first: there is none when a person or another chain starts the run.
/// </summary>
sealed class EventRule : ICheckRule
{
    public void Check(CheckContext context)
    {
        foreach (var placed in context.Expressions)
        {
            var read = Walk.All(placed.At.Expression.Tree)
                .OfType<SelectExpr>()
                .Where(s => !s.Optional && IsEvent(s.Operand))
                .ToList();
            var asked = read.Where(s => s.Test).Select(s => s.Field).ToHashSet();
            foreach (var select in read.Where(s => !s.Test && !asked.Contains(s.Field)))
            {
                context.Problems.Add(
                    ProblemKinds.EventMayBeAbsent,
                    placed.At.Place(select.Span),
                    $"there is no event when no trigger starts the run, and then this fails",
                    $"write event.?{select.Field}.orValue(…), or ask with has(event.{select.Field})"
                );
            }
        }
    }

    static bool IsEvent(Expr expression) =>
        expression
            is IdentExpr { Name: "event" }
                or SelectExpr { Field: "event", Test: false, Optional: false, Operand: IdentExpr { Name: "run" } };
}
