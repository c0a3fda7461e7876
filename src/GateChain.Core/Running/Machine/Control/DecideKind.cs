using GateChain.Core.Chains;
using GateChain.Core.Running.Events;
using GateChain.Core.Running.State;
using GateChain.Core.Values;

namespace GateChain.Core.Running.Machine.Control;

/// <summary><c>decide</c>: the first branch that holds.</summary>
sealed class DecideKind : ControlKind
{
    public override void Start(Decider run, StepState step, Value inputs, DateTimeOffset? due)
    {
        run.Begin(step, inputs, null);
        var looks = new List<BranchLook>();
        foreach (var branch in step.Step.Branches)
        {
            var (value, parts) = branch.When is null
                ? (Value.True, [])
                : branch.When.Expression.EvaluateExplained(run.Names(step.Scope));
            if (value.IsError || value.Kind != ValueKind.Bool)
            {
                looks.Add(new(branch.Name, false, parts));
                run.Fail(
                    step,
                    new(
                        "expression",
                        $"branch “{branch.Name}”: {ExpressionExplanation.Of(branch.When!.Expression, parts, value)}",
                        branch.When.Expression.Text
                    ),
                    looks: looks
                );
                return;
            }
            looks.Add(new(branch.Name, value.AsBool, parts));
            if (value.AsBool)
            {
                run.Settle(step, Outcome.Succeeded, Value.Map(("branch", Value.String(branch.Name))), looks: looks);
                return;
            }
        }
        run.Fail(step, new("no-branch", "none of the branches holds"), looks: looks);
    }
}
