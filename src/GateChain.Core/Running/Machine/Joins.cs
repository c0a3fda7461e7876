using GateChain.Core.Chains;
using GateChain.Core.Running.State;

namespace GateChain.Core.Running.Machine;

enum JoinVerdict
{
    Wait,
    Release,
    Skip,
}

/// <summary>What a step's decided gates mean for it.</summary>
static class Joins
{
    public static JoinVerdict Verdict(StepState step) =>
        Verdict(step.Step.Join, step.Step.Incoming.Count, step.OpenGates, step.ShutGates);

    /// <param name="join">The step's join.</param>
    /// <param name="gates">How many gates lead to it.</param>
    /// <param name="open">How many of them are open.</param>
    /// <param name="shut">How many of them are shut.</param>
    public static JoinVerdict Verdict(Join join, int gates, int open, int shut)
    {
        if (gates == 0)
            return JoinVerdict.Release;
        var decided = open + shut == gates;
        return join.Mode switch
        {
            JoinMode.All => open == gates ? JoinVerdict.Release
            : decided ? JoinVerdict.Skip
            : JoinVerdict.Wait,
            JoinMode.Any => open > 0 ? JoinVerdict.Release
            : decided ? JoinVerdict.Skip
            : JoinVerdict.Wait,
            JoinMode.Some => !decided ? JoinVerdict.Wait
            : open > 0 ? JoinVerdict.Release
            : JoinVerdict.Skip,
            _ => open >= join.Needed ? JoinVerdict.Release
            : decided ? JoinVerdict.Skip
            : JoinVerdict.Wait,
        };
    }
}
