using GateChain.Core.Chains;
using GateChain.Core.Expressions;
using GateChain.Core.Problems;

namespace GateChain.Core.Checking;

/// <summary>Assignments go to declared variables and fit their types.</summary>
sealed class AssignRule : ICheckRule
{
    public void Check(CheckContext context)
    {
        var (chain, _, problems) = context;
        foreach (var step in chain.AllSteps)
        {
            var variables = Scopes.Outward(step.Scope).SelectMany(s => s.Variables).ToList();
            foreach (var assignment in step.Assignments)
            {
                var name = assignment.Name.StartsWith("vars.", StringComparison.Ordinal) ? assignment.Name[5..] : null;
                var variable = variables.Find(v => v.Name == name);
                if (variable is null)
                {
                    problems.Add(
                        ProblemKinds.BadAssign,
                        assignment.Span,
                        $"“{assignment.Name}” is not a variable",
                        Nearest.Fix(
                            name is null ? "vars." + assignment.Name : assignment.Name,
                            variables.Select(v => "vars." + v.Name)
                        ) ?? "declare it under vars, and write vars.<name>"
                    );
                    continue;
                }
                var (type, mistakes) = assignment.Expression.Check(
                    context.Names.In(step.Scope, ("result", Names.ResultOf(step)))
                );
                if (mistakes.Count == 0 && !variable.Type.Takes(type))
                {
                    problems.Add(
                        ProblemKinds.WrongType,
                        assignment.ExpressionAt.All,
                        $"“{variable.Name}” is {Article.Of(variable.Type)}, and this gives {Article.Of(type)}"
                    );
                }
            }
        }
    }
}
