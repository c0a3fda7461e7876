using GateChain.Core.Chains;
using GateChain.Core.Chains.Kinds;
using GateChain.Core.Running.Events;
using GateChain.Core.Running.State;

namespace GateChain.Core.Running.Machine;

// What ends early: a stopped run, a container whose time is up, and what a failure beside it halts.
sealed partial class Decider
{
    void StopAsked(StopInput stop)
    {
        if (state.HasEnded && state.ResumeAt is not null) { Emit(new RecoveryCalledOff(stop.By)); }
        else if (!state.HasEnded && !state.IsStopping) { StopRun(stop.By, stop.Message); }
    }

    void StopRun(string by, string? message)
    {
        Emit(new StopAsked(by, message));
        Close(state.Root, CancelReason.Stop);
        foreach (var handler in state.Handlers.Where(h => h.Scope.Unsettled > 0).ToList()) { Close(handler.Scope, CancelReason.Stop); }
    }

    /// <summary>Settles what has not started as stopped and asks what runs to end.</summary>
    void Close(ScopeState scope, CancelReason reason)
    {
        foreach (var step in scope.Steps)
        {
            if (step.IsSettled) { continue; }
            if (step.Phase != StepPhase.Running || step.Step.Kind.Name == ControlKinds.Wait)
            {
                Settle(step, Outcome.Stopped);
                continue;
            }
            if (step.Cancel is CancelReason.None or CancelReason.Halt || reason == CancelReason.Stop) { Emit(new CancelAsked(step.Path, CancelReason.Stop)); }
            foreach (var inner in step.InnerScopes.Where(i => i.IterationOutcome is null)) { Close(inner, reason); }
            EndIfEmpty(step);
        }
    }

    /// <summary><c>onFailure: halt</c>: what has not started and does not stand behind a failure is not started any more.</summary>
    void Halt(ScopeState scope)
    {
        var allowed = new HashSet<Step>();
        foreach (var failed in scope.Steps.Where(s => s.IsCountedFailure))
        {
            foreach (var gate in failed.Step.Outgoing.Where(g => g.On.HasFlag(GateOutcomes.Failure) || g.On.HasFlag(GateOutcomes.Skipped) || g.Match == GateMatch.Either))
            {
                allowed.UnionWith(Scopes.FromHereOn(gate.To));
            }
        }
        foreach (var step in scope.Steps.Where(s => !allowed.Contains(s.Step))) { HaltStep(step); }
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
            foreach (var inner in step.InnerScopes.Where(i => i.IterationOutcome is null && i.Unsettled > 0).SelectMany(i => i.Steps)) { HaltStep(inner); }
            EndIfEmpty(step);
        }
    }
}
