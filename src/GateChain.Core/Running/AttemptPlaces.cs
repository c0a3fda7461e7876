using GateChain.Core.Running.State;
using GateChain.Core.Values;

namespace GateChain.Core.Running;

/// <summary>Where attempts are to be done.</summary>
public static class AttemptPlaces
{
    /// <summary>
    /// The label of the nodes that may do a step's attempt, computed as its settings are: a text, or an error; null for
    /// wherever its run is.
    /// </summary>
    /// <param name="run">The run.</param>
    /// <param name="step">The step, whose attempt has begun.</param>
    /// <param name="at">The moment.</param>
    /// <param name="bounds">How big values may be.</param>
    /// <param name="cancel">Ends an evaluation that takes too long.</param>
    public static Value? Of(
        RunState run,
        StepState step,
        DateTimeOffset at,
        Bounds bounds,
        CancellationToken cancel = default
    ) =>
        step.Step.Place?.Constant
        ?? step.Step.Place?.Evaluate(
            new RunBindings(run, step.Scope, at, bounds, cancel) { Probes = step.Hold?.Probes }
        );
}
