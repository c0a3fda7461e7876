using GateChain.Core.Values;

namespace GateChain.Core.Running.Events;

/// <summary>The occasion that a run was started for.</summary>
/// <param name="Trigger">The name of the trigger.</param>
/// <param name="Key">The key of the fire among those of its trigger.</param>
/// <param name="Event">What happened: a map.</param>
/// <param name="Due">When it was due; null for what is not planned.</param>
public sealed record FireLink(string Trigger, string Key, Value Event, DateTimeOffset? Due = null);
