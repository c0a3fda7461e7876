using System.Collections.Concurrent;
using GateChain.Core.Running;
using GateChain.Engine.Basics;
using GateChain.Engine.Reading;
using GateChain.Storage;
using Microsoft.Extensions.Logging;

namespace GateChain.Engine.Runs;

/// <summary>A run that is not continuing though it has not ended.</summary>
/// <param name="Why">What keeps it, in a sentence.</param>
/// <param name="Since">Since when.</param>
public sealed record StrandedRun(long Run, string Why, DateTimeOffset Since);

/// <summary>
/// Lets runs continue from what is on disk: at the start, and when one was given up. Thread-safe.
/// </summary>
public sealed class RunRecovery : IRunKeeper
{
    readonly RunServices _services;
    readonly ActiveRuns _runs;
    readonly Admission _admission;
    readonly IRunStore _store;
    readonly IRunOwnership _ownership;
    readonly RunFolder _folder;
    readonly RunReader _reader;
    readonly ILogger _logger;

    internal RunRecovery(
        RunServices services,
        ActiveRuns runs,
        Admission admission,
        IStore store,
        RunFolder folder,
        RunReader reader,
        ILogger logger
    )
    {
        (_services, _runs, _admission) = (services, runs, admission);
        (_store, _ownership) = (store.Runs, store.Ownership);
        (_folder, _reader, _logger) = (folder, reader, logger);
    }

    DateTimeOffset Now => _services.Time.GetUtcNow();

    /// <param name="Attempts">What of it may still be ending in this process; null for nothing.</param>
    sealed record StrandedRunActor(string Why, DateTimeOffset Since, AttemptSet? Attempts);

    readonly ConcurrentDictionary<long, StrandedRunActor> _stranded = new();

    /// <summary>
    /// Who tries a stranded run again waits for who does so already: the second would take it from the first, or strand
    /// what has just continued.
    /// </summary>
    readonly ConcurrentDictionary<long, SemaphoreSlim> _turns = new();

    /// <summary>
    /// The runs that could not be recovered, or were given up; <see cref="RecoverAsync(long)"/> tries one again, and so
    /// does the next start.
    /// </summary>
    public IReadOnlyList<StrandedRun> Stranded =>
        [.. _stranded.Select(s => new StrandedRun(s.Key, s.Value.Why, s.Value.Since)).OrderBy(s => s.Run)];

    /// <summary>
    /// Continues with every run that had not ended when the service last did. One that can't be read keeps nobody else
    /// from continuing.
    /// </summary>
    public async Task RecoverAsync()
    {
        var actors = new List<RunActor>();
        var replacing = new List<(long Run, IReadOnlyList<long> Others)>();
        foreach (var claim in await _ownership.ClaimUnendedAsync().ConfigureAwait(false))
        {
            try
            {
                actors.Add(await ActorOfAsync(claim, replacing).ConfigureAwait(false));
            }
            catch (Exception e) when (e is not OutOfMemoryException)
            {
                Strand(claim.Run.Id, e);
            }
        }
        // All runs are there before the first one continues: they may wait for each other, and share lanes.
        foreach (var actor in actors)
        {
            actor.Recover();
            actor.Post(new TimeInput(Now));
        }
        await _admission.ReleaseAllAsync().ConfigureAwait(false);
        foreach (var (run, others) in replacing)
            await _admission.ReplaceAsync(run, others).ConfigureAwait(false);
    }

    /// <summary>Tries again to continue with a run that could not be recovered, or was given up.</summary>
    /// <exception cref="RefusedException">There is no such run, it is continuing or has ended, or it still can't be
    /// read.</exception>
    public async Task RecoverAsync(long run)
    {
        if (await _store.FindAsync(run).ConfigureAwait(false) is null)
            throw RefusedException.NoRun(run);
        if (!_stranded.ContainsKey(run))
            throw NotStranded(run);
        var turn = _turns.GetOrAdd(run, _ => new(1, 1));
        await turn.WaitAsync().ConfigureAwait(false);
        try
        {
            await RecoverStrandedAsync(run).ConfigureAwait(false);
        }
        finally
        {
            turn.Release();
        }
    }

    RefusedException NotStranded(long run) =>
        new(RefusalKind.Conflict, $"run {run} is not stranded: {(_runs.Has(run) ? "it is going on" : "it has ended")}");

    async Task RecoverStrandedAsync(long run)
    {
        if (!_stranded.TryGetValue(run, out var stranded))
            throw NotStranded(run);
        try
        {
            await RecoverAsync(run, stranded.Attempts).ConfigureAwait(false);
        }
        catch (Exception e) when (e is not (OutOfMemoryException or StorageException))
        {
            Strand(run, e);
            throw new RefusedException(
                RefusalKind.Unavailable,
                $"run {run} still can't continue: {_stranded[run].Why}"
            );
        }
    }

    async Task RecoverAsync(long run, AttemptSet? before, UnstorableInput? first = null)
    {
        // What was running here ends before it may begin again.
        if (before is not null)
            await before.EndedAsync().ConfigureAwait(false);
        var claim = await _ownership.ClaimAsync(run).ConfigureAwait(false);
        var actor = await ActorOfAsync(claim!).ConfigureAwait(false);
        _stranded.TryRemove(run, out _);
        actor.Recover((first?.Input as AttemptEndedInput)?.Step);
        if (first is not null)
            actor.Post(first);
        actor.Post(new TimeInput(Now));
    }

    async Task<RunActor> ActorOfAsync(Claim claim, List<(long Run, IReadOnlyList<long> Others)>? replacing = null)
    {
        var head = claim.Run;
        var (state, seq) = await _folder.FoldAsync(head.Id).ConfigureAwait(false);
        var actor = new RunActor(state, seq, claim.Epoch, _services);
        _runs.Put(actor);
        await actor.AnnounceAsync().ConfigureAwait(false);
        await _admission.RestoreAsync(head.Chain, state.BusyKey, head.Id, state.IsQueued).ConfigureAwait(false);
        // They were to be stopped for it; the crash may have come before.
        if (state.IsQueued && state.Leg == 1 && state.Replaces.Count > 0)
            replacing?.Add((head.Id, state.Replaces));
        _logger.LogInformation("Run {Run} of {Chain} continues", head.Id, head.Chain);
        return actor;
    }

    void Strand(long run, Exception e)
    {
        _runs.Remove(run);
        _stranded[run] = new(
            e is RefusedException refused ? refused.Message : $"what is on disk of it can't be read: {e.Message}",
            Now,
            null
        );
        _logger.LogError(e, "Run {Run} can't be recovered", run);
    }

    void IRunKeeper.Settled(RunActor actor) => _runs.Remove(actor);

    void IRunKeeper.Gone(RunActor actor, string? why)
    {
        _runs.Remove(actor);
        if (why is not null)
            _stranded[actor.Run] = new(why, Now, actor.Attempts);
        _reader.LookAgain(actor.Run);
    }

    void IRunKeeper.RecoverFromDisk(RunActor before, UnstorableInput input) =>
        _ = Task.Run(async () =>
        {
            try
            {
                await RecoverAsync(before.Run, before.Attempts, input).ConfigureAwait(false);
            }
            catch (Exception e) when (e is not OutOfMemoryException)
            {
                Strand(before.Run, e);
            }
        });

    void IRunKeeper.Broken(long run, Exception exception) =>
        _logger.LogError(exception, "Internal error in run {Run}", run);
}
