using System.Collections.Concurrent;
using GateChain.Core.Running;
using GateChain.Engine.Runs;
using GateChain.Storage;
using Microsoft.Extensions.Logging;

namespace GateChain.Engine;

/// <summary>A run that is not going on though it has not ended.</summary>
/// <param name="Why">What keeps it, in a sentence.</param>
/// <param name="Since">Since when.</param>
public sealed record StrandedRun(long Run, string Why, DateTimeOffset Since);

// Runs go on from what is on disk: at the start, and when one was let go.
public sealed partial class ChainEngine
{
    /// <param name="Attempts">What of it may still be ending in this process; null for nothing.</param>
    sealed record Stranded(string Why, DateTimeOffset Since, AttemptSet? Attempts);

    readonly ConcurrentDictionary<long, Stranded> _stranded = new();

    /// <summary>
    /// The runs that could not be recovered, or were let go; <see cref="RecoverAsync(long)"/> tries one again, and so
    /// does the next start.
    /// </summary>
    public IReadOnlyList<StrandedRun> StrandedRuns =>
        [.. _stranded.Select(s => new StrandedRun(s.Key, s.Value.Why, s.Value.Since)).OrderBy(s => s.Run)];

    /// <summary>
    /// Goes on with every run that had not ended when the service last did. One that can't be read keeps nobody else
    /// from going on.
    /// </summary>
    public async Task RecoverAsync()
    {
        var actors = new List<RunActor>();
        foreach (var (head, epoch) in await _store.TakeOverAsync().ConfigureAwait(false))
        {
            try
            {
                actors.Add(ActorOf(head, epoch));
            }
            catch (Exception e) when (e is not OutOfMemoryException)
            {
                Strand(head.Id, e);
            }
        }
        // All runs are there before the first one goes on: they may wait for each other, and share lanes.
        foreach (var actor in actors)
        {
            actor.TakeUp();
            actor.Post(new TimeInput(Time.GetUtcNow()));
        }
        foreach (var run in _lines.NextOfAll())
            ReleaseRun(run);
        foreach (var head in _store.ToResume())
            _automatic.Plan(head.Id, head.ResumeAt!.Value);
        _stages.Start();
    }

    /// <summary>Tries again to go on with a run that could not be recovered, or was let go.</summary>
    /// <exception cref="RefusedException">There is no such run, it is going on or has ended, or it still can't be
    /// read.</exception>
    public async Task RecoverAsync(long run)
    {
        HeadOf(run);
        if (!_stranded.TryGetValue(run, out var stranded))
        {
            throw Conflict(
                $"run {run} is not stranded: {(_actors.ContainsKey(run) ? "it is going on" : "it has ended")}"
            );
        }
        try
        {
            await TakeUpAsync(run, stranded.Attempts).ConfigureAwait(false);
        }
        catch (Exception e) when (e is not (OutOfMemoryException or StorageException))
        {
            Strand(run, e);
            throw new RefusedException(RefusalKind.Unavailable, $"run {run} still can't go on: {_stranded[run].Why}");
        }
    }

    async Task TakeUpAsync(long run, AttemptSet? before, UnstorableInput? first = null)
    {
        // What was at work here ends before it may begin again.
        if (before is not null)
            await before.EndedAsync().ConfigureAwait(false);
        var epoch = await _store.TakeOverAsync(run).ConfigureAwait(false);
        var actor = ActorOf(HeadOf(run), epoch);
        _stranded.TryRemove(run, out _);
        actor.TakeUp((first?.Input as AttemptEndedInput)?.Step);
        if (first is not null)
            actor.Post(first);
        actor.Post(new TimeInput(Time.GetUtcNow()));
    }

    RunActor ActorOf(RunHead head, long epoch)
    {
        var (state, seq) = _folder.Fold(head.Id);
        var actor = new RunActor(state, seq, epoch, this);
        _actors[head.Id] = actor;
        _lines.Restore(head.Chain, head.Id, state.IsQueued);
        _logger.LogInformation("Run {Run} of {Chain} goes on", head.Id, head.Chain);
        return actor;
    }

    void Strand(long run, Exception e)
    {
        _actors.TryRemove(run, out _);
        _stranded[run] = new(
            e is RefusedException refused ? refused.Message : $"what is on disk of it can't be read: {e.Message}",
            Time.GetUtcNow(),
            null
        );
        _logger.LogError(e, "Run {Run} can't be recovered", run);
    }
}
