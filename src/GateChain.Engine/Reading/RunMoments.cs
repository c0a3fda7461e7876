using GateChain.Core.Rehearsing;
using GateChain.Core.Running;
using GateChain.Core.Running.State;
using GateChain.Engine.Basics;
using GateChain.Storage;

namespace GateChain.Engine.Reading;

/// <summary>A decision of a run, as people read it.</summary>
/// <param name="Seq">Its number in the journal.</param>
/// <param name="At">When it was.</param>
/// <param name="Leg">The leg that it belongs to.</param>
/// <param name="Lines">What was decided, line by line.</param>
public sealed record RunMoment(long Seq, DateTimeOffset At, int Leg, IReadOnlyList<TraceLine> Lines);

/// <summary>
/// Shows runs as they were after any of their decisions. Of the runs that were asked for last, states are kept along
/// the way, so that the next moment is near one. Thread-safe; one walk at a time.
/// </summary>
public sealed class RunMoments : IDisposable
{
    // A state is kept each so many decisions, as long as those of a run take no more than so much.
    const int Between = 250;
    const long MostBytes = 32 << 20;

    // How many runs they are kept of.
    const int Kept = 4;

    readonly RunFolder _folder;
    readonly IRunStore _runs;
    readonly SemaphoreSlim _turn = new(1, 1);
    readonly OrderedDictionary<long, SortedList<long, byte[]>> _kept = [];

    internal RunMoments(RunFolder folder, IRunStore runs) => (_folder, _runs) = (folder, runs);

    /// <summary>Reads a run's state as it was after a decision; after the last one when there were fewer.</summary>
    /// <param name="run">The run.</param>
    /// <param name="moment">The number of the decision, from 1.</param>
    /// <param name="read">Must not keep the state.</param>
    /// <exception cref="RefusedException">There is no such run or moment, or it can't be read here.</exception>
    public async Task<T> ReadAsync<T>(long run, long moment, Func<RunState, long, T> read)
    {
        if (moment < 1 || await _runs.FindAsync(run).ConfigureAwait(false) is null)
            throw RefusedException.NoRun(run);
        await _turn.WaitAsync().ConfigureAwait(false);
        try
        {
            var states = StatesOf(run);
            RunState? last = null;
            var at = 0L;
            await foreach (var (state, seq, _) in _folder.WalkAsync(run, Nearest(states, moment)).ConfigureAwait(false))
            {
                if (seq > moment)
                    break;
                (last, at) = (state, seq);
                if (seq % Between == 0)
                    Keep(states, state, seq);
                if (seq == moment)
                    break;
            }
            return last is null
                ? throw new RefusedException(RefusalKind.NotFound, $"run {run} has no moment {moment}")
                : read(last, at);
        }
        finally
        {
            _turn.Release();
        }
    }

    // One that is kept is of a decision before: that of the moment itself is read behind it.
    static (long Seq, byte[] Snapshot)? Nearest(SortedList<long, byte[]> states, long before) =>
        states.LastOrDefault(s => s.Key < before) is { Value: { } snapshot } kept ? (kept.Key, snapshot) : null;

    SortedList<long, byte[]> StatesOf(long run)
    {
        if (!_kept.Remove(run, out var states))
            states = [];
        _kept[run] = states;
        if (_kept.Count > Kept)
            _kept.RemoveAt(0);
        return states;
    }

    static void Keep(SortedList<long, byte[]> states, RunState state, long seq)
    {
        if (states.ContainsKey(seq) || states.Values.Sum(s => (long)s.Length) > MostBytes)
            return;
        using var copy = new MemoryStream();
        Snapshot.Write(state, copy);
        states[seq] = copy.ToArray();
    }

    /// <summary>The decisions of a run behind one, at most so many.</summary>
    /// <exception cref="RefusedException">There is no such run, or it can't be read here.</exception>
    public async Task<IReadOnlyList<RunMoment>> ListAsync(long run, long after, int most)
    {
        if (await _runs.FindAsync(run).ConfigureAwait(false) is null)
            throw RefusedException.NoRun(run);
        await _turn.WaitAsync().ConfigureAwait(false);
        try
        {
            var from = Nearest(StatesOf(run), after + 1);
            var found = new List<RunMoment>();
            await foreach (var (state, seq, decision) in _folder.WalkAsync(run, from).ConfigureAwait(false))
            {
                if (seq <= after)
                    continue;
                found.Add(new(seq, decision.At, Math.Max(1, state.Leg), [.. Trace.Of(state, decision)]));
                if (found.Count == most)
                    break;
            }
            return found;
        }
        finally
        {
            _turn.Release();
        }
    }

    /// <summary>Nothing is read any more.</summary>
    public void Dispose() => _turn.Dispose();
}
