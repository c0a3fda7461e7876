namespace GateChain.Core.Chains;

/// <summary>Ways through a chain that the checks and the machine go.</summary>
static class Scopes
{
    public static IEnumerable<StepScope> All(Chain chain) =>
        chain.AllSteps.Select(s => s.Inner).OfType<StepScope>().Concat(chain.Handlers.Values).Prepend(chain.Root);

    /// <summary>A scope and those around it, innermost first.</summary>
    public static IEnumerable<StepScope> Outward(StepScope scope)
    {
        for (StepScope? at = scope; at is not null; at = at.Outer)
            yield return at;
    }

    /// <summary>The steps of a scope, sources before targets; those of a circle and behind it are left out.</summary>
    public static IEnumerable<Step> InOrder(StepScope scope)
    {
        var left = scope.Steps.ToDictionary(s => s, s => s.Incoming.Count);
        var free = new Queue<Step>(scope.Steps.Where(s => s.Incoming.Count == 0));
        while (free.TryDequeue(out var step))
        {
            yield return step;
            foreach (var gate in step.Outgoing)
            {
                if (--left[gate.To] == 0)
                    free.Enqueue(gate.To);
            }
        }
    }

    /// <summary>All steps that gates lead to from here, the step itself included.</summary>
    public static HashSet<Step> FromHereOn(Step step) => Reach(step, s => s.Outgoing.Select(g => g.To));

    /// <summary>All steps from which gates lead here, the step itself included.</summary>
    public static HashSet<Step> UpToHere(Step step) => Reach(step, s => s.Incoming.Select(g => g.From));

    static HashSet<Step> Reach(Step from, Func<Step, IEnumerable<Step>> next)
    {
        var found = new HashSet<Step> { from };
        var queue = new Queue<Step>(found);
        while (queue.TryDequeue(out var at))
        {
            foreach (var step in next(at))
            {
                if (found.Add(step))
                    queue.Enqueue(step);
            }
        }
        return found;
    }
}
