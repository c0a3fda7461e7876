using GateChain.Core.Chains;
using GateChain.Core.Running.Events;
using GateChain.Core.Running.State;

namespace GateChain.Core.Running;

/// <summary>Goes through a run's scopes and gathers what a new leg has to do again.</summary>
sealed class ResumeCollector(IReadOnlyList<string> named)
{
    public List<string> Reset { get; } = [];
    public List<string> Reopened { get; } = [];
    public List<string> Redo { get; } = [];
    public List<GateName> Undecided { get; } = [];

    /// <summary>A step running that would have to be done again; null when there is none.</summary>
    public StepState? Busy { get; private set; }

    /// <summary>
    /// One container or call that continues inside, and nothing else of the run; null when it has nothing to continue
    /// with.
    /// </summary>
    public static InsidePlan? Inside(StepState step)
    {
        var collector = new ResumeCollector([]);
        if (!collector.CanContinue(step))
            return null;
        collector.Reopened.Add(step.Path);
        foreach (var inner in step.InnerScopes.Where(collector.NeedsWork))
            collector.Scope(inner);
        return new(
            [.. collector.Reset, .. collector.Redo.Except(collector.Reset)],
            collector.Reopened,
            collector.Undecided
        );
    }

    public void Scope(ScopeState scope)
    {
        var roots = scope.Steps.Where(IsRoot).ToHashSet();
        // In a paused run what follows from a failure may be under way already: then the failure is left as it is.
        if (scope.Steps.Any(IsAtWork))
            roots.RemoveWhere(s => s.IsSettled && !IsNamed(s) && Descendants(scope, [s], out _).Any(IsAtWork));
        if (roots.Count == 0)
            return;
        var marked = Descendants(scope, roots, out var behind);
        var redone = Redone(scope, marked);
        foreach (var step in scope.Steps.Where(marked.Contains))
        {
            if (!behind.Contains(step) && CanContinue(step))
            {
                Reopened.Add(step.Path);
                foreach (var inner in step.InnerScopes.Where(NeedsWork))
                    Scope(inner);
                continue;
            }
            if (step.Phase == StepPhase.Pending && !step.GoesOn)
                continue;
            // Held, queued and resting steps of a paused run do nothing until it is resumed: they can begin again.
            if (step.Phase == StepPhase.Running || step.IsLooking)
                Busy ??= step;
            Reset.Add(step.Path);
            foreach (var gate in step.Step.Incoming.Where(g => IsInError(scope, g)))
            {
                var source = scope.Steps[gate.From.Index];
                if (!marked.Contains(source) && !redone.Contains(source))
                    DecideAgain(scope, gate);
            }
        }
    }

    static bool IsInError(ScopeState scope, Gate gate) => scope.Gates[gate.Index].Reason?.Error is not null;

    // What an else gate gives depends on its siblings: those in error are decided again together, else gates last.
    void DecideAgain(ScopeState scope, Gate gate)
    {
        var together = gate.From.Outgoing.Any(g => g.IsElse)
            ? gate.From.Outgoing.Where(g => IsInError(scope, g))
            : [gate];
        Undecided.AddRange(together.Select(g => new GateName(scope.Path, g.Index)).Where(g => !Undecided.Contains(g)));
    }

    static bool IsAtWork(StepState step) =>
        step.Phase is StepPhase.Running or StepPhase.Held or StepPhase.Queued or StepPhase.Resting;

    bool IsRoot(StepState step) =>
        step.Phase switch
        {
            StepPhase.Settled => step.Outcome is Outcome.Failed or Outcome.Stopped,
            StepPhase.Paused => true,
            // In a paused run a container may still be running.
            StepPhase.Running => step.InnerScopes.Any(i => NeedsWork(i) && i.Steps.Any(IsRoot)),
            _ => false,
        } || IsNamed(step);

    bool IsNamed(StepState step) => named.Contains(step.Path) || HoldsNamed(step);

    bool HoldsNamed(StepState step) =>
        (step.Step.Inner is not null || step.Child is not null)
        && named.Any(p => new StepPath(p).IsWithin(new(step.Path)));

    // A container or call continues inside unless it is named itself, wants to be done whole, or never got to open.
    bool CanContinue(StepState step) =>
        !named.Contains(step.Path)
        && (!step.Step.ResumeWhole || step.Phase == StepPhase.Running)
        && (
            step.Inner is not null
            || step.Each is not null
            || step.Repeat is not null
            || step is { Child: not null, Step.Call.Wait: true }
        );

    bool NeedsWork(ScopeState inner) =>
        inner.Index < 0
        || inner.IterationOutcome is not (Outcome.Succeeded or Outcome.Skipped)
        || named.Any(p => new StepPath(p).Behind(new(inner.Path)) is not null);

    // "onResume: redo": done again in each leg in which something that depends on it is done.
    HashSet<StepState> Redone(ScopeState scope, HashSet<StepState> marked)
    {
        var redone = scope
            .Steps.Where(s =>
                s.Step.RedoOnResume
                && s is { IsSettled: true, Outcome: Outcome.Succeeded }
                && !marked.Contains(s)
                && Scopes.FromHereOn(s.Step).Any(t => marked.Contains(scope.Steps[t.Index]))
            )
            .ToHashSet();
        Redo.AddRange(redone.Select(s => s.Path));
        Reset.AddRange(redone.Select(s => s.Path));
        return redone;
    }

    /// <summary>
    /// The roots and all that settled because of them; <paramref name="behind"/> gets those that stand behind another
    /// marked step.
    /// </summary>
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
                if (!marked.Contains(target) && StandsWithout(target, scope, marked))
                    continue;
                // A container running in a paused run has not waited for this gate, or waits for nothing any more.
                if (target.Phase != StepPhase.Running || !roots.Contains(target))
                    behind.Add(target);
                if (marked.Add(target))
                    queue.Enqueue(target);
            }
        }
        return marked;
    }

    // A join of "any" or a number may have been satisfied by gates that stay: then the step did not settle because of
    // the others.
    static bool StandsWithout(StepState target, ScopeState scope, HashSet<StepState> marked)
    {
        if (
            target.Step.Join.Mode is not (JoinMode.Any or JoinMode.Count)
            || target.Outcome is Outcome.Skipped
            || target.Started is null
        )
        {
            return false;
        }
        var kept = target.Step.Incoming.Count(g =>
            scope.Gates[g.Index].Phase == GatePhase.Open && !marked.Contains(scope.Steps[g.From.Index])
        );
        return kept >= (target.Step.Join.Mode == JoinMode.Any ? 1 : target.Step.Join.Needed);
    }
}
