using GateChain.Core.Expressions;
using GateChain.Core.Problems;

namespace GateChain.Core.Checking;

/// <summary>Expressions use known names, operands that fit, and give the type that is asked for.</summary>
sealed class ExpressionRule : ICheckRule
{
    public void Check(CheckContext context)
    {
        var (chain, _, problems) = context;
        foreach (var placed in context.Expressions)
        {
            context.ThrowIfTimeIsUp();
            var (type, mistakes) = placed.At.Expression.Check(placed.Scope);
            foreach (var mistake in mistakes)
            {
                problems.Add(
                    ProblemKinds.UnknownName,
                    placed.At.Place(mistake.Span),
                    mistake.Said,
                    placed.Before.FixOf(mistake)
                );
            }

            // An int stands where a double is asked for; settings of text take any scalar, as text with parts in it
            // does.
            var fits =
                placed.Wanted.Takes(type)
                || (placed.Wanted.Name == "string" && type.Name is not ("list" or "map" or "bytes" or "object"));
            if (mistakes.Count == 0 && !fits)
            {
                problems.Add(
                    ProblemKinds.WrongType,
                    placed.At.All,
                    $"{placed.Use} is {Article.Of(placed.Wanted)}, and this gives {Article.Of(type)}"
                );
            }
        }
    }
}
