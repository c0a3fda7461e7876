using GateChain.Core.Running;
using GateChain.Core.Running.Events;
using GateChain.Core.Running.State;
using GateChain.Engine.Guards;
using GateChain.Engine.Slots;

namespace GateChain.Engine.Runs;

/// <summary>
/// Everything that continues outside of the run machine for one run: attempts, looks, turns in lanes, child runs. What
/// is to be done is read off the state and the events that are on disk. Used by the run's mailbox only.
/// </summary>
sealed class RunWork
{
    readonly RunActor _actor;
    readonly RunState _state;
    readonly RunServices _services;
    readonly GuardMonitors _lookouts;

    public RunWork(RunActor actor, RunState state, long epoch, RunServices services)
    {
        (_actor, _state, _services) = (actor, state, services);
        Attempts = new(state, epoch, services, actor.PostHere);
        _lookouts = new(
            services,
            () => (services.Connections(state.Area, state.IsTry), services.Secrets.In(state.Area)),
            actor.Post
        );
    }

    public AttemptSet Attempts { get; }

    /// <summary>Acts on an event that is on disk.</summary>
    public void Act(RunEvent e)
    {
        switch (e)
        {
            case AttemptStarted started:
                _lookouts.Leave(started.Step);
                break;
            case GuardLooked { Next: not null } held:
                _lookouts.Held(held.Step);
                break;
            case StepQueued queued:
                _lookouts.Leave(queued.Step);
                break;
            case AttemptFailed failed:
                Leave(failed.Step);
                break;
            case StepPaused paused:
                Leave(paused.Step);
                break;
            case StepSettled settled:
                Leave(settled.Step);
                break;
            case CancelAsked asked:
                Cancel(asked);
                break;
            case ChildStarted child when _state.Find(child.Step) is { IsEnding: true } step:
                _services.Children.Stop(_state.Id, step);
                break;
            case LegStarted leg:
                foreach (var path in leg.Reset)
                    Leave(path);
                break;
            default:
                break;
        }
        if (Effect.Of(_state, e) is { } work)
            Begin(work, recovering: false);
    }

    /// <summary>
    /// Says which seats a recovered run holds: before anybody is let in.
    /// </summary>
    public async ValueTask AnnounceAsync()
    {
        foreach (var step in _state.AllSteps.Where(s => s is { IsInFlight: true, Step.Lane: not null }).ToList())
        {
            await _services
                .Slots.AnnounceAsync(LaneOf(step.Step.Lane!), SeatOf(step.Path), waits: false)
                .ConfigureAwait(false);
        }
    }

    /// <summary>
    /// Continues with what a recovered run waits for. Of attempts that were in flight, what they had started is ended
    /// first.
    /// </summary>
    public void Recover(string? but, TimeSpan quietFor)
    {
        foreach (var work in Effect.Of(_state).ToList())
        {
            if (work.Form == EffectKind.Attempt)
            {
                if (work.Step.Path != but)
                    Attempts.Sweep(work.Step, quietFor);
            }
            else
            {
                Begin(work, recovering: true);
            }
        }
        // Nobody has heard of changes meanwhile: who is held looks again at once, and is watched from then on.
        foreach (var step in _state.AllSteps.Where(s => s is { Phase: StepPhase.Held, IsLooking: false }).ToList())
            _actor.Post(new WakeInput(_services.Time.GetUtcNow(), step.Path));
    }

    void Begin(Effect work, bool recovering)
    {
        var step = work.Step;
        switch (work.Form)
        {
            case EffectKind.Attempt:
                Attempts.Start(step);
                break;
            case EffectKind.Probes:
                _lookouts.Take(step);
                break;
            case EffectKind.Lane:
                _ = AskForLaneAsync(step);
                break;
            case EffectKind.Child:
                _services.Children.Ensure(_actor, _state, step, recovering);
                break;
            case EffectKind.Runs:
                WaitForRuns(step);
                break;
            default:
                break;
        }
    }

    // One that has to wait is told as an input when its turn comes.
    async Task AskForLaneAsync(StepState step)
    {
        var path = step.Path;
        var answer = await _services
            .Slots.RequestAsync(LaneOf(step.Step.Lane!), SeatOf(path), SlotTerms.Queue)
            .ConfigureAwait(false);
        if (answer.Granted)
            _actor.Post(new LaneInput(_services.Time.GetUtcNow(), path));
    }

    static SlotName LaneOf(string name) => new(SlotKind.Lane, name);

    void WaitForRuns(StepState step)
    {
        var (path, attempt) = (step.Path, step.Attempt);
        _services.Ends.Begin((_state.Id, path), _state.Area, step.Inputs, result =>
            _actor.Post(new RunsEndedInput(_services.Time.GetUtcNow(), path, attempt, result))
        );
    }

    Seat SeatOf(string path) => new(_state.Id, path);

    void Cancel(CancelAsked asked)
    {
        if (asked.Reason == CancelReason.Halt || _state.Find(asked.Step) is not { } step)
            return;
        if (step.Step.Call is not null)
            _services.Children.Stop(_state.Id, step);
        else
            Attempts.Cancel(asked.Step);
    }

    // Whatever it held or waited for is given back.
    void Leave(string path)
    {
        _lookouts.Leave(path);
        if (_state.Find(path) is not { } step)
            return;
        if (step.Step.Lane is not null)
            GiveBack(path);
        if (step.Step.Kind.Name == Core.Chains.Kinds.ControlKinds.Wait)
            _services.Ends.End((_state.Id, path));
    }

    /// <summary>
    /// A turn in a lane was given, and the machine has decided about it: one that was not taken is given back.
    /// </summary>
    public void TurnDecided(string path)
    {
        if (_state.Find(path) is not { Phase: StepPhase.Running })
            GiveBack(path);
    }

    /// <summary>The run has ended or is discarded.</summary>
    public void End()
    {
        _lookouts.LeaveAll();
        _ = _services.Slots.ReleaseStepsAsync(_state.Id).AsTask();
    }

    void GiveBack(string path) => _ = _services.Slots.ReleaseAsync(SeatOf(path)).AsTask();
}
