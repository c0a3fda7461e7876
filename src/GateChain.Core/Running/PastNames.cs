using GateChain.Core.Expressions;
using GateChain.Core.Running.State;
using GateChain.Core.Values;

namespace GateChain.Core.Running;

/// <summary>Computes expressions with what a run holds now, or held when it ended.</summary>
public static class PastNames
{
    /// <summary>
    /// The names of a scope as a run has them; of iterations and rounds those of the last one. Null when the run has
    /// not come there.
    /// </summary>
    /// <param name="run">The run.</param>
    /// <param name="scope">The scope's address; empty for the chain's own.</param>
    /// <param name="step">The id of the step whose result, probes and error are in scope too; null for none.</param>
    /// <param name="now">What <c>now</c> is.</param>
    public static INames? Of(RunState run, string scope, string? step, DateTimeOffset now)
    {
        if (Find(run.Root, scope) is not { } found)
            return null;
        var at = step is null ? null : found.Find(step);
        return new StateNames(run, found, now, Bounds.Default)
        {
            Result = at is { IsSettled: true } ? at.Outputs : null,
            Probes = at?.Hold?.Probes,
            Error = at?.Error,
        };
    }

    static ScopeState? Find(ScopeState root, string address)
    {
        var scope = root;
        foreach (var part in address.Split('/', StringSplitOptions.RemoveEmptyEntries))
        {
            if (scope.Find(part)?.InnerScopes.LastOrDefault() is not { } inner)
                return null;
            scope = inner;
        }
        return scope;
    }
}
