using GateChain.Core.Chains;
using GateChain.Core.Running.Events;
using GateChain.Core.Running.Machine.Control;
using GateChain.Core.Running.State;
using GateChain.Core.Values;

namespace GateChain.Core.Running.Machine;

// A new leg continues from the checkpoint.
sealed partial class Decider
{
    void Resume(ResumeInput resume)
    {
        var chain = resume.Release is { } release ? state.ChainOf(release) : null;
        var plan = ResumePlan.For(state, resume.Selection(chain));
        var inChildren = resume.From.Where(p => state.Find(p) is null).ToList();
        Emit(
            new LegStarted(
                state.Leg + 1,
                resume.By,
                Value.Map(DictionaryMap.Of(resume.Params)),
                Value.Map(DictionaryMap.Of(resume.Vars)),
                plan.Reset,
                plan.Reopened,
                resume.Skip,
                resume.Settle,
                plan.Undecided,
                plan.Redo,
                inChildren,
                resume.Release,
                resume.Automatic,
                resume.Queued,
                resume.Release is null ? null : resume.Number
            )
        );
        if (!resume.Queued)
            ContinueInLeg();
    }

    void ContinueInLeg()
    {
        var leg = state.Resumes[^1];
        if (leg.Release is not null)
        {
            DecideAnew(state.Root);
        }
        else
        {
            foreach (var gate in leg.Undecided)
                DecideAgain(gate);
        }
        Continue(state.Root);
    }

    void DecideAgain(GateName gate)
    {
        var scope = state.FindScope(gate.Scope);
        var definition = scope.Scope.Gates[gate.Gate];
        DecideGate(scope.Steps[definition.From.Index], definition);
    }

    /// <summary>
    /// In another release the gates of kept steps may be others: all of them are decided as that release has them.
    /// </summary>
    void DecideAnew(ScopeState scope)
    {
        foreach (var step in scope.Steps)
        {
            if (step.IsSettled)
            {
                foreach (var gate in step.Step.Outgoing)
                    DecideGate(step, gate);
            }
            else
            {
                foreach (var inner in step.InnerScopes.Where(i => i.IterationOutcome != Outcome.Succeeded))
                    DecideAnew(inner);
            }
        }
    }

    /// <summary>Continues with every step of a scope that the leg has reset, or that a pause has held back.</summary>
    /// <param name="scope">The scope.</param>
    /// <param name="afterPause">Whether what waits on its threshold is asked about again; what changed during a pause
    /// was not heard.</param>
    public void Continue(ScopeState scope, bool afterPause = true)
    {
        foreach (var step in scope.Steps)
        {
            switch (step.Phase)
            {
                case StepPhase.Pending:
                    _work.Enqueue(new(WorkKind.Look, step, null));
                    break;
                case StepPhase.Queued when afterPause && !IsBlockedByPause(step):
                    Emit(new StepQueued(step.Path, step.Step.Lane!));
                    break;
                case StepPhase.Held
                    when step is { IsLooking: false, Hold.Latest.Verdict: Verdict.Proceed } && !IsBlockedByPause(step):
                    Enter(step);
                    break;
                case StepPhase.Held
                    when afterPause
                        && step is { IsLooking: false, Hold.Latest.Verdict: Verdict.Hold }
                        && !IsBlockedByPause(step):
                    AskGuard(step, woken: true);
                    break;
                case StepPhase.Running:
                    ContinueInside(step, afterPause);
                    break;
                default:
                    break;
            }
        }
        EndIfSettled(scope);
    }

    void ContinueInside(StepState step, bool afterPause = true)
    {
        if (step.Inner is not null)
            Continue(step.Inner, afterPause);
        foreach (var iteration in step.Each?.Opened.Where(i => i is { IsOpen: true }) ?? [])
            Continue(iteration!, afterPause);
        if (step.Repeat?.Current is { } round)
            Continue(round, afterPause);
        ContinueLater(step);
    }

    /// <summary>A container or call of an earlier leg continues with what is settled in it.</summary>
    void Reopen(StepState step)
    {
        var inputs = (Value?)null;
        if (step.Step.Call is not null)
        {
            (var computed, var error) = CallKind.Inputs(this, step);
            if (error is not null)
            {
                Fail(step, error);
                return;
            }
            inputs = computed;
        }
        Emit(new ContainerReopened(step.Path, inputs, step.Step.Timeout is { } timeout ? at + timeout : null));
        ContinueInside(step);
    }

    /// <summary>
    /// Whether a step has to wait for one that is done again in each leg; when that failed, the step is passed over.
    /// </summary>
    bool WaitsForRedo(StepState step)
    {
        foreach (var redo in state.Redo)
        {
            if (redo.Scope != step.Scope || redo == step || !Scopes.FromHereOn(redo.Step).Contains(step.Step))
                continue;
            if (!redo.IsSettled)
                return true;
            if (redo.Outcome == Outcome.Succeeded)
                continue;
            Settle(
                step,
                Outcome.Skipped,
                note: $"not done: “{redo.Step.Id}”, which runs again in each leg, {redo.Word}"
            );
            return true;
        }
        return false;
    }
}
