using GateChain.Core.Values;

namespace GateChain.Core.Running.Events;

/// <summary>What a run took over of what its chain keeps.</summary>
/// <param name="Version">The version of what is kept; 0 when nothing was, -1 for a run that writes none.</param>
/// <param name="Values">The values by variable, a map.</param>
public sealed record KeptStart(long Version, Value Values)
{
    /// <summary>The version of a run that writes none.</summary>
    public const long WritesNothing = -1;
}
