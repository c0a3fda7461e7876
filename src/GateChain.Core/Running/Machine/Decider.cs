using GateChain.Core.Chains;
using GateChain.Core.Running.Events;
using GateChain.Core.Running.State;
using GateChain.Core.Values;

namespace GateChain.Core.Running.Machine;

/// <summary>One decision in the making. A work list, not recursion, carries it from step to step, so that long chains need no stack.</summary>
sealed partial class Decider(RunState state, DateTimeOffset at)
{
    readonly List<RunEvent> _events = [];
    readonly Queue<Work> _work = new();

    enum WorkKind { Look, ScopeEnded, Fill }

    readonly record struct Work(WorkKind Kind, StepState? Step, ScopeState? Scope);

    public IReadOnlyList<RunEvent> Events => _events;

    public void Take(RunInput input)
    {
        switch (input)
        {
            case StartInput start: Start(start); break;
            case AttemptEndedInput ended: AttemptEnded(ended); break;
            case TimeInput: TimeCame(); break;
            case RecoveredInput: Recover(); break;
            case StopInput stop when !state.HasEnded && !state.IsStopping: StopRun(stop.By, stop.Message); break;
            case ResumeInput resume: Resume(resume); break;
            default: break;
        }
        WorkOff();
    }

    void Emit(RunEvent e)
    {
        _events.Add(e);
        state.Apply(e, at);
    }

    void WorkOff()
    {
        while (_work.TryDequeue(out var work))
        {
            switch (work.Kind)
            {
                case WorkKind.Look: Look(work.Step!); break;
                case WorkKind.Fill: Fill(work.Step!); break;
                default: ScopeEnded(work.Scope!); break;
            }
        }
    }

    StateNames Names(ScopeState scope) => new(state, scope, at);

    void Start(StartInput start)
    {
        var given = state.Chain.Parameters
            .Where(p => start.Params.ContainsKey(p.Name) || p.Default is not null)
            .Select(p => KeyValuePair.Create(p.Name, start.Params.TryGetValue(p.Name, out var value) ? value : p.Default!.Value));
        Emit(new RunStarted(start.Uid, state.Chain.Name, start.Release, Value.Map(DictionaryMap.Of(given)), start.Profile, start.By));
        OpenScope(state.Root);
    }

    void OpenScope(ScopeState scope)
    {
        foreach (var step in scope.Steps)
        {
            if (step.Step.Incoming.Count == 0) { _work.Enqueue(new(WorkKind.Look, step, null)); }
        }
        EndIfSettled(scope);
    }

    void EndIfSettled(ScopeState scope)
    {
        if (scope.Unsettled == 0) { _work.Enqueue(new(WorkKind.ScopeEnded, null, scope)); }
    }

    void AttemptEnded(AttemptEndedInput ended)
    {
        if (state.Find(ended.Step) is not { IsInFlight: true } step || step.Attempt != ended.Attempt) { return; }
        EndAttempt(step, ended.Result);
    }

    void TimeCame()
    {
        while (state.NextDue is { } due && due <= at)
        {
            var step = state.TakeDue();
            switch (step.Phase)
            {
                case StepPhase.Resting: StartAttempt(step); break;
                case StepPhase.Running when step.Step.Kind.Name == Chains.Kinds.ControlKinds.Wait: EndAttempt(step, AttemptResult.Done()); break;
                case StepPhase.Running when step.Cancel == CancelReason.None:
                    Emit(new CancelAsked(step.Path, CancelReason.Timeout));
                    foreach (var inner in step.InnerScopes) { Close(inner, CancelReason.Timeout); }
                    if (step.Each is not null) { _work.Enqueue(new(WorkKind.Fill, step, null)); }
                    break;
                default: break;
            }
            WorkOff();
        }
    }

    void Recover()
    {
        foreach (var step in state.AllSteps.Where(s => s.IsInFlight).ToList())
        {
            var reason = step.Cancel;
            Emit(new AttemptLost(step.Path, step.Attempt));
            if (state.IsStopping || EnclosedInClosing(step)) { Settle(step, Outcome.Stopped); }
            else if (reason == CancelReason.Timeout) { Settle(step, Outcome.Failed, error: TimeoutError(step)); }
            else if (step.Step.OnCrash == CrashRule.Fail)
            {
                Settle(step, Outcome.Failed, error: new("crash", "the service ended while this step was at work, and onCrash is fail"));
            }
            else if (step.Lost > step.Step.CrashLimit)
            {
                Settle(step, Outcome.Failed, error: new("crash-limit", $"the service ended {step.Lost} times while this step was at work; the limit is {step.Step.CrashLimit}"));
            }
            else { StartAttempt(step); }
            WorkOff();
        }
    }

    static bool EnclosedInClosing(StepState step)
    {
        for (var owner = step.Scope.Owner; owner is not null; owner = owner.Scope.Owner)
        {
            if (owner.Cancel != CancelReason.None) { return true; }
        }
        return false;
    }

    void StopRun(string by, string? message)
    {
        Emit(new StopAsked(by, message));
        Close(state.Root, CancelReason.Stop);
    }

    /// <summary>Settles what has not started as stopped and asks what runs to end.</summary>
    void Close(ScopeState scope, CancelReason reason)
    {
        foreach (var step in scope.Steps)
        {
            if (step.IsSettled) { continue; }
            if (step.Phase != StepPhase.Running || step.Step.Kind.Name == Chains.Kinds.ControlKinds.Wait)
            {
                Settle(step, Outcome.Stopped);
                continue;
            }
            if (step.Cancel == CancelReason.None || reason == CancelReason.Stop) { Emit(new CancelAsked(step.Path, CancelReason.Stop)); }
            foreach (var inner in step.InnerScopes.Where(i => i.IterationOutcome is null)) { Close(inner, reason); }
            if (step.Each is not null) { _work.Enqueue(new(WorkKind.Fill, step, null)); }
        }
    }

    void RunEnded()
    {
        var outcome = state.IsStopping ? Outcome.Stopped : state.Root.CountedFailures > 0 ? Outcome.Failed : Outcome.Succeeded;
        var outputs = new List<KeyValuePair<string, Value>>();
        var error = outcome == Outcome.Failed ? FailureOf(state.Root) : outcome == Outcome.Stopped && state.Stop!.Message is { } why ? new StepError("stopped", why) : null;
        foreach (var output in state.Chain.Outputs)
        {
            var value = output.Expression.Evaluate(Names(state.Root));
            if (!value.IsError) { outputs.Add(KeyValuePair.Create(output.Name, value)); }
            else if (outcome == Outcome.Succeeded)
            {
                (outcome, error) = (Outcome.Failed, new("expression", $"output “{output.Name}”: {value.AsError.Message}", output.Expression.Text));
            }
        }
        Emit(new RunSettled(outcome, Value.Map(DictionaryMap.Of(outputs)), error));
    }

    static StepError FailureOf(ScopeState scope)
    {
        var failed = scope.Steps.Where(s => s.IsCountedFailure).ToList();
        var first = failed[0];
        var more = failed.Count > 1 ? $" (and {failed.Count - 1} more failed)" : "";
        return new(first.Error?.Code ?? "failed", $"{first.Path}: {first.Error?.Message ?? "failed"}{more}");
    }
}
