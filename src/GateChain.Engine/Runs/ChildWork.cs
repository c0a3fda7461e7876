using GateChain.Core.Chains;
using GateChain.Core.Running.Events;
using GateChain.Core.Values;
using GateChain.Engine.Basics;
using GateChain.Engine.Children;

namespace GateChain.Engine.Runs;

/// <summary>Calls start, resume and stop their children as people do.</summary>
sealed class ChildWork(RunsHere runs, RunStarter starter, RunCommands commands) : IChildWork
{
    public bool IsGoing(long run) => runs.Has(run);

    public ICallingRun? CallerOf(long run) => runs.Find(run);

    public Task<long> StartChildAsync(
        CalledChain chain,
        IReadOnlyDictionary<string, Value> inputs,
        Value profile,
        string by,
        ParentLink parent
    ) => starter.StartChildAsync(chain, inputs, profile, by, parent);

    public Task<int> ResumeAsync(long run, string by, ResumeOrder order) => commands.ResumeAsync(run, by, order);

    public Task StopAsync(long run, string by, string? message) => commands.StopAsync(run, by, message);
}
