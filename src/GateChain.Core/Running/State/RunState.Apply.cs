using GateChain.Core.Chains;
using GateChain.Core.Running.Events;
using GateChain.Core.Values;

namespace GateChain.Core.Running.State;

// The fold. It decides nothing: it only writes down what an event says.
public sealed partial class RunState
{
    internal void Apply(RunEvent e, DateTimeOffset at)
    {
        EventCount++;
        switch (e)
        {
            case RunStarted started:
                Apply(started, at);
                break;
            case AttemptStarted started:
                Apply(started, at);
                break;
            case AttemptFailed failed:
                Apply(failed, at);
                break;
            case AttemptLost lost:
                Apply(lost, at);
                break;
            case LeftoverFound found:
                Step(found.Step).Leftover = found.Why;
                break;
            case AttemptSuspended suspended:
                Step(suspended.Step).IsSuspended = true;
                break;
            case CancelAsked asked:
                Apply(asked);
                break;
            case StepCancelled { Index: { } index } cancelled:
                IterationOf(Step(cancelled.Step), index)!.Cancelled = cancelled;
                break;
            case StepCancelled cancelled:
                Step(cancelled.Step).Cancelled = cancelled;
                break;
            case GuardAsked asked:
                Apply(asked, at);
                break;
            case GuardLooked looked:
                Apply(looked, at);
                break;
            case StepQueued queued:
                SetPhase(Step(queued.Step), StepPhase.Queued);
                (Step(queued.Step).Due, Step(queued.Step).Leg, Step(queued.Step).QueuedAt) = (null, Leg, at);
                break;
            case StepPaused paused:
                Apply(paused, at);
                break;
            case PauseAnswered answered:
                Apply(answered, at);
                break;
            case RoundOpened opened:
                Apply(opened, at);
                break;
            case RoundSettled settled:
                var round = Step(settled.Step).Repeat!.Opened[settled.Round - 1];
                (round.IterationOutcome, round.Ended) = (settled.Outcome, at);
                break;
            case RoundsRest rest:
                Step(rest.Step).Repeat!.Next = rest.Until;
                _timers.Enqueue(Step(rest.Step), rest.Until);
                break;
            case ChildStarted child:
                Step(child.Step).Child = new(child.Run, child.Leg, ToResume: false);
                break;
            case ContainerReopened reopened:
                Apply(reopened, at);
                break;
            case HandlerOpened opened:
                _handlers.Add(
                    new(
                        opened.Occasion,
                        opened.Number,
                        Leg,
                        opened.Error,
                        new(Chain.Handlers[opened.Occasion], Root, opened.Number) { Started = at }
                    )
                );
                break;
            case RootSettled settled:
                (RootEnd, IsStopping) = (settled, false);
                break;
            case RecoveryCalledOff:
                ResumeAt = null;
                break;
            case RunReleased:
                IsQueued = false;
                break;
            case RunLate:
                IsLate = true;
                break;
            case RunEndangered danger:
                Danger = danger;
                break;
            case DecisionCut:
                CutAt = at;
                break;
            case DecisionContinued:
                CutAt = null;
                break;
            case PauseAsked asked:
                Pause = asked;
                if (asked.Before is { } path)
                    _pausedBefore.Add(path);
                break;
            case EachOpened opened:
                Step(opened.Step).Each = new(opened.Items.AsList);
                break;
            case IterationOpened opened:
                Apply(opened, at);
                break;
            case IterationSettled settled:
                Apply(settled, at);
                break;
            case StepSettled settled:
                Apply(settled, at);
                break;
            case GateDecided decided:
                Apply(decided);
                break;
            case VariableSet set:
                Apply(set);
                break;
            case RunWarned warned:
                _warnings.Add(warned);
                break;
            case StopAsked asked:
                (Stop, IsStopping) = (asked, true);
                break;
            case LegStarted leg:
                Apply(leg, at);
                break;
            case RunSettled settled:
                (Outcome, Outputs, Error, Ended, ResumeAt) = (
                    settled.Outcome,
                    settled.Outputs,
                    settled.Error,
                    at,
                    settled.ResumeAt
                );
                (IsStopping, Pause, CutAt) = (false, null, null);
                break;
            default:
                throw new InvalidOperationException(
                    $"the journal holds an event this version does not know: {e.GetType().Name}"
                );
        }
    }

    // The machine works on the same few steps again and again: the last one found is remembered.
    StepState? _last;

    StepState Step(string path) =>
        _last is not null && _last.Path == path && IsAlive(_last)
            ? _last
            : _last = Find(path)
                ?? throw new InvalidOperationException($"the journal names a step that is not there: {path}");

    static bool IsAlive(StepState step)
    {
        if (step.Scope.Owner is null)
            return true;
        for (var scope = step.Scope; scope.Owner is { } owner; scope = owner.Scope)
        {
            if (!owner.InnerScopes.Any())
                return false;
            if (owner.Inner is not null ? owner.Inner != scope : IterationOf(owner, scope.Index) != scope)
                return false;
        }
        return true;
    }

    void Apply(RunStarted e, DateTimeOffset at)
    {
        (Uid, Leg, Started, Release, Number, By, Profile) = (e.Uid, 1, at, e.Release, e.Number, e.By, e.Profile);
        (IsQueued, Parent, RestartOf, Try, Home) = (e.Queued, e.Parent, e.RestartOf, e.Try, e.Home);
        (Area, ProfileName) = (e.Area, e.ProfileName);
        (Fire, BusyKey, Replaces, KeptVersion) = (e.Fire, e.BusyKey, e.Replaces ?? [], e.Kept?.Version);
        foreach (var (name, value) in e.Kept?.Values.AsMap.Entries ?? [])
        {
            // As if somebody had set it: a resume that does everything again keeps it.
            _assignments.Add((null, Root, name.AsString, value));
            Root.Variables[name.AsString] = value;
        }
        Params = (DictionaryMap)e.Params.AsMap;
    }

    /// <summary>Every change of phase goes through here: steps that pause the run are counted.</summary>
    void SetPhase(StepState step, StepPhase phase)
    {
        var wasPaused = IsPaused;
        if (step.Phase == StepPhase.Paused)
            _pausedSteps--;
        if (phase == StepPhase.Paused)
            _pausedSteps++;
        step.Phase = phase;
        if (phase != StepPhase.Running && step.Repeat is { } repeat)
            repeat.Next = null;
        if (wasPaused && !IsPaused)
            PutTimersBack();
    }

    void PutTimersBack()
    {
        foreach (var step in AllSteps)
        {
            if (step.Phase is StepPhase.Resting or StepPhase.Held && step.Due is { } due)
                _timers.Enqueue(step, due);
            if (step.Repeat?.Next is { } next)
                _timers.Enqueue(step, next);
        }
    }

    void Apply(CancelAsked e)
    {
        var step = Step(e.Step);
        step.Cancel = e.Reason;
        // A halted container keeps its timeout.
        if (e.Reason != CancelReason.Halt)
            step.Due = null;
    }

    void Apply(GuardAsked e, DateTimeOffset at)
    {
        var step = Step(e.Step);
        SetPhase(step, StepPhase.Held);
        step.Hold ??= new() { Since = at };
        (step.Hold.Looks, step.Hold.Woken, step.Hold.Asked) = (e.Look, e.Woken, e.Probes);
        step.Hold.AskedBy = e.By;
        (step.Due, step.Leg) = (null, Leg);
    }

    void Apply(GuardLooked e, DateTimeOffset at)
    {
        var step = Step(e.Step);
        var hold = step.Hold ??= new() { Since = at };
        (hold.Latest, hold.Probes, hold.Looks) = (e, e.Probes, e.Look);
        if (e.Next is not null)
        {
            SetPhase(step, StepPhase.Held);
            var (since, times) = hold.ByRule.GetValueOrDefault(e.Rule, (at, 0));
            hold.ByRule[e.Rule] = (since, hold.Woken ? times : times + 1);
        }
        SetDue(step, e.Next);
    }

    void Apply(StepPaused e, DateTimeOffset at)
    {
        var step = Step(e.Step);
        CloseRecord(step, "failed", e.Error, at);
        SetPhase(step, StepPhase.Paused);
        (step.Error, step.Outputs, step.Due, step.Cancel, step.Leg) = (
            e.Error,
            e.Outputs,
            null,
            CancelReason.None,
            Leg
        );
    }

    void Apply(PauseAnswered e, DateTimeOffset at)
    {
        var step = Step(e.Step);
        step.Answered = (e.Answer, e.By, at);
        if (e.Answer is not (PauseAnswer.Retry or PauseAnswer.Anew))
            return;
        if (e.Inside is { } inside)
            ResetAndReopen(inside.Reset, inside.Reopened, inside.Undecided);
        (step.Retries, step.Lost, step.Error, step.Outputs, step.Cancelled) = (0, 0, null, Value.EmptyMap, null);
        SetPhase(step, StepPhase.Pending);
    }

    void Apply(StepSettled e, DateTimeOffset at)
    {
        var step = Step(e.Step);
        CloseRecord(step, e.Outcome.Word(), e.Error, at);
        SetPhase(step, StepPhase.Settled);
        (step.Outcome, step.Outputs, step.Error, step.Note, step.Ended, step.Due, step.Leg) = (
            e.Outcome,
            e.Outputs,
            e.Error,
            e.Note,
            at,
            null,
            Leg
        );
        (step.Warnings, step.Looks) = (e.Warnings ?? [], e.Looks ?? []);
        step.GoesOn = false;
        step.Scope.Unsettled--;
        if (step.IsCountedFailure)
            step.Scope.CountedFailures++;
        if (e.Outcome == Chains.Outcome.Succeeded && !step.Step.Kind.IsControl)
            _successes[step.Path] = _successes.GetValueOrDefault(step.Path) + 1;
        if (e.Outcome == Chains.Outcome.Stopped)
        {
            // A gate from a stopped step never opens; that needs no event of its own.
            foreach (var gate in step.Step.Outgoing)
                SetGate(step.Scope, gate.Index, GatePhase.Shut, null);
        }
    }

    void Apply(GateDecided e) =>
        SetGate(FindScope(e.Scope), e.Gate, e.Open ? GatePhase.Open : GatePhase.Shut, e.Reason);

    static void SetGate(ScopeState scope, int index, GatePhase phase, GateReason? reason)
    {
        ref var gate = ref scope.Gates[index];
        var target = scope.Steps[scope.Scope.Gates[index].To.Index];
        switch (gate.Phase)
        {
            case GatePhase.Open:
                target.OpenGates--;
                break;
            case GatePhase.Shut:
                target.ShutGates--;
                break;
            default:
                break;
        }
        switch (phase)
        {
            case GatePhase.Open:
                target.OpenGates++;
                break;
            case GatePhase.Shut:
                target.ShutGates++;
                break;
            default:
                break;
        }
        (gate.Phase, gate.Reason, gate.Place) = (phase, reason, phase == GatePhase.Open ? target.OpenGates : 0);
    }

    void Apply(VariableSet e)
    {
        var scope = FindScope(e.Scope);
        scope.Variables[e.Name] = e.Value;
        _assignments.Add((Step(e.By), scope, e.Name, e.Value));
    }
}
