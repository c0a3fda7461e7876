using GateChain.Core.Running;
using GateChain.Core.Running.State;
using GateChain.Core.Values;
using GateChain.Engine.Children;
using GateChain.Engine.Runs;
using GateChain.Storage;

namespace GateChain.Engine;

// How runs are looked at.
public sealed partial class ChainEngine
{
    bool IChildHost.IsGoing(long run) => _actors.ContainsKey(run);

    ICallingRun? IChildHost.CallerOf(long run) => _actors.GetValueOrDefault(run);

    RunHead? IChildHost.FindChild(ParentCall call) => _store.FindChild(call);

    RunHead HeadOf(long run) => _store.Find(run) ?? throw RefusedException.NoRun(run);

    /// <summary>Reads a run's state as it is on disk, with the number of its last journal row.</summary>
    /// <param name="run">The run.</param>
    /// <param name="read">Must not keep the state.</param>
    /// <exception cref="RefusedException">There is no such run, or it can't be read here.</exception>
    public Task<T> ReadAsync<T>(long run, Func<RunState, long, T> read)
    {
        try
        {
            return Task.FromResult(Reader.Read(run, read));
        }
        catch (RefusedException e)
        {
            return Task.FromException<T>(e);
        }
    }

    /// <summary>How a run ended, as wait steps give it; null while it is going or will be resumed by itself.</summary>
    Task<Value?> EndOfAsync(long run) =>
        ReadAsync(run, (s, _) =>
            s is { Outcome: { } outcome, ResumeAt: null }
                ? RunEnds.Describe(run, s.Chain.Name, outcome.Word(), s.Error?.Message, s.Outputs)
                : (Value?)null
        );
}
