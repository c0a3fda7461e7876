using GateChain.Core.Running.State;

namespace GateChain.Engine.Runs;

/// <summary>Keeps the states of the few ended runs that were looked at last. Thread-safe.</summary>
sealed class EndedRuns
{
    const int Kept = 16;

    readonly Lock _lock = new();
    readonly OrderedDictionary<(long Run, int Leg), (RunState State, long Seq)> _states = [];

    /// <summary>Reads a state, folding it first when it is not kept.</summary>
    public T Read<T>(long run, int leg, Func<(RunState, long)> fold, Func<RunState, long, T> read)
    {
        (RunState State, long Seq) found;
        lock (_lock)
        {
            if (_states.TryGetValue((run, leg), out found))
            {
                _states.Remove((run, leg));
                _states.Add((run, leg), found);
            }
        }
        if (found.State is null)
        {
            found = fold();
            // A run that is just being taken up by somebody else is read, but not kept.
            if (found.State.HasEnded)
                Keep(run, leg, found);
        }
        lock (found.State)
        {
            return read(found.State, found.Seq);
        }
    }

    /// <summary>Something has changed in an ended run.</summary>
    public void Forget(long run)
    {
        lock (_lock)
        {
            foreach (var key in _states.Keys.Where(k => k.Run == run).ToList())
                _states.Remove(key);
        }
    }

    void Keep(long run, int leg, (RunState, long) state)
    {
        lock (_lock)
        {
            _states[(run, leg)] = state;
            if (_states.Count > Kept)
                _states.RemoveAt(0);
        }
    }
}
