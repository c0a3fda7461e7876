using GateChain.Core.Chains;
using GateChain.Core.Expressions;
using GateChain.Core.Running.State;
using GateChain.Core.Values;

namespace GateChain.Core.Running;

/// <summary>Computes expressions with what a run holds now, or held when it ended.</summary>
public static class PastRunBindings
{
    /// <summary>
    /// The names of a scope as a run has them; of iterations and rounds those of the last one. Null when the run has
    /// not come there.
    /// </summary>
    /// <param name="run">The run.</param>
    /// <param name="scope">The scope's address; empty for the chain's own.</param>
    /// <param name="step">The id of the step whose result, probes and error are in scope too; null for none.</param>
    /// <param name="now">What <c>now</c> is.</param>
    public static IBindings? Of(RunState run, string scope, string? step, DateTimeOffset now)
    {
        if (Find(run, scope) is not { } found)
            return null;
        var at = step is null ? null : found.Find(step);
        return new RunBindings(run, found, now, Bounds.Default)
        {
            Result = at is { IsSettled: true } ? at.Outputs : null,
            Probes = at?.Hold?.Probes,
            Error = at?.Error,
        };
    }

    // Of what came several times, the latest.
    static ScopeState? Find(RunState run, string address)
    {
        var scope = run.Root;
        foreach (var part in new StepPath(address).Parts)
        {
            var inner = part.IsHandler
                ? run.Handlers.LastOrDefault(h => h.Occasion.Word() == part.Name)?.Scope
                : scope.Find(part.Name)?.InnerScopes.LastOrDefault();
            if (inner is null)
                return null;
            scope = inner;
        }
        return scope;
    }
}
