using GateChain.Core.Chains;
using GateChain.Core.Running.State;
using GateChain.Core.Values;

namespace GateChain.Core.Running.Machine.Control;

/// <summary><c>group</c>: its steps, once.</summary>
sealed class GroupKind : ControlKind
{
    public override void Start(Decider run, StepState step, Value inputs, DateTimeOffset? due)
    {
        run.Begin(step, inputs, due);
        run.OpenScope(step.Inner!);
    }

    public override void ScopeEnded(Decider run, StepState step, ScopeState scope)
    {
        if (step.Phase != StepPhase.Running || step.Inner != scope)
            return;
        if (step.IsEnding)
            run.EndAttempt(step, AttemptResult.Fail("stopped", "ended early"));
        else if (scope.CountedFailures > 0)
            run.EndAttempt(step, new(Value.EmptyMap, run.FailureOf(scope)));
        else if (scope.Steps.Any(s => s.Outcome == Outcome.Stopped))
            run.SettleStopped(step, scope);
        else
            run.EndAttempt(step, AttemptResult.Done());
    }
}
