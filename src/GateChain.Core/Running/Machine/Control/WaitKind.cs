using GateChain.Core.Running.State;
using GateChain.Core.Values;

namespace GateChain.Core.Running.Machine.Control;

/// <summary><c>wait</c>: for a moment, or for other runs.</summary>
sealed class WaitKind : ControlKind
{
    public override void Start(Decider run, StepState step, Value inputs, DateTimeOffset? due)
    {
        if (inputs.AsMap.Find("runs") is not null)
        {
            run.Begin(step, inputs, due);
            return;
        }
        var over = run.At;
        if (inputs.AsMap.Find("for") is { Kind: ValueKind.Duration } span)
            over = run.At + span.AsTimeSpan;
        if (inputs.AsMap.Find("until") is { Kind: ValueKind.Timestamp } moment && moment.AsDateTimeOffset > over)
            over = moment.AsDateTimeOffset;
        run.Begin(step, inputs, over);
        if (over <= run.At)
            run.EndAttempt(step, AttemptResult.Done());
    }

    // One that is over, or one for runs that has taken too long.
    public override void DueCame(Decider run, StepState step)
    {
        if (step.WaitsForRuns)
            run.TimeOut(step);
        else
            run.EndAttempt(step, AttemptResult.Done());
    }

    public override void EndLate(Decider run, StepState step) =>
        run.EndAttempt(step, AttemptResult.Fail("timeout", "the runs had not ended"));

    public override bool EndsAtOnce => true;

    /// <summary>The runs that a step waits for have ended.</summary>
    public static void RunsEnded(Decider run, RunsEndedInput ended)
    {
        if (
            run.State.Find(ended.Step) is { Phase: StepPhase.Running } step
            && step.Attempt == ended.Attempt
            && step.WaitsForRuns
        )
        {
            run.EndAttempt(step, ended.Result);
        }
    }
}
