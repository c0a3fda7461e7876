using GateChain.Core.Chains;
using GateChain.Core.Identity;
using GateChain.Core.Running.Events;
using GateChain.Core.Running.Machine.Control;
using GateChain.Core.Running.State;
using GateChain.Core.Values;

namespace GateChain.Core.Running.Machine;

// What ends early: a stopped run, a container whose time is up, and what a failure beside it halts.
sealed partial class Decider
{
    void StopAsked(StopInput stop)
    {
        if (state.HasEnded)
            Emit(new RecoveryCalledOff(stop.By));
        else
            StopRun(stop.By, stop.Message);
    }

    public void StopRun(Actor by, string? message, Outcome outcome = Outcome.Stopped)
    {
        if (state.IsStopping)
            return;
        Emit(new StopAsked(by, message, outcome));
        Close(state.Root, CancelReason.Stop);
        foreach (var handler in state.Handlers.Where(h => h.Scope.Unsettled > 0).ToList())
            Close(handler.Scope, CancelReason.Stop);
    }

    /// <summary>Settles what has not started as stopped and asks what runs to end.</summary>
    public void Close(ScopeState scope, CancelReason reason)
    {
        foreach (var step in scope.Steps)
        {
            if (step.IsSettled)
                continue;
            if (step.Phase != StepPhase.Running || ControlKind.Of(step.Step).EndsAtOnce)
            {
                // A run that ends well early skips what it did not need; no gate is decided by that.
                if (
                    reason == CancelReason.Stop
                    && state is { IsStopping: true, Stop.Outcome: Outcome.Succeeded }
                    && step.Phase == StepPhase.Pending
                    && !step.Scope.IsHandler
                )
                {
                    Emit(
                        new StepSettled(
                            step.Path,
                            Outcome.Skipped,
                            Value.EmptyMap,
                            Note: "not needed: the run ended before"
                        )
                    );
                    EndIfSettled(step.Scope);
                }
                else
                {
                    Settle(step, Outcome.Stopped);
                }
                continue;
            }
            if (step.Cancel is CancelReason.None or CancelReason.Halt || reason == CancelReason.Stop)
                Emit(new CancelAsked(step.Path, CancelReason.Stop));
            foreach (var inner in step.InnerScopes.Where(i => i.IterationOutcome is null))
                Close(inner, reason);
            ContinueLater(step);
        }
    }

    /// <summary>
    /// <c>onFailure: halt</c>: what has not started and does not stand behind a failure is not started any more.
    /// </summary>
    void Halt(ScopeState scope)
    {
        var allowed = new HashSet<Step>();
        foreach (var failed in scope.Steps.Where(s => s.IsCountedFailure))
        {
            foreach (
                var gate in failed.Step.Outgoing.Where(g =>
                    g.On.HasFlag(GateOutcomes.Failure)
                    || g.On.HasFlag(GateOutcomes.Skipped)
                    || g.Match == GateMatch.Either
                )
            )
            {
                allowed.UnionWith(Scopes.FromHereOn(gate.To));
            }
        }
        foreach (var step in scope.Steps.Where(s => !allowed.Contains(s.Step)))
            HaltStep(step);
    }

    void HaltStep(StepState step)
    {
        if (step.Phase is StepPhase.Pending or StepPhase.Held or StepPhase.Queued)
        {
            Settle(step, Outcome.Stopped, note: "not started: another step failed, and onFailure is halt");
        }
        else if (step.Phase == StepPhase.Running && step.InnerScopes.Any() && step.Cancel == CancelReason.None)
        {
            Emit(new CancelAsked(step.Path, CancelReason.Halt));
            foreach (
                var inner in step
                    .InnerScopes.Where(i => i.IterationOutcome is null && i.Unsettled > 0)
                    .SelectMany(i => i.Steps)
            )
            {
                HaltStep(inner);
            }
            ContinueLater(step);
        }
    }
}
