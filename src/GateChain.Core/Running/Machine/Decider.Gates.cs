using GateChain.Core.Chains;
using GateChain.Core.Running.Events;
using GateChain.Core.Running.State;
using GateChain.Core.Values;

namespace GateChain.Core.Running.Machine;

// Gates are decided when their source settles, once and for good.
sealed partial class Decider
{
    void DecideGate(StepState source, Gate gate)
    {
        var target = source.Scope.Steps[gate.To.Index];
        if (source.Outcome != Outcome.Stopped)
        {
            var (open, reason) = Test(source, gate);
            Emit(new GateDecided(source.Scope.Path, gate.Index, open, reason));
            // A step that a try begins, takes or leaves out does not depend on its gates.
            if (reason?.Error is not null && state.PartOf(target) == Part.Done)
            {
                GateInError(source, gate, target, reason.Error);
                return;
            }
        }
        if (target.Phase == StepPhase.Pending)
            _work.Enqueue(new(WorkKind.Look, target, null));
    }

    (bool Open, GateReason? Reason) Test(StepState source, Gate gate)
    {
        var admitted = gate.Admits(source.Outcome);
        if (gate.IsElse)
            return admitted ? TestElse(source) : (false, null);
        if (gate.When is null)
            return (admitted, null);
        if (gate.Match == GateMatch.Both && !admitted)
            return (false, null);
        if (gate.Match == GateMatch.Either && admitted)
            return (true, null);
        // A decide that is disabled, or was settled by hand without a branch, took none.
        if (gate.Branch is not null && source.Outputs.AsMap.Find("branch") is null)
            return (false, null);
        var (value, parts) = gate.When.Expression.EvaluateExplained(Names(source.Scope));
        return value.Kind == ValueKind.Bool
            ? (value.AsBool, new(parts))
            : (false, new(parts, ExpressionExplanation.Of(gate.When.Expression, parts, value)));
    }

    // Its siblings have been decided before: else gates stand last among a step's gates.
    static (bool Open, GateReason? Reason) TestElse(StepState source)
    {
        var isOpen = true;
        foreach (var sibling in source.Step.Outgoing.Where(g => g.CountsForElse(source.Outcome)))
        {
            var decided = source.Scope.Gates[sibling.Index];
            if (decided.Reason?.Error is { } error)
                return (false, new([], $"the gate to {sibling.To.Id} can't be either: {error}"));
            isOpen &= decided.Phase != GatePhase.Open;
        }
        return (isOpen, null);
    }

    // An expression that gives an error is never taken for false.
    void GateInError(StepState source, Gate gate, StepState target, string why)
    {
        var sentence = $"the gate from {source.Step.Id} can't be decided: {why}";
        if (target.Phase == StepPhase.Pending)
            Fail(target, new("gate", sentence, gate.When?.Expression.Text));
        else if (!target.IsSettled || (target.Outcome is not Outcome.Stopped && target.Leg == state.Leg))
            Emit(new RunWarned(target.Path, sentence));
    }
}
