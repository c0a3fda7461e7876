using GateChain.Core.Chains;
using GateChain.Core.Problems;

namespace GateChain.Core.Checking;

/// <summary>
/// A step or variable must not bear the name of one in an enclosing scope: expressions could not reach it.
/// </summary>
sealed class ShadowRule : ICheckRule
{
    public void Check(CheckContext context)
    {
        var (chain, _, problems) = context;
        foreach (var scope in Scopes.All(chain))
        {
            var outer = Scopes.Outward(scope).Skip(1).ToList();
            foreach (var step in scope.Steps.Where(s => outer.Exists(o => o.Find(s.Id) is not null)))
                problems.Add(ProblemKinds.Shadowed, step.Span, $"a step around this one is already called “{step.Id}”");

            foreach (
                var variable in scope.Variables.Where(v => outer.Exists(o => o.Variables.Any(w => w.Name == v.Name)))
            )
            {
                problems.Add(
                    ProblemKinds.Shadowed,
                    variable.Span,
                    $"a variable of an enclosing scope is already called “{variable.Name}”"
                );
            }

            if (scope.Owner is not { LoopName: { } loop } owner)
                continue;
            if (Scopes.Outward(owner.Scope).Any(s => s.Owner?.LoopName == loop))
            {
                problems.Add(
                    ProblemKinds.Shadowed,
                    owner.Span,
                    $"a loop around this one already calls its item “{loop}”"
                );
            }
            if (Scopes.Outward(scope).Any(s => s.Find(loop) is not null))
            {
                problems.Add(
                    ProblemKinds.Shadowed,
                    owner.Span,
                    $"the loop calls its item “{loop}”, and a step is called so too"
                );
            }
        }
    }
}
