using GateChain.Core.Chains;
using GateChain.Core.Identity;
using GateChain.Core.Running;
using GateChain.Core.Running.Events;
using GateChain.Core.Values;
using GateChain.Engine.Basics;
using GateChain.Engine.Workspaces;

namespace GateChain.Engine.Children;

/// <summary>The run of a call, as far as its children need it.</summary>
interface ICallingRun
{
    /// <summary>Where it lies.</summary>
    Area Area { get; }

    /// <summary>Hands over what a child has to tell.</summary>
    void Post(RunInput input);
}

/// <summary>What calls do to their child runs.</summary>
interface IChildWork
{
    bool IsGoing(long run);
    ICallingRun? CallerOf(long run);
    Task<long> StartChildAsync(
        CalledChain chain,
        IReadOnlyDictionary<string, Value> inputs,
        RunProfile profile,
        Actor by,
        ParentLink parent
    );
    Task<int> ResumeAsync(long run, Actor by, ResumeOptions order);
    Task StopAsync(long run, Actor by, string? message);
}
