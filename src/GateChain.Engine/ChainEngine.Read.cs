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

    RunHead HeadOf(long run) =>
        _store.Find(run) ?? throw new RefusedException(RefusalKind.NotFound, $"there is no run {run}");

    /// <summary>Reads a run's state between two decisions, with the number of its last journal row.</summary>
    /// <param name="run">The run.</param>
    /// <param name="read">Must not keep the state.</param>
    /// <exception cref="RefusedException">There is no such run.</exception>
    public async Task<T> ReadAsync<T>(long run, Func<RunState, long, T> read)
    {
        if (_actors.TryGetValue(run, out var actor))
            return await actor.ReadAsync(read).ConfigureAwait(false);
        var head = HeadOf(run);
        return _ended.Read(run, head.Leg, () => Fold(head), read);
    }

    /// <summary>
    /// Reads a run's state as it was when a leg ended: the fold of the journal up to where the next one began.
    /// </summary>
    /// <exception cref="RefusedException">There is no such run or leg.</exception>
    public T ReadPast<T>(long run, int leg, Func<RunState, long, T> read)
    {
        var head = HeadOf(run);
        if (leg < 1 || leg > head.Leg)
            throw new RefusedException(RefusalKind.NotFound, $"run {run} has no leg {leg}");
        var (state, seq) = Fold(head, leg);
        return read(state, seq);
    }

    /// <summary>How a run ended, as wait steps give it; null while it is going or will be resumed by itself.</summary>
    Task<Value?> EndOfAsync(long run) =>
        ReadAsync(run, (s, _) =>
            s is { Outcome: { } outcome, ResumeAt: null }
                ? RunEnds.Describe(run, s.Chain.Name, outcome.Word(), s.Error?.Message, s.Outputs)
                : (Value?)null
        );
}
