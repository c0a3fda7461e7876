using GateChain.Core.Running.Events;
using GateChain.Core.Running.Machine.Control;
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
        Continue,
    }

    readonly record struct Work(WorkKind Kind, StepState? Step, ScopeState? Scope);

    public IReadOnlyList<RunEvent> Events => _events;

    public RunState State => state;

    /// <summary>The moment of the input.</summary>
    public DateTimeOffset At => at;

    public Bounds Bounds => bounds;

    public TimeLimit Limit => limit;

    public void Take(RunInput input)
    {
        var wasPaused = state.IsPaused;
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
                CallKind.ChildStarted(this, child);
                break;
            case ChildEndedInput child:
                CallKind.ChildEnded(this, child);
                break;
            case RunsEndedInput ended:
                WaitKind.RunsEnded(this, ended);
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
            case HoldInput hold:
                AnswerHold(hold);
                break;
            case EndangeredInput danger:
                BeEndangered(danger);
                break;
            case CancelInput cancel:
                Cancel(cancel);
                break;
            case ResumeInput resume:
                Resume(resume);
                break;
            default:
                break;
        }
        WorkOff();
        // What it was paused for has ended with what lies around it: what waited for that begins.
        if (wasPaused && !state.IsPaused && !state.HasEnded && input is CancelInput or TimeInput)
        {
            Continue(state.Root);
            WorkOff();
        }
        _spare = _work;
    }

    public void Emit(RunEvent e)
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
                if (state.CutAt is null && !state.HasEnded)
                    Emit(new DecisionCut());
                return;
            }
            switch (work.Kind)
            {
                case WorkKind.Look:
                    Look(work.Step!);
                    break;
                case WorkKind.Continue:
                    ControlKind.Of(work.Step!.Step).Continue(this, work.Step);
                    break;
                default:
                    ScopeEnded(work.Scope!);
                    break;
            }
        }
    }

    /// <summary>
    /// Continues where a decision was cut: at every step that can begin, every container that can continue, every scope
    /// that is through.
    /// </summary>
    void Continue()
    {
        Emit(new DecisionContinued());
        if (state.HasEnded)
            return;
        foreach (var handler in state.Handlers)
        {
            if (handler.Scope.Unsettled > 0)
                Continue(handler.Scope, afterPause: false);
            else
                WarnOfFailed(handler.Scope);
        }
        if (state.RootEnd is not { } end)
            Continue(state.Root, afterPause: false);
        else
            HandleEnd(end);
    }

    public RunBindings Names(ScopeState scope) => new(state, scope, at, bounds, limit.Evaluation);

    /// <summary>
    /// Whether this decision has become so long that what would continue at once is left to the next one: in between, a
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
                start.Number,
                start.Area,
                start.ProfileName,
                start.Fire,
                start.BusyKey,
                start.Replaces.Count > 0 ? start.Replaces : null,
                start.Kept
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
            ContinueInLeg();
    }

    public void OpenScope(ScopeState scope)
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

    void ScopeEnded(ScopeState scope)
    {
        if (scope.Unsettled > 0)
            return;
        if (scope.Owner is not { } owner)
        {
            if (scope.IsHandler)
                HandlerEnded(scope);
            else if (!state.HasEnded && state.RootEnd is null)
                RootEnded();
        }
        else
        {
            ControlKind.Of(owner.Step).ScopeEnded(this, owner, scope);
        }
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
            case StepPhase.Running:
                ControlKind.Of(step.Step).DueCame(this, step);
                break;
            default:
                break;
        }
    }

    /// <summary>The attempt has taken too long: all in it is asked to end.</summary>
    public void TimeOut(StepState step)
    {
        if (step.Cancel is not (CancelReason.None or CancelReason.Halt))
            return;
        Emit(new CancelAsked(step.Path, CancelReason.Timeout));
        foreach (var inner in step.InnerScopes)
            Close(inner, CancelReason.Timeout);
        ControlKind.Of(step.Step).EndLate(this, step);
    }

    /// <summary>A container opens what can be opened in it, or ends, when it is its turn in the work list.</summary>
    public void ContinueLater(StepState step)
    {
        if (step.Each is not null || step.Repeat is not null)
            _work.Enqueue(new(WorkKind.Continue, step, null));
    }
}
