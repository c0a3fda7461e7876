using GateChain.Core.Chains;
using GateChain.Core.Running.Events;
using GateChain.Core.Running.State;

namespace GateChain.Core.Running;

/// <summary>What a resume does again, and what it keeps.</summary>
/// <param name="Refusal">Why it can't be, or null.</param>
/// <param name="Reset">Paths of steps that are done again from nothing.</param>
/// <param name="Reopened">Paths of containers that go on with what is settled in them.</param>
/// <param name="Undecided">Gates in error whose source keeps its outcome.</param>
public sealed record ResumePlan(string? Refusal, IReadOnlyList<string> Reset, IReadOnlyList<string> Reopened, IReadOnlyList<GateName> Undecided)
{
    internal static ResumePlan For(RunState state, IReadOnlyList<string> from, IReadOnlyList<string> skip)
    {
        ResumePlan Refuse(string why) => new(why, [], [], []);
        if (!state.HasEnded) { return Refuse("the run is still going"); }
        foreach (var path in from.Concat(skip))
        {
            if (state.Find(path) is null) { return Refuse($"there is no step “{path}” in this run"); }
        }
        if (state.Outcome == Outcome.Succeeded && from.Count == 0) { return Refuse("the run succeeded; there is nothing to resume"); }
        var collector = new Collector([.. from, .. skip]);
        collector.Scope(state.Root);
        foreach (var path in skip)
        {
            if (!collector.Reset.Contains(path)) { return Refuse($"“{path}” lies inside a container that is done again as a whole; it can't be passed over alone"); }
        }
        return new(null, collector.Reset, collector.Reopened, collector.Undecided);
    }

    sealed class Collector(IReadOnlyList<string> named)
    {
        public List<string> Reset { get; } = [];
        public List<string> Reopened { get; } = [];
        public List<GateName> Undecided { get; } = [];

        public void Scope(ScopeState scope)
        {
            var roots = scope.Steps.Where(IsRoot).ToHashSet();
            var marked = Descendants(scope, roots, out var behind);
            foreach (var step in scope.Steps.Where(marked.Contains))
            {
                if (!behind.Contains(step) && CanGoOn(step))
                {
                    Reopened.Add(step.Path);
                    foreach (var inner in step.InnerScopes.Where(NeedsWork)) { Scope(inner); }
                }
                else
                {
                    Reset.Add(step.Path);
                    foreach (var gate in step.Step.Incoming)
                    {
                        if (!marked.Contains(scope.Steps[gate.From.Index]) && scope.Gates[gate.Index].Reason?.Error is not null) { Undecided.Add(new(scope.Path, gate.Index)); }
                    }
                }
            }
        }

        bool IsRoot(StepState step) => !step.IsSettled || step.Outcome is Outcome.Failed or Outcome.Stopped || named.Contains(step.Path) || HoldsNamed(step);

        bool HoldsNamed(StepState step) =>
            step.Step.Inner is not null && named.Any(p => p.StartsWith(step.Path + "/", StringComparison.Ordinal) || p.StartsWith(step.Path + "[", StringComparison.Ordinal));

        // A container goes on inside unless it is named itself, wants to be done whole, or never got to open.
        bool CanGoOn(StepState step) => !named.Contains(step.Path) && !step.Step.ResumeWhole && (step.Inner is not null || step.Each is not null);

        bool NeedsWork(ScopeState inner) =>
            inner.Index < 0 || inner.IterationOutcome != Outcome.Succeeded || named.Any(p => p.StartsWith(inner.Path + "/", StringComparison.Ordinal));

        /// <summary>The roots and all that settled because of them; <paramref name="behind"/> gets those that stand behind another marked step.</summary>
        static HashSet<StepState> Descendants(ScopeState scope, HashSet<StepState> roots, out HashSet<StepState> behind)
        {
            var marked = new HashSet<StepState>(roots);
            behind = [];
            var queue = new Queue<StepState>(roots);
            while (queue.TryDequeue(out var step))
            {
                foreach (var gate in step.Step.Outgoing)
                {
                    var target = scope.Steps[gate.To.Index];
                    if (!marked.Contains(target) && StandsWithout(target, scope, marked)) { continue; }
                    behind.Add(target);
                    if (marked.Add(target)) { queue.Enqueue(target); }
                }
            }
            return marked;
        }

        // A join of "any" or a number may have been satisfied by gates that stay: then the step did not settle because of the others.
        static bool StandsWithout(StepState target, ScopeState scope, HashSet<StepState> marked)
        {
            if (target.Step.Join.Mode is not (JoinMode.Any or JoinMode.Count) || target.Outcome is Outcome.Skipped || target.Started is null) { return false; }
            var kept = target.Step.Incoming.Count(g => scope.Gates[g.Index].Phase == GatePhase.Open && !marked.Contains(scope.Steps[g.From.Index]));
            return kept >= (target.Step.Join.Mode == JoinMode.Any ? 1 : target.Step.Join.Needed);
        }
    }
}
