using GateChain.Core.Chains;
using GateChain.Core.Identity;
using GateChain.Core.Running.Events;
using GateChain.Core.Running.State;

namespace GateChain.Core.Running.Machine;

// Runs that try a part of a chain, and pause where they were told to.
sealed partial class Decider
{
    /// <summary>What the try says of a step; null when its gates decide.</summary>
    JoinVerdict? TriedVerdict(StepState step)
    {
        switch (state.PartOf(step))
        {
            case Part.Begun:
                return JoinVerdict.Release;
            case Part.LeftOut:
                Settle(step, Outcome.Skipped, note: "left out of this try");
                return JoinVerdict.Wait;
            case Part.Taken:
                var taken = state.Try!.TakenFor(step.Step.Id)!;
                var note = taken.Run is { } run
                    ? $"taken from run {run} for this try"
                    : "taken as succeeded for this try, without outputs";
                Settle(
                    step,
                    taken.Outcome,
                    taken.Outputs,
                    taken.Outcome == Outcome.Failed ? new(StepError.Taken, note) : null,
                    note
                );
                return JoinVerdict.Wait;
            default:
                return null;
        }
    }

    bool PausesBefore(StepState step)
    {
        if (
            state.Try is not { } tried
            || step.GoesOn
            || state.PausedBefore.Contains(step.Path)
            || !tried.PauseBefore.Contains(step.Step.Address)
        )
        {
            return false;
        }
        Emit(new PauseAsked(Actor.Trying, $"before {step.Path}, as the try was told to", step.Path));
        return true;
    }
}
