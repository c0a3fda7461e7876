using GateChain.Core.Chains;
using GateChain.Core.Chains.Kinds;
using GateChain.Core.Running.Events;
using GateChain.Core.Running.State;
using GateChain.Core.Values;

namespace GateChain.Core.Running.Machine;

/// <summary>
/// One decision in the making. A work list, not recursion, carries it from step to step, so that long chains need no
/// stack.
/// </summary>
/// <param name="state">The run.</param>
/// <param name="at">The moment of the input.</param>
/// <param name="bounds">How big values and decisions may be.</param>
/// <param name="limit">How long it may take.</param>
sealed partial class Decider(RunState state, DateTimeOffset at, Bounds bounds, TimeLimit limit)
{
    readonly List<RunEvent> _events = [];

    // Empty between two decisions, so that all decisions of a thread can share it.
    readonly Queue<Work> _work = Interlocked.Exchange(ref _spare, null) ?? new();

    [ThreadStatic]
    static Queue<Work>? _spare;

    enum WorkKind
    {
        Look,
        ScopeEnded,
        Fill,
        NextRound,
    }

    readonly record struct Work(WorkKind Kind, StepState? Step, ScopeState? Scope);

    public IReadOnlyList<RunEvent> Events => _events;

    public void Take(RunInput input)
    {
        switch (input)
        {
            case StartInput start:
                Start(start);
                break;
            case ReleaseInput when state.IsQueued:
                Released();
                break;
            case AttemptEndedInput ended:
                AttemptEnded(ended);
                break;
            case ProbesTakenInput taken:
                ProbesTaken(taken);
                break;
            case WakeInput wake:
                Woken(wake);
                break;
            case LaneInput turn:
                LaneTurn(turn);
                break;
            case ChildStartedInput child:
                ChildStarted(child);
                break;
            case ChildEndedInput child:
                ChildEnded(child);
                break;
            case RunsEndedInput ended:
                RunsEnded(ended);
                break;
            case TimeInput:
                TimeCame();
                break;
            case SuspendInput:
                Suspend();
                break;
            case RecoveredInput:
                Recover();
                break;
            case ConfirmGoneInput gone:
                Lose(state.Find(gone.Step)!, gone.By.Name);
                break;
            case LostInput lost:
                AttemptIsLost(lost);
                break;
            case LeftoverInput left:
                LeftoverStays(left);
                break;
            case UnstorableInput unstorable:
                CannotStore(unstorable);
                break;
            case StopInput stop:
                StopAsked(stop);
                break;
            case PauseInput pause:
                PauseRun(pause);
                break;
            case AnswerInput answer:
                Answer(answer);
                break;
            case ResumeInput resume:
                Resume(resume);
                break;
            default:
                break;
        }
        WorkOff();
        _spare = _work;
    }

    void Emit(RunEvent e)
    {
        _events.Add(e);
        _size += e switch
        {
            AttemptStarted started => started.Inputs.Size,
            StepSettled settled => settled.Outputs.Size,
            VariableSet set => set.Value.Size,
            EachOpened opened => opened.Items.Size,
            _ => 0,
        };
        state.Apply(e, at);
    }

    void WorkOff()
    {
        while (_work.TryDequeue(out var work))
        {
            // Every decision gets on by something, however small the bound.
            if (IsLong && _begun++ > 0)
            {
                // All of it can be read off the state again.
                _work.Clear();
                if (state.CutAt is null)
                    Emit(new DecisionCut());
                return;
            }
            switch (work.Kind)
            {
                case WorkKind.Look:
                    Look(work.Step!);
                    break;
                case WorkKind.Fill:
                    Fill(work.Step!);
                    break;
                case WorkKind.NextRound:
                    NextRound(work.Step!);
                    break;
                default:
                    ScopeEnded(work.Scope!);
                    break;
            }
        }
    }

    /// <summary>
    /// Goes on where a decision was cut: at every step that can begin, every container that can go on, every scope that
    /// is through.
    /// </summary>
    void Continue()
    {
        Emit(new DecisionContinued());
        if (state.HasEnded)
            return;
        foreach (var handler in state.Handlers)
        {
            if (handler.Scope.Unsettled > 0)
                GoOn(handler.Scope, afterPause: false);
            else
                WarnOfFailed(handler.Scope);
        }
        if (state.RootEnd is not { } end)
            GoOn(state.Root, afterPause: false);
        else
            HandleEnd(end);
    }

    StateNames Names(ScopeState scope) => new(state, scope, at, bounds, limit.Evaluation);

    /// <summary>
    /// Whether this decision has become so long that what would go on at once is left to the next one: in between, a
    /// stop or a pause comes through.
    /// </summary>
    bool IsLong =>
        _events.Count >= bounds.DecisionEvents
        || _size >= bounds.DecisionSize / 4
        || limit.Decision.IsCancellationRequested;

    // Of the values in it so far, and how many pieces of work were begun since it was long.
    long _size;
    int _begun;

    void Start(StartInput start)
    {
        var given = state
            .Chain.Parameters.Where(p => start.Params.ContainsKey(p.Name) || p.Default is not null)
            .Select(p =>
                KeyValuePair.Create(p.Name, start.Params.TryGetValue(p.Name, out var value) ? value : p.Default!.Value)
            );
        Emit(
            new RunStarted(
                start.Uid,
                state.Chain.Name,
                start.Release,
                Value.Map(DictionaryMap.Of(given)),
                start.Profile,
                start.By,
                start.Queued,
                start.Parent,
                start.RestartOf,
                start.Try,
                start.Home,
                start.Number
            )
        );
        if (!start.Queued)
            OpenScope(state.Root);
    }

    void Released()
    {
        Emit(new RunReleased());
        if (state.Leg == 1)
            OpenScope(state.Root);
        else
            GoOnInLeg();
    }

    void OpenScope(ScopeState scope)
    {
        foreach (var step in scope.Steps)
        {
            if (step.Step.Incoming.Count == 0 || state.PartOf(step) != Part.Done)
                _work.Enqueue(new(WorkKind.Look, step, null));
        }
        EndIfSettled(scope);
    }

    void EndIfSettled(ScopeState scope)
    {
        if (scope.Unsettled == 0)
            _work.Enqueue(new(WorkKind.ScopeEnded, null, scope));
    }

    void AttemptEnded(AttemptEndedInput ended)
    {
        if (state.Find(ended.Step) is not { IsInFlight: true } step || step.Attempt != ended.Attempt)
            return;
        EndAttempt(step, ended.Result);
    }

    void TimeCame()
    {
        // However little time there is, something is got on with.
        for (var first = true; state.NextDue is { } due && due <= at && (first || !IsLong); first = false)
        {
            if (state.CutAt is not null)
            {
                Continue();
            }
            else if (state.TakeDue(due) is not { } step)
            {
                BecomeLate();
            }
            else if (
                step is { Phase: StepPhase.Running, Repeat.Next: { } next }
                && next <= at
                && step.Cancel is CancelReason.None
            )
            {
                NextRound(step);
            }
            else
            {
                DueCame(step);
            }
            WorkOff();
        }
    }

    void DueCame(StepState step)
    {
        switch (step.Phase)
        {
            case StepPhase.Held:
                AskGuard(step, woken: false);
                break;
            case StepPhase.Resting:
                Enter(step);
                break;
            case StepPhase.Running when step.Step.Kind.Name == ControlKinds.Wait && !WaitsForRuns(step):
                EndAttempt(step, AttemptResult.Done());
                break;
            case StepPhase.Running when step.Cancel is CancelReason.None or CancelReason.Halt:
                Emit(new CancelAsked(step.Path, CancelReason.Timeout));
                foreach (var inner in step.InnerScopes)
                    Close(inner, CancelReason.Timeout);
                if (WaitsForRuns(step))
                    EndAttempt(step, AttemptResult.Fail("timeout", "the runs had not ended"));
                else
                    EndIfEmpty(step);
                break;
            default:
                break;
        }
    }

    /// <summary>A container that is being closed ends when nothing in it is at work any more.</summary>
    void EndIfEmpty(StepState step)
    {
        if (step.Each is not null)
            _work.Enqueue(new(WorkKind.Fill, step, null));
        else if (step.Repeat is not null)
            _work.Enqueue(new(WorkKind.NextRound, step, null));
    }

    void Suspend()
    {
        foreach (var step in state.AllSteps.Where(s => s.IsInFlight && !s.IsSuspended).ToList())
            Emit(new AttemptSuspended(step.Path, step.Attempt));
    }

    void Recover()
    {
        foreach (var step in state.AllSteps.Where(s => s.IsInFlight).ToList())
        {
            Lose(step, confirmedBy: null);
            WorkOff();
        }
    }

    void AttemptIsLost(LostInput lost)
    {
        if (state.Find(lost.Step) is { IsInFlight: true } step && step.Attempt == lost.Attempt)
            Lose(step, confirmedBy: null);
    }

    void LeftoverStays(LeftoverInput left)
    {
        if (
            state.Find(left.Step) is { IsInFlight: true } step
            && step.Attempt == left.Attempt
            && step.Leftover != left.Why
        )
        {
            Emit(new LeftoverFound(step.Path, left.Attempt, left.Why));
        }
    }

    void Lose(StepState step, string? confirmedBy)
    {
        var reason = step.Cancel;
        Emit(new AttemptLost(step.Path, step.Attempt, step.IsSuspended, confirmedBy));
        if (state.IsStopping || EnclosedInClosing(step))
        {
            Settle(step, Outcome.Stopped);
        }
        else if (reason == CancelReason.Timeout)
        {
            Fail(step, TimeoutError(step));
        }
        else if (step.Step.OnCrash == CrashRule.Fail)
        {
            Fail(step, new("crash", "the service ended while this step was at work, and onCrash is fail"));
        }
        else if (step.Step.OnCrash == CrashRule.Pause)
        {
            PauseAt(
                step,
                new(
                    "crash",
                    "the service ended while this step was at work; onCrash is pause: "
                        + "find out how far it got, then decide"
                )
            );
        }
        else if (step.Lost > step.Step.CrashLimit)
        {
            Fail(
                step,
                new(
                    "crash-limit",
                    $"the service ended {(step.Lost == 1 ? "once" : $"{step.Lost} times")} while this "
                        + $"step was at work; the limit is {step.Step.CrashLimit}"
                )
            );
        }
        else
        {
            StartAttempt(step);
        }
    }

    /// <summary>
    /// What would be decided can't be stored. The state is as the disk has it; nothing of what can't be stored happens.
    /// </summary>
    void CannotStore(UnstorableInput unstorable)
    {
        if (unstorable.Input is AttemptEndedInput ended)
        {
            if (state.Find(ended.Step) is { IsInFlight: true } step && step.Attempt == ended.Attempt)
                Fail(step, new("too-big", unstorable.Why));
            return;
        }
        if (state.HasEnded)
            return;
        // Nothing more is decided by rules that can't be written down: what runs is asked to end, and the run has
        // failed.
        foreach (var running in state.AllSteps.Where(s => s.IsInFlight).ToList())
            Emit(new CancelAsked(running.Path, CancelReason.Stop));
        Emit(new RunSettled(Outcome.Failed, Value.EmptyMap, new("too-big", unstorable.Why)));
    }

    static bool EnclosedInClosing(StepState step)
    {
        for (var owner = step.Scope.Owner; owner is not null; owner = owner.Scope.Owner)
        {
            if (owner.Cancel is CancelReason.Stop or CancelReason.Timeout)
                return true;
        }
        return false;
    }

    /// <summary>
    /// The failure of a scope: that of the deepest step which failed first, however many containers and calls it came
    /// through.
    /// </summary>
    StepError FailureOf(ScopeState scope)
    {
        var first = scope.Steps.First(s => s.IsCountedFailure);
        var origin =
            first.Error?.Origin is not { } deeper
                ? new(state.Id, state.Chain.Name, first.Path, first.Error?.Message ?? "failed", ItemOf(scope))
            : first.Step.Call is null ? deeper
            : deeper.Through(ItemOf(scope) is { } item ? $"{first.Path} (“{item}”)" : first.Path);
        var others = RunState.FailuresIn(scope).Count() - 1;
        return new(
            first.Error?.Code ?? "failed",
            $"{origin.Sentence}{(others > 0 ? $" (and {others:N0} more failed)" : "")}",
            Origin: origin
        );
    }

    static string? ItemOf(ScopeState scope) =>
        scope.Outward.FirstOrDefault(s => s.Owner?.Each is not null) is { } iteration
            ? LoopItems.Name(iteration.Item, 40)
            : null;
}
