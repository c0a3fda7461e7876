using GateChain.Core.Chains;
using GateChain.Core.Running.State;

namespace GateChain.Core.Running;

/// <summary>
/// Whether a run can move to another release: the steps it keeps must exist there under the same path with the same
/// kind.
/// </summary>
static class ReleaseFit
{
    public static ResumePlan Test(RunState state, Chain to, ResumePlan plan)
    {
        var incompatibilities = new List<string>();
        if (to.Name != state.Chain.Name)
            incompatibilities.Add($"it is the chain “{to.Name}”, not “{state.Chain.Name}”");
        if (
            state.AllSteps.FirstOrDefault(s =>
                !s.IsSettled && s.Phase is not (StepPhase.Pending or StepPhase.Paused) && s.Step.Inner is null
            ) is
            { } busy
        )
        {
            incompatibilities.Add($"“{busy.Path}” is at work; the run must be at rest to move");
        }
        var reset = plan.Reset.ToHashSet();
        Compare(state.Root, to.Root, reset, incompatibilities);
        foreach (var parameter in to.Parameters.Where(p => p.Default is null && state.Params.Find(p.Name) is null))
            incompatibilities.Add($"it has a new parameter “{parameter.Name}” without a default");
        return incompatibilities.Count == 0
            ? plan
            : plan with
            {
                Refusal = "the run does not fit the other release: " + string.Join("; ", incompatibilities.Take(20)),
                Incompatibilities = incompatibilities,
            };
    }

    static void Compare(ScopeState scope, StepScope to, HashSet<string> reset, List<string> incompatibilities)
    {
        foreach (var step in scope.Steps)
        {
            var kept = !reset.Contains(step.Path) && (step.IsSettled || step.InnerScopes.Any());
            if (!kept)
                continue;
            if (to.Find(step.Step.Id) is not { } there)
            {
                incompatibilities.Add($"“{step.Path}” is kept, and there is no such step any more");
            }
            else if (there.Kind.Name != step.Step.Kind.Name)
            {
                incompatibilities.Add(
                    $"“{step.Path}” is kept, and it is of the kind {there.Kind.Name} now, not {step.Step.Kind.Name}"
                );
            }
            else if (there.Inner is { } inner)
            {
                // All iterations are of one form: what one of them finds missing, all would.
                var before = incompatibilities.Count;
                foreach (var deeper in step.InnerScopes.TakeWhile(_ => incompatibilities.Count == before))
                    Compare(deeper, inner, reset, incompatibilities);
            }
        }
    }
}
