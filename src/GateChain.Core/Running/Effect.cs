using GateChain.Core.Running.Events;
using GateChain.Core.Running.State;

namespace GateChain.Core.Running;

/// <summary>What has to be done outside of the machine for a run to continue.</summary>
public enum EffectKind
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
public readonly record struct Effect(EffectKind Form, StepState Step)
{
    /// <summary>All that a state waits for; a recovered run is recovered with it.</summary>
    public static IEnumerable<Effect> Of(RunState state) => state.AllSteps.Select(OfStep).OfType<Effect>();

    /// <summary>What one decision has newly asked for.</summary>
    public static Effect? Of(RunState state, RunEvent e) =>
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

    static Effect? OfStep(StepState step) =>
        step.Phase switch
        {
            StepPhase.Running when step.IsInFlight => new(EffectKind.Attempt, step),
            StepPhase.Running when step.Step.Call is not null => new(EffectKind.Child, step),
            StepPhase.Running when step.WaitsForRuns => new(EffectKind.Runs, step),
            StepPhase.Held when step.IsLooking => new(EffectKind.Probes, step),
            StepPhase.Queued => new(EffectKind.Lane, step),
            _ => null,
        };
}
