using GateChain.Core.Chains;
using GateChain.Core.Running.Events;
using GateChain.Core.Values;

namespace GateChain.Core.Running.State;

// Attempts, and the iterations and rounds that they open.
sealed partial class RunState
{
    void Apply(RoundOpened e, DateTimeOffset at)
    {
        var step = Step(e.Step);
        var repeat = step.Repeat!;
        repeat.Next = null;
        repeat.Opened.Add(new(step.Step.Inner!, step, e.Round, Value.Null, repeat.Variables) { Started = at });
    }

    void Apply(AttemptStarted e, DateTimeOffset at)
    {
        var step = Step(e.Step);
        SetPhase(step, StepPhase.Running);
        (step.Attempt, step.Inputs, step.Leg, step.Cancel) = (e.Attempt, e.Inputs, Leg, CancelReason.None);
        step.Started ??= at;
        SetDue(step, e.Due);
        OpenRecord(step, at);
        (step.Each, step.Repeat, step.Inner, step.Child, step.IsSuspended) = (null, null, null, null, false);
        step.Cancelled = null;
        if (step.Step.Inner is not { } inner || step.Step.Each is not null)
            return;
        if (step.Step.Repeat is null)
        {
            step.Inner = new(inner, step, -1, Value.Null) { Started = at };
            return;
        }
        step.Repeat = new();
        foreach (var variable in inner.Variables)
            step.Repeat.Variables[variable.Name] = variable.Initial;
    }

    void SetDue(StepState step, DateTimeOffset? due)
    {
        step.Due = due;
        if (due is { } moment)
            _timers.Enqueue(step, moment);
    }

    void OpenRecord(StepState step, DateTimeOffset at)
    {
        step.Record = new(_attempts.Count + 1, step.Path, Leg, step.Attempt, at);
        _attempts.Add(step.Record);
    }

    static void CloseRecord(StepState step, string result, StepError? error, DateTimeOffset at)
    {
        if (step.Record is { Ended: null } record)
            (record.Ended, record.Result, record.Error) = (at, result, error);
    }

    void Apply(AttemptFailed e, DateTimeOffset at)
    {
        var step = Step(e.Step);
        CloseRecord(step, "failed", e.Error, at);
        step.Record!.RetryAt = e.RetryAt;
        SetPhase(step, StepPhase.Resting);
        step.Error = e.Error;
        step.Retries++;
        SetDue(step, e.RetryAt);
    }

    void Apply(AttemptLost e, DateTimeOffset at)
    {
        var step = Step(e.Step);
        CloseRecord(step, "lost", null, at);
        SetPhase(step, StepPhase.Pending);
        if (!e.Planned)
            step.Lost++;
        (step.IsSuspended, step.Leftover, step.Due) = (false, null, null);
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
        each.Opened[e.Index] = new(step.Step.Inner!, step, e.Index, each.Items[e.Index])
        {
            Started = at,
            IsOpen = true,
        };
        each.Next = e.Index + 1;
    }

    void Apply(IterationSettled e, DateTimeOffset at)
    {
        var each = Step(e.Step).Each!;
        var scope = each.Opened[e.Index]!;
        (scope.IterationOutcome, scope.Collected, scope.IterationError, scope.Ended, scope.IsOpen) = (
            e.Outcome,
            e.Collected,
            e.Error,
            at,
            false
        );
        each.InFlight--;
        Count(each, e.Outcome, 1);
    }

    static void Count(EachState each, Outcome outcome, int by)
    {
        switch (outcome)
        {
            case Chains.Outcome.Succeeded:
                each.Succeeded += by;
                break;
            case Chains.Outcome.Failed:
                each.Failed += by;
                break;
            case Chains.Outcome.Skipped:
                each.Skipped += by;
                break;
            default:
                each.Stopped += by;
                break;
        }
    }
}
