using GateChain.Core.Values;

namespace GateChain.Core.Running.Events;

/// <summary>The occasion that a run was started for.</summary>
/// <param name="Trigger">The name of the trigger.</param>
/// <param name="Key">The key of the fire among those of its trigger.</param>
/// <param name="Event">What happened: a map.</param>
/// <param name="Due">When it was due; null for what is not planned.</param>
/// <param name="By">By when its run has to be through; null when its trigger says nothing of that.</param>
public sealed record FireLink(
    string Trigger,
    string Key,
    Value Event,
    DateTimeOffset? Due = null,
    DateTimeOffset? By = null
);
