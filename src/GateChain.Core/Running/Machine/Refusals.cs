using GateChain.Core.Chains;
using GateChain.Core.Running.Events;
using GateChain.Core.Running.State;
using GateChain.Core.Values;

namespace GateChain.Core.Running.Machine;

/// <summary>
/// When a person's command is not done, and why. The only place that says so: of two who decide at once, the second is
/// told who was first.
/// </summary>
static class Refusals
{
    /// <summary>
    /// Why an input is not decided; null when it is. What does not come from a person is never refused.
    /// </summary>
    public static Refused? Of(RunState state, RunInput input) =>
        input switch
        {
            StopInput => state is { HasEnded: true, ResumeAt: null } ? HasEnded(state) : null,
            PauseInput => Pause(state),
            AnswerInput answer => Answer(state, answer),
            ConfirmGoneInput gone => ConfirmGone(state, gone),
            HoldInput hold => Hold(state, hold),
            CancelInput cancel => Cancel(state, cancel),
            ResumeInput resume => Resume(state, resume),
            _ => null,
        };

    static Refused HasEnded(RunState state) =>
        Refused.Conflict(
            $"run {state.Id} has already ended: it {(state.Outcome == Outcome.Stopped ? "was stopped" : state.Word)} "
                + $"at {state.Ended:u}"
        );

    static Refused? Pause(RunState state) =>
        state switch
        {
            { HasEnded: true } => HasEnded(state),
            { Pause: { } pause } => Refused.Conflict($"run {state.Id} was already paused by {pause.By}"),
            { IsQueued: true } => Refused.Conflict($"run {state.Id} is queued and has not begun"),
            { IsStopping: true } => Refused.Conflict($"run {state.Id} is being stopped by {state.Stop!.By}"),
            { RootEnd: not null } => Refused.Conflict($"run {state.Id} is ending: only its handlers still run"),
            _ => null,
        };

    static Refused? Answer(RunState state, AnswerInput answer)
    {
        if (answer.Outputs.Kind != ValueKind.Map)
            return new(RefusalKind.Invalid, "outputs are a mapping of names to values", []);
        if (state.Find(answer.Step) is not { } step)
            return Refused.NoStep(state, answer.Step);
        if (state.HasEnded)
        {
            return Refused.Conflict(
                $"run {state.Id} has ended ({state.Word}); {NotPaused(step)}. To do it again: gatechain resume "
                    + $"{state.Id}{(state.Outcome == Outcome.Succeeded ? $" --from '{step.Path}'" : "")}"
            );
        }
        if (answer.Answer == PauseAnswer.Settle && WrongOutputs(state, answer.Step, answer.Outputs) is { } refused)
            return refused;
        return step.Phase == StepPhase.Paused ? null : Refused.Conflict(NotPaused(step));
    }

    static string NotPaused(StepState step) =>
        step.Answered is { } first
            ? $"“{step.Path}” is not paused any more: {first.By} answered “{first.Answer.Word()}” at {first.At:u}"
            : $"“{step.Path}” is not paused; it is {step.Word}";

    static Refused? ConfirmGone(RunState state, ConfirmGoneInput gone)
    {
        if (state.HasEnded)
            return Refused.Conflict($"run {state.Id} is not running");
        if (state.Find(gone.Step) is not { } step)
            return Refused.NoStep(state, gone.Step);
        return step is { IsInFlight: true, Leftover: not null }
            ? null
            : Refused.Conflict($"“{gone.Step}” does not wait for anything of a lost attempt");
    }

    static Refused? Hold(RunState state, HoldInput input)
    {
        if (state.HasEnded)
            return HasEnded(state);
        if (state.Find(input.Step) is not { } step)
            return Refused.NoStep(state, input.Step);
        if (step.Phase != StepPhase.Held)
            return Refused.Conflict($"“{step.Path}” is not held by its guard; it is {step.Word}");
        if (step is { IsLooking: false, Hold.Latest: { Verdict: Verdict.Proceed } latest })
        {
            return Refused.Conflict(
                $"“{step.Path}” has been let in{(latest.By is { } by ? $" by {by}" : "")} already, and starts when the "
                    + "run is resumed"
            );
        }
        if (input.Answer == HoldAnswer.LetThrough)
            return null;
        return step.IsLooking ? Refused.Conflict($"the guard of “{step.Path}” is looking already")
            : state.IsPaused && !step.Scope.IsHandler
                ? Refused.Conflict($"run {state.Id} is paused: guards look again when it is resumed")
            : null;
    }

    static Refused? Cancel(RunState state, CancelInput cancel)
    {
        if (cancel.As is not (Outcome.Failed or Outcome.Skipped or Outcome.Succeeded))
            return new(RefusalKind.Invalid, "a step is cancelled as failed, skipped or succeeded", []);
        if (cancel.Outputs.Kind != ValueKind.Map)
            return new(RefusalKind.Invalid, "outputs are a mapping of names to values", []);
        if (cancel.As != Outcome.Succeeded && cancel.Outputs.AsMap.Count > 0)
            return new(RefusalKind.Invalid, $"what is cancelled as {cancel.As.Word()} gives no outputs", []);
        if (state.HasEnded)
            return HasEnded(state);
        if (state.IsStopping)
            return Refused.Conflict($"run {state.Id} is being stopped by {state.Stop!.By}");
        if (state.Find(cancel.Step) is { } step)
        {
            return CancelOf(step)
                ?? (
                    cancel.As == Outcome.Succeeded && WrongOutputs(state, cancel.Step, cancel.Outputs) is { } wrong
                        ? wrong
                        : null
                );
        }
        return state.FindScopeOrNull(cancel.Step) is { Owner.Each: not null } iteration ? CancelOf(iteration, cancel)
            : state.FindScopeOrNull(cancel.Step) is { Owner: { Repeat: not null } repeat }
                ? Refused.Conflict(
                    $"“{cancel.Step}” is a round: cancel “{repeat.Path}”, or the step in it that is at work"
                )
            : Refused.NoStep(state, cancel.Step);
    }

    static Refused? CancelOf(StepState step) =>
        step switch
        {
            { Phase: StepPhase.Pending } => Refused.Conflict(
                $"“{step.Path}” has not begun; what has not begun can't be cancelled"
            ),
            { Phase: StepPhase.Settled } => HasSettled(step.Path, step.Outcome, step.Ended),
            { Phase: StepPhase.Paused } => Refused.Conflict(
                $"“{step.Path}” is paused and waits for an answer: retry, anew, skip, settle, fail or stop"
            ),
            { Cancel: CancelReason.Person, Cancelled: { } first } => Refused.Conflict(
                $"“{step.Path}” is ending already: {first.Sentence}"
            ),
            { Cancel: CancelReason.Timeout } => Refused.Conflict(
                $"“{step.Path}” is ending already: its timeout struck"
            ),
            _ => IsClosing(step.Scope) is { } around
                ? Refused.Conflict($"“{step.Path}” is ending already, with “{around}”")
                : null,
        };

    static Refused HasSettled(string path, Outcome outcome, DateTimeOffset? at) =>
        Refused.Conflict(
            $"“{path}” has settled already: it {(outcome is Outcome.Skipped or Outcome.Stopped ? "was " : "")}"
                + $"{outcome.Word()} at {at:u}"
        );

    static Refused? CancelOf(ScopeState iteration, CancelInput cancel) =>
        iteration.IterationOutcome is { } outcome ? HasSettled(iteration.Path, outcome, iteration.Ended)
        : !iteration.IsOpen ? Refused.Conflict($"“{iteration.Path}” waits for its turn; it can't be cancelled")
        : IsClosing(iteration) is { } around
            ? Refused.Conflict(
                around == iteration.Path
                    ? $"“{around}” is ending already: {iteration.Cancelled!.Sentence}"
                    : $"“{iteration.Path}” is ending already, with “{around}”"
            )
        : cancel.Outputs.AsMap.Entries.Any(e => e.Key is not { Kind: ValueKind.String, AsString: "collected" })
            ? new(RefusalKind.Invalid, "an iteration gives “collected”, and nothing else", [])
        : cancel.Outputs.AsMap.Count > 0 && iteration.Owner!.Step.Each!.Collect is null
            ? new(RefusalKind.Invalid, $"“{iteration.Owner.Path}” collects nothing", [])
        : null;

    // The path of what is ending and lies around a scope, or is that scope; null for nothing.
    static string? IsClosing(ScopeState inner)
    {
        for (var scope = inner; scope.Owner is { } owner; scope = owner.Scope)
        {
            if (scope.Cancelled is not null)
                return scope.Path;
            if (owner.IsEnding)
                return owner.Path;
        }
        return null;
    }

    static Refused? Resume(RunState state, ResumeInput resume)
    {
        if (!state.HasEnded && !state.IsPaused)
        {
            return Refused.Conflict(
                state.Leg > 1
                    ? $"run {state.Id} is already running: leg {state.Leg} was begun by {state.Resumes[^1].By}"
                    : $"run {state.Id} is still going since {state.Started:u}"
            );
        }
        var to = resume.Release is { } release ? state.ChainOf(release) : null;
        var plan = ResumePlan.For(state, resume.Selection(to));
        if (resume.From.FirstOrDefault(resume.Skip.Contains) is { } both)
            return new(RefusalKind.Invalid, $"“{both}” can't be both repeated and skipped", []);
        foreach (var (path, outputs) in resume.Settle)
        {
            if (outputs.Kind != ValueKind.Map)
                return new(RefusalKind.Invalid, $"the outputs for “{path}” are a mapping of names to values", []);
            if (WrongOutputs(state, path, outputs) is { } refused)
                return refused;
        }
        return plan.Refusal is { } why
            ? new(RefusalKind.Conflict, $"run {state.Id} can't be resumed: {why}", plan.Incompatibilities)
            : null;
    }

    // What a person gives in the place of a kind's outputs is what that kind would give.
    static Refused? WrongOutputs(RunState state, string path, Value outputs) =>
        state.Find(path)?.Step is { } step && ManualOutputs.Wrong(step, outputs) is { Count: > 0 } wrong
            ? new(RefusalKind.Invalid, $"“{path}” can't be settled so: {string.Join("; ", wrong)}", wrong)
            : null;
}
