using GateChain.Core.Chains;
using GateChain.Core.Running.Events;
using GateChain.Core.Running.State;
using GateChain.Engine.Basics;
using GateChain.Storage;
using GateChain.Storage.Snapshots;

namespace GateChain.Engine.Reading;

/// <summary>Folds the journal of a run into its state: from its snapshot where there is one. Thread-safe.</summary>
/// <param name="journal">Where the decisions are.</param>
/// <param name="snapshots">Where states are kept that would take long to fold.</param>
/// <param name="chainOf">The chain of a release, with all of its kinds; may refuse by throwing.</param>
sealed class RunFolder(IJournal journal, SnapshotFiles snapshots, Func<string, Chain> chainOf)
{
    /// <summary>The state of a run as it is on disk, with the number of its last decision.</summary>
    /// <param name="run">The run.</param>
    /// <param name="upToLeg">The last leg that is taken in; all of them when absent.</param>
    /// <exception cref="RefusedException">A chain that it followed can't be read or run here.</exception>
    public (RunState State, long Seq) Fold(long run, int upToLeg = int.MaxValue)
    {
        // A leg of the past is before the snapshot, perhaps.
        if (upToLeg == int.MaxValue && FromSnapshot(run) is { } taken)
            return taken;
        long seq = 0;
        using var rows = journal
            .Read(run)
            .Select(row => (row.Seq, Decision: Decision.FromBytes(row.Body)))
            .TakeWhile(row => !row.Decision.Events.Any(e => e is LegStarted next && next.Leg > upToLeg))
            .GetEnumerator();
        if (!rows.MoveNext() || rows.Current.Decision.Events[0] is not RunStarted started)
            throw new InvalidOperationException("the journal does not begin with the run's start");
        // A later leg may have moved to another release; the first one's begins.
        var state = RunState.Fold(run, chainOf(started.Release), Decisions(rows), chainOf);
        return (state, seq);

        IEnumerable<Decision> Decisions(IEnumerator<(long Seq, Decision Decision)> from)
        {
            do
            {
                seq = from.Current.Seq;
                yield return from.Current.Decision;
            } while (from.MoveNext());
        }
    }

    // The journal decides: a snapshot counts only when it is of this very run and the journal holds all that it holds.
    (RunState State, long Seq)? FromSnapshot(long run)
    {
        if (snapshots.Read(run, file => Snapshot.Read(run, file, chainOf)) is not var (state, at))
            return null;
        if (
            Decision.FromBytes(journal.Read(run).First().Body).Events[0] is not RunStarted started
            || started.Uid != state.Uid
        )
        {
            return null;
        }
        using var rows = journal.Read(run, after: at - 1).GetEnumerator();
        if (!rows.MoveNext() || rows.Current.Seq != at)
            return null;
        while (rows.MoveNext())
        {
            at = rows.Current.Seq;
            state.Add(Decision.FromBytes(rows.Current.Body));
        }
        return (state, at);
    }
}
