using GateChain.Core.Chains;
using GateChain.Core.Running.Events;
using GateChain.Core.Running.Machine.Control;
using GateChain.Core.Running.State;

namespace GateChain.Core.Running.Machine;

// A person ends one step, or one iteration; the rest of the run goes on.
sealed partial class Decider
{
    void Cancel(CancelInput cancel)
    {
        var iteration = state.Find(cancel.Step) is null ? state.FindScopeOrNull(cancel.Step) : null;
        var step = iteration?.Owner ?? state.Find(cancel.Step)!;
        var order = new StepCancelled(
            step.Path,
            cancel.As,
            cancel.By,
            cancel.Outputs,
            cancel.Message,
            iteration?.Index
        );
        Emit(order);
        if (iteration is not null)
        {
            Close(iteration, CancelReason.Person);
            // When nothing in it has to come to its end, it ends at once.
            EndIfSettled(iteration);
        }
        else if (step.Phase != StepPhase.Running || ControlKind.Of(step.Step).EndsAtOnce)
        {
            SettleCancelled(step, order);
        }
        else
        {
            Emit(new CancelAsked(step.Path, CancelReason.Person));
            foreach (var inner in step.InnerScopes.Where(i => i.IterationOutcome is null))
                Close(inner, CancelReason.Person);
            ContinueLater(step);
        }
    }

    /// <summary>All in a cancelled step has ended: it settles as the person said.</summary>
    /// <param name="step">The step.</param>
    /// <param name="order">What was said.</param>
    /// <param name="result">What its work gave all the same; null when there is nothing.</param>
    void SettleCancelled(StepState step, StepCancelled order, AttemptResult? result = null)
    {
        // Whoever cancels something needs to know that it has happened all the same.
        var meanwhile = result is { Succeeded: true } ? "; its work had succeeded before it could be ended" : "";
        switch (order.As)
        {
            case Outcome.Succeeded:
                SettleByHand(step, order.Outputs, $"counts as succeeded, {order.Sentence}{meanwhile}");
                break;
            case Outcome.Skipped:
                Settle(step, Outcome.Skipped, note: $"{order.Sentence}{meanwhile}");
                break;
            default:
                Fail(step, new("cancelled", $"{order.Sentence}{meanwhile}"), result?.Outputs, result?.Warnings);
                break;
        }
    }
}
