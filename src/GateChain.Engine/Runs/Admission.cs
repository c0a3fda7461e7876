using GateChain.Core.Chains;
using GateChain.Core.Identity;
using GateChain.Core.Running;
using GateChain.Core.Running.Events;
using GateChain.Engine.Basics;
using GateChain.Engine.Live;
using GateChain.Storage;

namespace GateChain.Engine.Runs;

/// <summary>
/// Lets runs and legs begin as their chain's <c>whenBusy</c> says, and those that wait go on when it is their turn.
/// Thread-safe.
/// </summary>
sealed class Admission
{
    readonly ChainLines _lines = new();
    readonly RunsHere _runs;
    readonly IRunRegister _register;
    readonly TimeProvider _time;

    public Admission(RunsHere runs, IRunRegister register, RunFeed feed, TimeProvider time)
    {
        (_runs, _register, _time) = (runs, register, time);
        feed.SubscribeNews(news =>
        {
            if (news.Kind == RunNewsKind.Ended)
                Leave(news.Chain, news.Run);
        });
    }

    /// <summary>Begins a run or a leg; it is on disk when this returns.</summary>
    /// <param name="actor">The run's mailbox; nobody knows it yet.</param>
    /// <param name="chain">The chain it follows.</param>
    /// <param name="parent">The call it is a child of; null for none.</param>
    /// <param name="input">What it begins with, told whether it has to wait.</param>
    /// <exception cref="RefusedException">The chain is busy, and its <c>whenBusy</c> is <c>skip</c>; or the machine
    /// refuses.</exception>
    public async Task<Ruling> BeginAsync(RunActor actor, Chain chain, ParentLink? parent, Func<bool, RunInput> input)
    {
        var run = actor.Run;
        var place = _lines.Enter(chain.Name, run, chain.WhenBusy, Above(parent));
        if (place.Queued && chain.WhenBusy == BusyRule.Skip)
        {
            throw new RefusedException(
                RefusalKind.Conflict,
                $"“{chain.Name}” is busy with run {place.Others[0]}, and its whenBusy is skip"
            );
        }
        _runs.Put(actor);
        Ruling ruling;
        try
        {
            ruling = RefusedException.Accepted(await actor.PostAsync(input(place.Queued)).ConfigureAwait(false));
        }
        catch
        {
            _runs.Remove(actor);
            Leave(chain.Name, run);
            throw;
        }
        // Its turn may have come before it could be told.
        if (place.Queued && _lines.IsReleased(chain.Name, run))
            Release(run);
        if (chain.WhenBusy == BusyRule.Replace)
        {
            foreach (var other in place.Others)
                await ReplaceAsync(other, run).ConfigureAwait(false);
        }
        return ruling;
    }

    // One that has just ended refuses, and that is as good.
    async Task ReplaceAsync(long other, long by)
    {
        if (_runs.Find(other) is not { } actor)
            return;
        try
        {
            await actor
                .PostAsync(new StopInput(_time.GetUtcNow(), Actor.OfRun(by), $"replaced by run {by}"))
                .ConfigureAwait(false);
        }
        catch (RefusedException)
        {
            // It has been let go.
        }
    }

    /// <summary>Puts a run into its chain's line as the journal has it.</summary>
    public void Restore(string chain, long run, bool queued) => _lines.Restore(chain, run, queued);

    /// <summary>Lets those go on whose turn it is, when all runs are back in their lines.</summary>
    public void ReleaseAll()
    {
        foreach (var run in _lines.NextOfAll())
            Release(run);
    }

    void Leave(string chain, long run)
    {
        if (_lines.Leave(chain, run) is { } next)
            Release(next);
    }

    void Release(long run) => _runs.Tell(run, new ReleaseInput(_time.GetUtcNow()));

    /// <summary>The runs above a child: they wait for it, so it can't wait for them.</summary>
    List<long> Above(ParentLink? parent)
    {
        var above = new List<long>();
        for (var run = parent?.Run; run is { } at; run = _register.Find(at)?.Parent?.Run)
            above.Add(at);
        return above;
    }
}
