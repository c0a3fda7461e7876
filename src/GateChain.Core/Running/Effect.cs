using GateChain.Core.Running.Events;
using GateChain.Core.Running.State;

namespace GateChain.Core.Running;

/// <summary>What has to be done outside of the machine for a run to go on.</summary>
public enum WorkForm
{
    /// <summary>The attempt of a kind.</summary>
    Attempt,

    /// <summary>A look by the probes of a guard.</summary>
    Probes,

    /// <summary>A turn in a lane.</summary>
    Lane,

    /// <summary>A child run.</summary>
    Child,

    /// <summary>Other runs to end.</summary>
    Runs,
}

/// <summary>One thing that has to be done outside of the machine.</summary>
public readonly record struct PendingWork(WorkForm Form, StepState Step)
{
    /// <summary>All that a state waits for; a recovered run is taken up with it.</summary>
    public static IEnumerable<PendingWork> Of(RunState state) => state.AllSteps.Select(OfStep).OfType<PendingWork>();

    /// <summary>What one decision has newly asked for.</summary>
    public static PendingWork? Of(RunState state, RunEvent e) =>
        e switch
        {
            AttemptStarted started => state.Find(started.Step) is { Phase: StepPhase.Running } step
            && step.Attempt == started.Attempt
                ? OfStep(step)
                : null,
            GuardAsked asked => state.Find(asked.Step) is { IsLooking: true } step && step.Hold!.Looks == asked.Look
                ? OfStep(step)
                : null,
            StepQueued queued => state.Find(queued.Step) is { Phase: StepPhase.Queued } step ? OfStep(step) : null,
            ContainerReopened reopened => state.Find(reopened.Step) is { Step.Call: not null } step
                ? OfStep(step)
                : null,
            _ => null,
        };

    static PendingWork? OfStep(StepState step) =>
        step.Phase switch
        {
            StepPhase.Running when step.IsInFlight => new(WorkForm.Attempt, step),
            StepPhase.Running when step.Step.Call is not null => new(WorkForm.Child, step),
            StepPhase.Running when step.WaitsForRuns => new(WorkForm.Runs, step),
            StepPhase.Held when step.IsLooking => new(WorkForm.Probes, step),
            StepPhase.Queued => new(WorkForm.Lane, step),
            _ => null,
        };
}
