using GateChain.Core.Chains;
using GateChain.Core.Running.Events;
using GateChain.Core.Running.State;
using GateChain.Engine.Basics;
using GateChain.Engine.Releases;
using GateChain.Storage;

namespace GateChain.Engine.Reading;

/// <summary>Folds the journal of a run into its state: from its snapshot where there is one. Thread-safe.</summary>
/// <param name="journal">Where the decisions are.</param>
/// <param name="runs">Which release a run follows.</param>
/// <param name="snapshots">Where states are kept that would take long to fold.</param>
/// <param name="chains">The chains of releases.</param>
sealed class RunFolder(IJournal journal, IRunStore runs, SnapshotFiles snapshots, ReleasedChains chains)
{
    /// <summary>
    /// The chains that a run has followed. The fold itself does not wait: what it needs is there before it is asked
    /// for.
    /// </summary>
    sealed class Followed(ReleasedChains chains)
    {
        readonly Dictionary<string, Chain> _here = [];

        public async ValueTask<Chain> LoadAsync(string release)
        {
            var chain = await chains.RunnableOfAsync(release).ConfigureAwait(false);
            _here[release] = chain;
            return chain;
        }

        /// <summary>Legs that begin after the fold may follow others: who began them has just read those.</summary>
        public Chain Of(string release) =>
            _here.GetValueOrDefault(release)
            ?? chains.Loaded(release)
            ?? throw new InvalidOperationException($"release {release} is not loaded");
    }

    /// <summary>Whether a decision can be added to a state without waiting.</summary>
    public bool CanAdd(Decision decision) =>
        decision.Events.All(e => e is not LegStarted { Release: { } release } || chains.Loaded(release) is not null);

    /// <summary>The state of a run as it is on disk, with the number of its last decision.</summary>
    /// <param name="run">The run.</param>
    /// <param name="upToLeg">The last leg that is taken in; all of them when absent.</param>
    /// <exception cref="RefusedException">A chain that it followed can't be read or run here.</exception>
    public async Task<(RunState State, long Seq)> FoldAsync(long run, int upToLeg = int.MaxValue)
    {
        // A leg of the past is before the snapshot, perhaps.
        if (upToLeg == int.MaxValue && await FromSnapshotAsync(run).ConfigureAwait(false) is { } taken)
            return taken;
        RunState? state = null;
        long seq = 0;
        await foreach (var at in StatesAsync(run, upToLeg).ConfigureAwait(false))
            (state, seq) = at;
        return state is null
            ? throw new InvalidOperationException("the journal does not begin with the run's start")
            : (state, seq);
    }

    /// <summary>
    /// The state of a run after each of its decisions, from its start on, with the number of the decision. It is the
    /// same state, which goes on: nobody may keep it.
    /// </summary>
    /// <param name="run">The run.</param>
    /// <param name="upToLeg">The last leg that is taken in; all of them when absent.</param>
    /// <exception cref="RefusedException">A chain that it followed can't be read or run here.</exception>
    public async IAsyncEnumerable<(RunState State, long Seq)> StatesAsync(long run, int upToLeg = int.MaxValue)
    {
        var followed = new Followed(chains);
        RunState? state = null;
        await foreach (var row in journal.ReadAsync(run).ConfigureAwait(false))
        {
            var decision = Decision.FromBytes(row.Body);
            if (decision.Events.Any(e => e is LegStarted next && next.Leg > upToLeg))
                break;
            if (state is null)
            {
                if (decision.Events[0] is not RunStarted started)
                    break;
                // A later leg may have moved to another release; the first one's begins.
                state = new(run, await followed.LoadAsync(started.Release).ConfigureAwait(false), followed.Of);
            }
            await AddAsync(state, decision, followed).ConfigureAwait(false);
            yield return (state, row.Seq);
        }
    }

    /// <summary>
    /// The state of a run after each of its decisions, with the decision, from a state that was kept on, or from the
    /// run's start. It is the same state, which goes on: nobody may keep it.
    /// </summary>
    /// <param name="run">The run.</param>
    /// <param name="kept">A snapshot, and the number of its last decision; null for none.</param>
    /// <exception cref="RefusedException">A chain that it followed can't be read or run here.</exception>
    public async IAsyncEnumerable<(RunState State, long Seq, Decision Decision)> WalkAsync(
        long run,
        (long Seq, byte[] Snapshot)? kept
    )
    {
        var followed = new Followed(chains);
        var state = kept is { Snapshot: var snapshot }
            ? await RestoreAsync(run, followed, read => (Snapshot.Read(run, new MemoryStream(snapshot), read), 0L))
                .ConfigureAwait(false)
                is { State: { } restored }
                ? restored
                : null
            : null;
        var after = state is null ? 0 : kept!.Value.Seq;
        await foreach (var row in journal.ReadAsync(run, after).ConfigureAwait(false))
        {
            var decision = Decision.FromBytes(row.Body);
            if (state is null)
            {
                if (decision.Events[0] is not RunStarted started)
                    break;
                state = new(run, await followed.LoadAsync(started.Release).ConfigureAwait(false), followed.Of);
            }
            await AddAsync(state, decision, followed).ConfigureAwait(false);
            yield return (state, row.Seq, decision);
        }
    }

    /// <summary>The decisions of a run behind one, each when it can be added to a state without waiting.</summary>
    /// <param name="run">The run.</param>
    /// <param name="after">The number of the one before the first.</param>
    /// <exception cref="RefusedException">A chain that it followed can't be read or run here.</exception>
    public async IAsyncEnumerable<(long Seq, Decision Decision)> DecisionsAsync(long run, long after)
    {
        await foreach (var row in journal.ReadAsync(run, after).ConfigureAwait(false))
        {
            var decision = Decision.FromBytes(row.Body);
            foreach (var e in decision.Events)
            {
                if (e is LegStarted { Release: { } release })
                    await chains.RunnableOfAsync(release).ConfigureAwait(false);
            }
            yield return (row.Seq, decision);
        }
    }

    static async ValueTask AddAsync(RunState state, Decision decision, Followed followed)
    {
        foreach (var e in decision.Events)
        {
            if (e is LegStarted { Release: { } release })
                await followed.LoadAsync(release).ConfigureAwait(false);
        }
        state.Add(decision);
    }

    // The journal decides: a snapshot counts only when it is of this very run and the journal holds all that it holds.
    async Task<(RunState State, long Seq)?> FromSnapshotAsync(long run)
    {
        if (!snapshots.Has(run))
            return null;
        var followed = new Followed(chains);
        if (await ReadSnapshotAsync(run, followed).ConfigureAwait(false) is not var (state, at))
            return null;
        if (await UidOfAsync(run).ConfigureAwait(false) != state.Uid)
            return null;
        var isFirst = true;
        await foreach (var row in journal.ReadAsync(run, after: at - 1).ConfigureAwait(false))
        {
            if (isFirst && row.Seq != at)
                return null;
            if (!isFirst)
                await AddAsync(state, Decision.FromBytes(row.Body), followed).ConfigureAwait(false);
            (isFirst, at) = (false, row.Seq);
        }
        return isFirst ? null : (state, at);
    }

    Task<(RunState State, long Seq)?> ReadSnapshotAsync(long run, Followed followed) =>
        RestoreAsync(run, followed, read => snapshots.Read(run, file => Snapshot.Read(run, file, read)));

    // What it follows is loaded as it is asked for.
    async Task<(RunState State, long Seq)?> RestoreAsync(
        long run,
        Followed followed,
        Func<Func<string, Chain>, (RunState? State, long Seq)?> restore
    )
    {
        // Nearly always the release that the run follows now.
        if (await runs.FindAsync(run).ConfigureAwait(false) is { } head)
            await followed.LoadAsync(head.Release).ConfigureAwait(false);
        while (true)
        {
            string? missing = null;
            var taken = restore(release =>
            {
                missing = release;
                var chain = followed.Of(release);
                missing = null;
                return chain;
            });
            if (missing is null)
                return taken is { State: { } state } ? (state, taken.Value.Seq) : null;
            await followed.LoadAsync(missing).ConfigureAwait(false);
        }
    }

    async Task<string?> UidOfAsync(long run)
    {
        await foreach (var row in journal.ReadAsync(run).ConfigureAwait(false))
            return (Decision.FromBytes(row.Body).Events[0] as RunStarted)?.Uid;
        return null;
    }
}
