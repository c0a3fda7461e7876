using GateChain.Core.Identity;
using GateChain.Core.Running.State;
using GateChain.Core.Values;

namespace GateChain.Engine.Workspaces;

/// <summary>The profile values that a run works with.</summary>
/// <param name="Name">The profile they are of; null when none was named.</param>
/// <param name="Values">A map.</param>
/// <param name="Area">The folder of the chain that they were chosen for.</param>
sealed record RunProfile(string? Name, Value Values, Area Area)
{
    public static RunProfile Of(RunState run) => new(run.ProfileName, run.Profile, run.Area);
}
