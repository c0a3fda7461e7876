using System.Collections.Concurrent;
using GateChain.Core.Chains;
using GateChain.Core.Identity;
using GateChain.Core.Running;
using GateChain.Core.Running.Events;
using GateChain.Engine.Basics;
using GateChain.Engine.Live;
using GateChain.Engine.Slots;
using GateChain.Storage;

namespace GateChain.Engine.Runs;

/// <summary>
/// Lets runs and legs begin as their chain's <c>whenBusy</c> says, and those that wait continue when it is their turn.
/// Thread-safe.
/// </summary>
sealed class Admission
{
    // Only so that nothing spins for ever, should an end never be told.
    const int MostWaits = 200_000;

    // Runs that are being let in: one of them that has ended before begins another leg.
    readonly ConcurrentDictionary<long, bool> _entering = new();

    readonly ActiveRuns _runs;
    readonly ISlots _slots;
    readonly IRunStore _store;
    readonly TimeProvider _time;

    /// <summary>Stops a run that is with another node; null where there are no others.</summary>
    public Func<long, Actor, string, Task>? StopElsewhere { get; set; }

    public Admission(ActiveRuns runs, ISlots slots, IRunStore store, RunFeed feed, TimeProvider time)
    {
        (_runs, _slots, _store, _time) = (runs, slots, store, time);
        feed.SubscribeToNotifications(notification =>
        {
            if (notification.Kind == RunNotificationKind.Ended)
                _ = _slots.ReleaseAsync(new(notification.Run)).AsTask();
        });
    }

    /// <summary>Begins a run or a leg; it is on disk when this returns.</summary>
    /// <param name="actor">The run's mailbox; nobody knows it yet.</param>
    /// <param name="line">The chain it follows, and what it is busy for.</param>
    /// <param name="parent">The call it is a child of; null for none.</param>
    /// <param name="input">What it begins with.</param>
    /// <param name="fire">The fire that it is started for; null for none.</param>
    /// <exception cref="RefusedException">The chain is busy, and its <c>whenBusy</c> is <c>skip</c>; or the machine
    /// refuses.</exception>
    public async Task<DecideResult> BeginAsync(
        RunActor actor,
        BusyLine line,
        ParentLink? parent,
        Func<Entry, RunInput> input,
        NewFire? fire = null
    )
    {
        _entering[actor.Run] = true;
        try
        {
            return await LetInAsync(actor, line, parent, input, fire).ConfigureAwait(false);
        }
        finally
        {
            _entering.TryRemove(actor.Run, out _);
        }
    }

    async Task<DecideResult> LetInAsync(
        RunActor actor,
        BusyLine line,
        ParentLink? parent,
        Func<Entry, RunInput> input,
        NewFire? fire
    )
    {
        var chain = line.Chain;
        var run = actor.Run;
        var above = await AboveAsync(parent).ConfigureAwait(false);
        ValueTask<SlotAnswer> RequestAsync() =>
            _slots.RequestAsync(
                LineOf(chain.Name, line.Key),
                new(run),
                new(chain.WhenBusy == BusyRule.Allow, chain.WhenBusy == BusyRule.Skip, above, chain.QueueLimit)
            );
        var answer = await RequestAsync().ConfigureAwait(false);
        // A run leaves its place a moment after its end is on disk; who has seen the end is not told that it goes.
        for (var i = 0; i < MostWaits && !answer.Granted && chain.WhenBusy == BusyRule.Skip; i++)
        {
            var other = answer.Others[0];
            if (
                _entering.ContainsKey(other)
                || await _store.FindAsync(other).ConfigureAwait(false) is not { Ended: not null }
            )
            {
                break;
            }
            await Task.Yield();
            answer = await RequestAsync().ConfigureAwait(false);
        }
        if (answer.IsFull)
        {
            throw new RefusedException(
                RefusalKind.Conflict,
                $"{chain.QueueLimit:N0} runs of “{chain.Name}”{line.For} wait already, and its queueLimit is "
                    + $"{chain.QueueLimit:N0}"
            );
        }
        if (!answer.Granted && chain.WhenBusy == BusyRule.Skip)
        {
            throw new RefusedException(
                RefusalKind.Conflict,
                $"“{chain.Name}”{line.For} is busy with run {answer.Others[0]}, and its whenBusy is skip"
            )
            {
                Busy = answer.Others[0],
            };
        }
        _runs.Put(actor);
        DecideResult ruling;
        try
        {
            var entry = new Entry(!answer.Granted, chain.WhenBusy == BusyRule.Replace ? answer.Others : []);
            ruling = RefusedException.Accepted(await actor.PostAsync(input(entry), fire).ConfigureAwait(false));
        }
        catch
        {
            _runs.Remove(actor);
            await _slots.ReleaseAsync(new(run)).ConfigureAwait(false);
            throw;
        }
        // Its turn may have come before it could be told.
        if (!answer.Granted && await _slots.HoldsAsync(new(run)).ConfigureAwait(false))
            _runs.Tell(run, new ReleaseInput(_time.GetUtcNow()));
        if (chain.WhenBusy == BusyRule.Replace)
            await ReplaceAsync(run, answer.Others).ConfigureAwait(false);
        return ruling;
    }

    /// <summary>Stops the runs that another one takes the place of; it continues when they have ended.</summary>
    public async Task ReplaceAsync(long run, IReadOnlyList<long> others)
    {
        foreach (var other in others)
            await ReplaceAsync(other, run).ConfigureAwait(false);
    }

    // One that has just ended refuses, and that is as good.
    async Task ReplaceAsync(long other, long by)
    {
        var why = $"replaced by run {by}";
        try
        {
            if (_runs.Find(other) is { } actor)
                await actor.PostAsync(new StopInput(_time.GetUtcNow(), Actor.OfRun(by), why)).ConfigureAwait(false);
            else if (StopElsewhere is { } stop)
                await stop(other, Actor.OfRun(by), why).ConfigureAwait(false);
        }
        catch (RefusedException)
        {
            // It has been given up.
        }
    }

    /// <summary>Puts a run into its chain's line as the journal has it.</summary>
    public ValueTask RestoreAsync(string chain, string? busyKey, long run, bool queued) =>
        _slots.AnnounceAsync(LineOf(chain, busyKey), new(run), queued);

    // Names of chains have no blanks.
    static SlotName LineOf(string chain, string? key) => new(SlotKind.Chain, key is null ? chain : $"{chain} {key}");

    /// <summary>Lets those continue whose turn it is, when all runs are back in their lines.</summary>
    public ValueTask ReleaseAllAsync() => _slots.GrantAsync();

    /// <summary>The runs above a child: they wait for it, so it can't wait for them.</summary>
    async ValueTask<List<long>> AboveAsync(ParentLink? parent)
    {
        var above = new List<long>();
        for (
            var run = parent?.Run;
            run is { } at;
            run = (await _store.FindAsync(at).ConfigureAwait(false))?.Parent?.Run
        )
        {
            above.Add(at);
        }
        return above;
    }
}

/// <summary>What a run is in line for.</summary>
/// <param name="Chain">The chain that it follows.</param>
/// <param name="Key">What it is busy for; null for the whole chain.</param>
sealed record BusyLine(Chain Chain, string? Key)
{
    /// <summary>The key for people, behind the name of the chain.</summary>
    public string For => Key is null ? "" : $" for “{Key}”";
}

/// <summary>How a run or a leg is let in.</summary>
/// <param name="Queued">Whether it waits for others.</param>
/// <param name="Replaces">The runs that it takes the place of.</param>
readonly record struct Entry(bool Queued, IReadOnlyList<long> Replaces);
