using GateChain.Core.Chains;
using GateChain.Core.Running.Events;
using GateChain.Core.Values;

namespace GateChain.Core.Running.State;

// The fold. It decides nothing: it only writes down what an event says.
public sealed partial class RunState
{
    internal void Apply(RunEvent e, DateTimeOffset at)
    {
        switch (e)
        {
            case RunStarted started: Apply(started, at); break;
            case AttemptStarted started: Apply(started, at); break;
            case AttemptFailed failed: Apply(failed, at); break;
            case AttemptLost lost: Apply(lost, at); break;
            case CancelAsked asked: (Step(asked.Step).Cancel, Step(asked.Step).Due) = (asked.Reason, null); break;
            case EachOpened opened: Step(opened.Step).Each = new(opened.Items.AsList); break;
            case IterationOpened opened: Apply(opened, at); break;
            case IterationSettled settled: Apply(settled, at); break;
            case StepSettled settled: Apply(settled, at); break;
            case GateDecided decided: Apply(decided); break;
            case VariableSet set: Apply(set); break;
            case RunWarned warned: _warnings.Add(warned); break;
            case StopAsked asked: Stop = asked; break;
            case LegStarted leg: Apply(leg, at); break;
            case RunSettled settled:
                (Outcome, Outputs, Error, Ended) = (settled.Outcome, settled.Outputs, settled.Error, at);
                break;
            default: throw new InvalidOperationException($"the journal holds an event this version does not know: {e.GetType().Name}");
        }
    }

    // The machine works on the same few steps again and again: the last one found is remembered.
    StepState? _last;

    StepState Step(string path) => _last is not null && _last.Path == path && IsAlive(_last) ? _last
        : _last = Find(path) ?? throw new InvalidOperationException($"the journal names a step that is not there: {path}");

    static bool IsAlive(StepState step)
    {
        if (step.Scope.Owner is null) { return true; }
        for (var scope = step.Scope; scope.Owner is { } owner; scope = owner.Scope)
        {
            if (owner.Inner != scope && (owner.Each is null || scope.Index >= owner.Each.Opened.Length || owner.Each.Opened[scope.Index] != scope)) { return false; }
        }
        return true;
    }

    void Apply(RunStarted e, DateTimeOffset at)
    {
        (Uid, Leg, Started, Release, By, Profile) = (e.Uid, 1, at, e.Release, e.By, e.Profile);
        Params = (DictionaryMap)e.Params.AsMap;
    }

    void Apply(AttemptStarted e, DateTimeOffset at)
    {
        var step = Step(e.Step);
        step.Phase = StepPhase.Running;
        (step.Attempt, step.Inputs, step.Leg, step.Cancel) = (e.Attempt, e.Inputs, Leg, CancelReason.None);
        step.Started ??= at;
        SetDue(step, e.Due);
        OpenRecord(step, at);
        step.Each = null;
        step.Inner = step.Step.Inner is not null && step.Step.Each is null ? new(step.Step.Inner, step, -1, Value.Null) { Started = at } : null;
    }

    void SetDue(StepState step, DateTimeOffset? due)
    {
        step.Due = due;
        if (due is { } moment) { _timers.Enqueue(step, moment); }
    }

    void OpenRecord(StepState step, DateTimeOffset at)
    {
        step.Record = new(_attempts.Count + 1, step.Path, Leg, step.Attempt, at);
        _attempts.Add(step.Record);
    }

    static void CloseRecord(StepState step, string result, StepError? error, DateTimeOffset at)
    {
        if (step.Record is { Ended: null } record) { (record.Ended, record.Result, record.Error) = (at, result, error); }
    }

    void Apply(AttemptFailed e, DateTimeOffset at)
    {
        var step = Step(e.Step);
        CloseRecord(step, "failed", e.Error, at);
        step.Record!.RetryAt = e.RetryAt;
        (step.Phase, step.Error) = (StepPhase.Resting, e.Error);
        step.Retries++;
        SetDue(step, e.RetryAt);
    }

    void Apply(AttemptLost e, DateTimeOffset at)
    {
        var step = Step(e.Step);
        CloseRecord(step, "lost", null, at);
        step.Phase = StepPhase.Pending;
        step.Lost++;
        step.Due = null;
    }

    void Apply(IterationOpened e, DateTimeOffset at)
    {
        var step = Step(e.Step);
        var each = step.Each!;
        each.InFlight++;
        if (each.Opened[e.Index] is { } earlier)
        {
            (earlier.IsOpen, earlier.Started) = (true, at);
            each.Again.Dequeue();
            return;
        }
        each.Opened[e.Index] = new(step.Step.Inner!, step, e.Index, each.Items[e.Index]) { Started = at, IsOpen = true };
        each.Next = e.Index + 1;
    }

    void Apply(IterationSettled e, DateTimeOffset at)
    {
        var each = Step(e.Step).Each!;
        var scope = each.Opened[e.Index]!;
        (scope.IterationOutcome, scope.Collected, scope.IterationError, scope.Ended, scope.IsOpen) = (e.Outcome, e.Collected, e.Error, at, false);
        each.InFlight--;
        Count(each, e.Outcome, 1);
    }

    static void Count(EachState each, Outcome outcome, int by)
    {
        switch (outcome)
        {
            case Chains.Outcome.Succeeded: each.Succeeded += by; break;
            case Chains.Outcome.Failed: each.Failed += by; break;
            default: each.Stopped += by; break;
        }
    }

    void Apply(StepSettled e, DateTimeOffset at)
    {
        var step = Step(e.Step);
        CloseRecord(step, e.Outcome.ToString().ToLowerInvariant(), e.Error, at);
        step.Phase = StepPhase.Settled;
        (step.Outcome, step.Outputs, step.Error, step.Note, step.Ended, step.Due, step.Leg) = (e.Outcome, e.Outputs, e.Error, e.Note, at, null, Leg);
        (step.Warnings, step.Looks) = (e.Warnings ?? [], e.Looks ?? []);
        step.Scope.Unsettled--;
        if (step.IsCountedFailure) { step.Scope.CountedFailures++; }
        if (e.Outcome == Chains.Outcome.Succeeded && !step.Step.Kind.IsControl) { _successes[step.Path] = _successes.GetValueOrDefault(step.Path) + 1; }
        if (e.Outcome == Chains.Outcome.Stopped)
        {
            // A gate from a stopped step never opens; that needs no event of its own.
            foreach (var gate in step.Step.Outgoing) { SetGate(step.Scope, gate.Index, GatePhase.Shut, null); }
        }
    }

    void Apply(GateDecided e) => SetGate(FindScope(e.Scope), e.Gate, e.Open ? GatePhase.Open : GatePhase.Shut, e.Reason);

    static void SetGate(ScopeState scope, int index, GatePhase phase, GateReason? reason)
    {
        ref var gate = ref scope.Gates[index];
        var target = scope.Steps[scope.Scope.Gates[index].To.Index];
        switch (gate.Phase) { case GatePhase.Open: target.OpenGates--; break; case GatePhase.Shut: target.ShutGates--; break; default: break; }
        switch (phase) { case GatePhase.Open: target.OpenGates++; break; case GatePhase.Shut: target.ShutGates++; break; default: break; }
        (gate.Phase, gate.Reason) = (phase, reason);
    }

    void Apply(VariableSet e)
    {
        var scope = FindScope(e.Scope);
        scope.Variables[e.Name] = e.Value;
        _assignments.Add((Step(e.By), scope, e.Name, e.Value));
    }

    void Apply(LegStarted e, DateTimeOffset at)
    {
        (Leg, Outcome, Ended, Stop, Error, Outputs) = (e.Leg, null, null, null, null, Value.EmptyMap);
        Resumes = [.. Resumes, e];
        Params = DictionaryMap.Of(Params.Entries.Concat(e.Params.AsMap.Entries));
        var reset = e.Reset.Select(p => Find(p)!).ToHashSet();
        var reopened = e.Reopened.Select(p => Find(p)!).ToList();
        foreach (var step in reset) { Unsettle(step); step.Reset(); }
        foreach (var step in reopened) { Reopen(step, at); }
        foreach (var path in e.Skip) { Find(path)!.SkipInLeg = true; }
        foreach (var gate in e.Undecided) { SetGate(FindScope(gate.Scope), gate.Gate, GatePhase.Undecided, null); }
        foreach (var each in reopened.Select(s => s.Each).OfType<EachState>()) { ReopenIterations(each); }
        RebuildVariables(reset);
        foreach (var (name, value) in e.Vars.AsMap.Entries)
        {
            Root.Variables[name.AsString] = value;
            _assignments.Add((null, Root, name.AsString, value));
        }
        _last = null;
    }

    static void Unsettle(StepState step)
    {
        if (!step.IsSettled) { return; }
        step.Scope.Unsettled++;
        if (step.IsCountedFailure) { step.Scope.CountedFailures--; }
        foreach (var gate in step.Step.Outgoing) { SetGate(step.Scope, gate.Index, GatePhase.Undecided, null); }
    }

    void Reopen(StepState step, DateTimeOffset at)
    {
        Unsettle(step);
        (step.Phase, step.Error, step.Note, step.Cancel, step.Outputs, step.Leg) = (StepPhase.Running, null, null, CancelReason.None, Value.EmptyMap, Leg);
        // How long it takes is told leg by leg: the pause between them is not its doing.
        (step.Started, step.Ended) = (at, null);
        (step.Retries, step.Lost) = (0, 0);
        step.Attempt = 1;
        OpenRecord(step, at);
        SetDue(step, step.Step.Timeout is { } timeout ? at + timeout : null);
    }

    static void ReopenIterations(EachState each)
    {
        for (var i = 0; i < each.Next; i++)
        {
            if (each.Opened[i] is { IterationOutcome: { } outcome } iteration && (outcome != Chains.Outcome.Succeeded || iteration.Unsettled > 0))
            {
                Count(each, outcome, -1);
                (iteration.IterationOutcome, iteration.IterationError, iteration.Collected, iteration.Ended) = (null, null, null, null);
                each.Again.Enqueue(i);
            }
        }
    }

    // Variables as they would stand had the reset steps never assigned.
    void RebuildVariables(HashSet<StepState> reset)
    {
        foreach (var scope in _assignments.Select(a => a.Scope).Distinct()) { scope.ResetVariables(); }
        _assignments.RemoveAll(a => a.By is not null && WithinAny(a.By, reset));
        foreach (var (_, scope, name, value) in _assignments) { scope.Variables[name] = value; }
    }

    static bool WithinAny(StepState step, HashSet<StepState> steps)
    {
        for (var at = step; at is not null; at = at.Scope.Owner)
        {
            if (steps.Contains(at)) { return true; }
        }
        return false;
    }
}
