using GateChain.Core.Running.Events;
using GateChain.Core.Values;

namespace GateChain.Core.Running.State;

// What a new leg does to the state: resets, reopened containers, variables rebuilt.
sealed partial class RunState
{
    void Apply(LegStarted e, DateTimeOffset at)
    {
        (Leg, Outcome, Ended, Stop, Error, Outputs, ResumeAt) = (e.Leg, null, null, null, null, Value.EmptyMap, null);
        (RootEnd, IsStopping, IsQueued) = (null, false, e.Queued);
        var wasPaused = Pause is not null;
        Pause = null;
        Resumes = [.. Resumes, e];
        Params = DictionaryMap.Of(Params.Entries.Concat(e.Params.AsMap.Entries));
        ResetAndReopen(e.Reset, e.Reopened, e.Undecided);
        foreach (var path in e.Skip.Where(p => Find(p) is not null))
            Find(path)!.SkipInLeg = true;
        foreach (var (path, outputs) in e.Settle.Where(s => Find(s.Key) is not null))
            Find(path)!.SettleInLeg = outputs;
        Redo = [.. e.Redo.Select(p => Find(p)!)];
        foreach (var (name, value) in e.Vars.AsMap.Entries)
        {
            Root.Variables[name.AsString] = value;
            _assignments.Add((null, Root, name.AsString, value));
        }
        if (e.Release is { } release)
        {
            MoveTo(release);
            Number = e.Number;
        }
        if (wasPaused)
            PutTimersBack();
    }

    // Resets steps, lets containers continue inside, and takes back what hung on what is done again.
    void ResetAndReopen(IReadOnlyList<string> resets, IReadOnlyList<string> reopens, IReadOnlyList<GateName> undecided)
    {
        var reset = resets.Select(p => Find(p)!).ToHashSet();
        var reopened = reopens.Select(p => Find(p)!).ToList();
        foreach (var step in reset)
        {
            Unsettle(step);
            SetPhase(step, StepPhase.Pending);
            step.Reset();
        }
        foreach (var step in reopened)
        {
            // One that is still running in a paused run is only gone into.
            if (step.Phase == StepPhase.Running)
                continue;
            Unsettle(step);
            SetPhase(step, StepPhase.Pending);
            (step.GoesOn, step.Error, step.Note, step.Outputs, step.Ended) = (true, null, null, Value.EmptyMap, null);
            step.Cancelled = null;
        }
        foreach (var gate in undecided)
            SetGate(FindScope(gate.Scope), gate.Gate, GatePhase.Undecided, null);
        foreach (var step in reopened)
        {
            if (step.Each is { } each)
                ReopenIterations(each);
            if (step.Repeat is { } repeat)
                ReopenRound(repeat);
        }
        RebuildVariables(reset);
        _last = null;
    }

    static void Unsettle(StepState step)
    {
        if (!step.IsSettled)
            return;
        step.Scope.Unsettled++;
        if (step.IsCountedFailure)
            step.Scope.CountedFailures--;
        foreach (var gate in step.Step.Outgoing)
            SetGate(step.Scope, gate.Index, GatePhase.Undecided, null);
    }

    void Apply(ContainerReopened e, DateTimeOffset at)
    {
        var step = Step(e.Step);
        SetPhase(step, StepPhase.Running);
        (step.GoesOn, step.Cancel, step.Leg) = (false, CancelReason.None, Leg);
        if (e.Inputs is { } inputs)
            step.Inputs = inputs;
        if (step.Child is { } child)
            step.Child = child with { ToResume = true };
        // How long it takes is told leg by leg: the pause between them is not its doing.
        (step.Started, step.Ended) = (at, null);
        (step.Retries, step.Lost) = (0, 0);
        step.Attempt = 1;
        OpenRecord(step, at);
        SetDue(step, e.Due);
    }

    static void ReopenIterations(EachState each)
    {
        for (var i = 0; i < each.Next; i++)
        {
            if (
                each.Opened[i] is { IterationOutcome: { } outcome } iteration
                && (outcome is not (Chains.Outcome.Succeeded or Chains.Outcome.Skipped) || iteration.Unsettled > 0)
            )
            {
                Count(each, outcome, -1);
                (iteration.IterationOutcome, iteration.IterationError, iteration.Collected, iteration.Ended) = (
                    null,
                    null,
                    null,
                    null
                );
                iteration.Cancelled = null;
                each.Again.Enqueue(i);
            }
        }
    }

    static void ReopenRound(RepeatState repeat)
    {
        if (
            repeat.Opened is [.., { IterationOutcome: { } outcome } last]
            && (outcome != Chains.Outcome.Succeeded || last.Unsettled > 0)
        )
        {
            (last.IterationOutcome, last.Ended) = (null, null);
        }

        // The limit counts the rounds of one leg.
        repeat.Before = repeat.Opened.Count - (repeat.Current is null ? 0 : 1);
        repeat.Next = null;
    }

    // Variables as they would stand had the reset steps never assigned.
    void RebuildVariables(HashSet<StepState> reset)
    {
        foreach (var scope in _assignments.Select(a => a.Scope).Distinct())
            scope.ResetVariables();
        _assignments.RemoveAll(a => a.By is not null && WithinAny(a.By, reset));
        foreach (var (_, scope, name, value) in _assignments)
            scope.Variables[name] = value;
    }

    static bool WithinAny(StepState step, HashSet<StepState> steps)
    {
        for (var at = step; at is not null; at = at.Scope.Owner)
        {
            if (steps.Contains(at))
                return true;
        }
        return false;
    }
}
