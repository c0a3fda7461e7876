using GateChain.Core.Chains;
using GateChain.Core.Identity;
using GateChain.Core.Running.Events;
using GateChain.Core.Values;
using GateChain.Engine.Basics;
using GateChain.Engine.Children;
using GateChain.Engine.Workspaces;

namespace GateChain.Engine.Runs;

/// <summary>Calls start, resume and stop their children as people do.</summary>
sealed class ChildWork(ActiveRuns runs, RunStarter starter, RunCommands commands) : IChildWork
{
    public bool IsGoing(long run) => runs.Has(run);

    public ICallingRun? CallerOf(long run) => runs.Find(run);

    public Task<long> StartChildAsync(
        CalledChain chain,
        IReadOnlyDictionary<string, Value> inputs,
        RunProfile profile,
        Actor by,
        ParentLink parent
    ) => starter.StartChildAsync(chain, inputs, profile, by, parent);

    public Task<int> ResumeAsync(long run, Actor by, ResumeOptions order) => commands.ResumeAsync(run, by, order);

    public Task StopAsync(long run, Actor by, string? message) => commands.StopAsync(run, by, message);
}
