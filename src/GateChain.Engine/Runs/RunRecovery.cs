using System.Collections.Concurrent;
using GateChain.Core.Running;
using GateChain.Engine.Basics;
using GateChain.Engine.Reading;
using GateChain.Engine.Sharing;
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
    readonly RunRouter _router;
    readonly Shared? _shared;
    readonly ILogger _logger;

    internal RunRecovery(
        RunServices services,
        ActiveRuns runs,
        Admission admission,
        IStore store,
        RunFolder folder,
        RunReader reader,
        RunRouter router,
        Shared? shared,
        ILogger logger
    )
    {
        (_services, _runs, _admission) = (services, runs, admission);
        (_store, _ownership) = (store.Runs, store.Ownership);
        (_folder, _reader, _router, _shared, _logger) = (folder, reader, router, shared, logger);
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
    /// <param name="held">Why all of them wait until <see cref="ContinueHeldAsync"/>; null when they do not.</param>
    public async Task RecoverAsync(string? held = null)
    {
        var claims = await _ownership.ClaimUnendedAsync().ConfigureAwait(false);
        if (held is null)
        {
            await ContinueAsync([.. claims.Select(c => new Orphan(c, null, null))]).ConfigureAwait(false);
            return;
        }
        foreach (var claim in claims)
        {
            _held[claim.Run.Id] = true;
            _stranded[claim.Run.Id] = new(held, Now, null);
        }
        if (claims.Count > 0)
            _logger.LogWarning("{Count} runs that had not ended wait: {Why}", claims.Count, held);
    }

    // Runs that wait for somebody to say that this is no copy that only looks like the original.
    readonly ConcurrentDictionary<long, bool> _held = new();

    /// <summary>Continues with the runs that were held at the start.</summary>
    internal async Task ContinueHeldAsync()
    {
        var claims = new List<Claim>();
        foreach (var run in _held.Keys.Order().ToList())
        {
            if (
                _held.TryRemove(run, out _)
                && _stranded.TryRemove(run, out _)
                && await _ownership.ClaimAsync(run).ConfigureAwait(false) is { } claim
            )
            {
                claims.Add(claim);
            }
        }
        await ContinueAsync([.. claims.Select(c => new Orphan(c, null, null))]).ConfigureAwait(false);
    }

    // What is claimed and has no mailbox yet.
    readonly ConcurrentDictionary<long, bool> _claimed = new();

    /// <summary>Whether any run is this service's and continues, or is about to.</summary>
    internal bool HasAny => _runs.Count > 0 || !_claimed.IsEmpty;

    /// <summary>Whether a run is this service's, continuing or not.</summary>
    internal bool Has(long run) => _runs.Has(run) || _stranded.ContainsKey(run) || _claimed.ContainsKey(run);

    /// <summary>
    /// How long after its owner was heard last an attempt that was in flight may begin again: by then its node has
    /// ended
    /// what it had started, whatever has become of the node.
    /// </summary>
    internal static readonly TimeSpan Quiet = TimeSpan.FromSeconds(7);

    /// <summary>Continues with runs that were claimed.</summary>
    internal async Task ContinueAsync(IReadOnlyList<Orphan> orphans)
    {
        var actors = new List<(RunActor Actor, TimeSpan QuietFor)>();
        var replacing = new List<(long Run, IReadOnlyList<long> Others)>();
        foreach (var orphan in orphans)
            _claimed[orphan.Claim.Run.Id] = true;
        foreach (var (claim, from, silent) in orphans)
        {
            try
            {
                var actor = await ActorOfAsync(claim, replacing).ConfigureAwait(false);
                actors.Add((actor, silent is { } since && since < Quiet ? Quiet - since : TimeSpan.Zero));
            }
            catch (Exception e) when (e is not OutOfMemoryException)
            {
                Strand(claim.Run.Id, e);
            }
            _claimed.TryRemove(claim.Run.Id, out _);
        }
        // All runs are there before the first one continues: they may wait for each other, and share lanes.
        foreach (var (actor, quietFor) in actors)
        {
            actor.Recover(quietFor: quietFor);
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
        await _router
            .SendAsync(new RunOrder.Recover(run, FarActor.Of(Core.Identity.Actor.Recovery)), async order =>
            {
                await RecoverHereAsync(order.Run).ConfigureAwait(false);
                return 0;
            })
            .ConfigureAwait(false);
    }

    internal async Task RecoverHereAsync(long run)
    {
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
        // In a shared store another node may have it by now.
        var claim =
            _shared is null ? await _ownership.ClaimAsync(run).ConfigureAwait(false)
            : await _shared.Store.Nodes.ClaimAgainAsync(_shared.Link.Id, [run]).ConfigureAwait(false) is [var own] ? own
            : null;
        if (claim is null)
        {
            _stranded.TryRemove(run, out _);
            return;
        }
        var actor = await ActorOfAsync(claim).ConfigureAwait(false);
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
        // What its last owner has written is told by nobody.
        _reader.LookAgain(actor.Run);
        _services.Meter.Continues(head);
        await actor.AnnounceAsync().ConfigureAwait(false);
        await _admission.RestoreAsync(head.Chain, state.BusyKey, head.Id, state.IsQueued).ConfigureAwait(false);
        // They were to be stopped for it; the crash may have come before.
        if (state.IsQueued && state.Leg == 1 && state.Replaces.Count > 0)
            replacing?.Add((head.Id, state.Replaces));
        _logger.LogInformation("Run {Run} of {Chain} continues", head.Id, head.Chain);
        return actor;
    }

    /// <summary>
    /// This node has not been able to say that it is there: what it has is given up, and what it runs ended. Others may
    /// take it; what they do not is continued with by <see cref="TakeBackAsync"/>.
    /// </summary>
    internal async Task LetAllGoAsync(string why)
    {
        foreach (var actor in _runs.All.ToList())
        {
            if (await actor.LetGoAsync(force: true).ConfigureAwait(false) is not null)
                _stranded[actor.Run] = new(why, Now, actor.Attempts);
        }
    }

    /// <summary>Continues with what was given up and nobody else has taken.</summary>
    internal async Task TakeBackAsync()
    {
        foreach (var run in _stranded.Where(s => s.Value.Attempts is not null).Select(s => s.Key).ToList())
        {
            try
            {
                await RecoverHereAsync(run).ConfigureAwait(false);
            }
            catch (Exception e) when (e is RefusedException or StorageException)
            {
                _logger.LogWarning("Run {Run} could not be taken back: {Reason}", run, e.Message);
            }
        }
    }

    /// <summary>Hands over what only waits; what is at work stays until it is asked again.</summary>
    internal async Task HandOverAsync()
    {
        foreach (var actor in _runs.All.ToList())
        {
            if (await actor.LetGoAsync(force: false).ConfigureAwait(false) is { } epoch)
                await _shared!.Store.Nodes.LetGoAsync(actor.Run, epoch).ConfigureAwait(false);
        }
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

    void IRunKeeper.Broken(long run, Exception exception, string? step) =>
        _logger.LogError(exception, "Internal error in run {Run}, step {Step}", run, step ?? "-");
}
