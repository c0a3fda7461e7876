using GateChain.Core.Chains;
using GateChain.Core.Running.Events;
using GateChain.Core.Running.State;
using GateChain.Core.Values;

namespace GateChain.Core.Running.Machine;

// What becomes of attempts that were running when their owner ended, and of decisions that nobody can store.
sealed partial class Decider
{
    void Suspend()
    {
        foreach (var step in state.AllSteps.Where(s => s.IsInFlight && !s.IsSuspended).ToList())
            Emit(new AttemptSuspended(step.Path, step.Attempt));
    }

    void Recover()
    {
        foreach (var step in state.AllSteps.Where(s => s.IsInFlight).ToList())
        {
            Lose(step, confirmedBy: null);
            WorkOff();
        }
    }

    void AttemptIsLost(LostInput lost)
    {
        if (state.Find(lost.Step) is { IsInFlight: true } step && step.Attempt == lost.Attempt)
            Lose(step, confirmedBy: null);
    }

    void LeftoverStays(LeftoverInput left)
    {
        if (
            state.Find(left.Step) is { IsInFlight: true } step
            && step.Attempt == left.Attempt
            && step.Leftover != left.Why
        )
        {
            Emit(new LeftoverFound(step.Path, left.Attempt, left.Why));
        }
    }

    void Lose(StepState step, string? confirmedBy)
    {
        var reason = step.Cancel;
        Emit(new AttemptLost(step.Path, step.Attempt, step.IsSuspended, confirmedBy));
        if (state.IsStopping || EnclosedInClosing(step))
        {
            Settle(step, Outcome.Stopped);
        }
        else if (reason == CancelReason.Person)
        {
            SettleCancelled(step, step.Cancelled!);
        }
        else if (reason == CancelReason.Timeout)
        {
            Fail(step, TimeoutError(step));
        }
        else if (step.Step.OnCrash == CrashRule.Fail)
        {
            Fail(step, new("crash", "the service ended while this step was at work, and onCrash is fail"));
        }
        else if (step.Step.OnCrash == CrashRule.Pause)
        {
            PauseAt(
                step,
                new(
                    "crash",
                    "the service ended while this step was at work; onCrash is pause: "
                        + "find out how far it got, then decide"
                )
            );
        }
        else if (step.Lost > step.Step.CrashLimit)
        {
            Fail(
                step,
                new(
                    "crash-limit",
                    $"the service ended {(step.Lost == 1 ? "once" : $"{step.Lost} times")} while this "
                        + $"step was at work; the limit is {step.Step.CrashLimit}"
                )
            );
        }
        else
        {
            StartAttempt(step);
        }
    }

    /// <summary>
    /// What would be decided can't be stored. The state is as the disk has it; nothing of what can't be stored happens.
    /// </summary>
    void CannotStore(UnstorableInput unstorable)
    {
        if (unstorable.Input is AttemptEndedInput ended)
        {
            if (state.Find(ended.Step) is { IsInFlight: true } step && step.Attempt == ended.Attempt)
                Fail(step, new("too-big", unstorable.Why));
            return;
        }
        if (state.HasEnded)
            return;
        // Nothing more is decided by rules that can't be written down: what runs is asked to end, and the run has
        // failed.
        foreach (var running in state.AllSteps.Where(s => s.IsInFlight).ToList())
            Emit(new CancelAsked(running.Path, CancelReason.Stop));
        Emit(new RunSettled(Outcome.Failed, Value.EmptyMap, new("too-big", unstorable.Why)));
    }
}
