using GateChain.Core.Chains;
using GateChain.Core.Running.Events;
using GateChain.Core.Running.State;
using GateChain.Core.Values;

namespace GateChain.Core.Running.Machine;

// A new leg goes on from the checkpoint.
sealed partial class Decider
{
    void Resume(ResumeInput resume)
    {
        var plan = ResumePlan.For(state, resume.From, resume.Skip);
        if (plan.Refusal is not null) { throw new InvalidOperationException($"a resume that was not asked about beforehand: {plan.Refusal}"); }
        Emit(new LegStarted(state.Leg + 1, resume.By, Value.Map(DictionaryMap.Of(resume.Params)), Value.Map(DictionaryMap.Of(resume.Vars)),
            plan.Reset, plan.Reopened, resume.Skip, plan.Undecided));
        foreach (var gate in plan.Undecided)
        {
            var scope = state.FindScope(gate.Scope);
            var definition = scope.Scope.Gates[gate.Gate];
            DecideGate(scope.Steps[definition.From.Index], definition);
        }
        GoOn(state.Root);
    }

    /// <summary>Takes up every step of a scope that the leg has reset or reopened.</summary>
    void GoOn(ScopeState scope)
    {
        foreach (var step in scope.Steps)
        {
            if (step.Phase == StepPhase.Pending) { _work.Enqueue(new(WorkKind.Look, step, null)); }
            else if (step.Phase != StepPhase.Running) { continue; }
            else if (step.Each is not null) { _work.Enqueue(new(WorkKind.Fill, step, null)); }
            else if (step.Inner is not null) { GoOn(step.Inner); }
        }
        EndIfSettled(scope);
    }
}
