using GateChain.Core.Chains;
using GateChain.Core.Identity;
using GateChain.Core.Running.Events;
using GateChain.Core.Running.State;
using GateChain.Core.Values;
using GateChain.Storage;

namespace GateChain.Engine.Live;

/// <summary>News of a run that others wait for; on disk, in the outbox too.</summary>
/// <param name="Run">The run.</param>
/// <param name="Chain">The name of its chain.</param>
/// <param name="Kind">What happened.</param>
/// <param name="End">How it ended; only with <see cref="RunNotificationKind.Ended"/>.</param>
public sealed record RunNotification(long Run, string Chain, RunNotificationKind Kind, RunEnd? End = null)
{
    /// <summary>Whether the run goes on, or went on, in another service: its decisions are not told here.</summary>
    public bool IsElsewhere { get; init; }
}

/// <summary>How a leg of a run ended.</summary>
/// <param name="Parent">The call that it is a child of; null for none.</param>
/// <param name="Outcome">How.</param>
/// <param name="Outputs">The run's outputs, a map.</param>
/// <param name="Error">Why it failed; null when it did not.</param>
/// <param name="Warnings">What the run as a whole warns of, in sentences.</param>
/// <param name="ResumeAt">When it is resumed by itself; null when it has ended for good.</param>
public sealed record RunEnd(
    ParentLink? Parent,
    Outcome Outcome,
    Value Outputs,
    StepError? Error,
    IReadOnlyList<string> Warnings,
    DateTimeOffset? ResumeAt
)
{
    /// <summary>Where the run lies.</summary>
    public Area Area { get; init; }

    /// <summary>Reads it off the state of a run that has ended.</summary>
    internal static RunEnd Of(RunState state) =>
        new(
            state.Parent,
            state.Outcome!.Value,
            state.Outputs,
            state.Error,
            [.. state.Warnings.Where(w => w.Step.Length == 0).Select(w => w.Message)],
            state.ResumeAt
        )
        {
            Area = state.Area,
        };
}

/// <summary>What of a run others are told about: a change of it is news.</summary>
/// <param name="Word">Its state in a word.</param>
/// <param name="Leg">The leg; 0 before the first one.</param>
/// <param name="IsLate">Whether it takes longer than it should.</param>
/// <param name="ResumeAt">When it is resumed by itself; null for not.</param>
/// <param name="IsEndangered">Whether it will probably take longer.</param>
readonly record struct ReportedState(
    string Word,
    int Leg,
    bool IsLate,
    DateTimeOffset? ResumeAt,
    bool IsEndangered = false
)
{
    public static ReportedState Of(RunState state) =>
        new(state.Word, state.Leg, state.IsLate, state.ResumeAt, state.Danger is not null);

    /// <summary>What happened between two looks at a run, in order.</summary>
    public static IReadOnlyList<RunNotificationKind> Notifications(
        ReportedState before,
        ReportedState after,
        bool hasEnded
    )
    {
        var notification = new List<RunNotificationKind>(2);
        if (after.Leg > before.Leg)
            notification.Add(before.Leg == 0 ? RunNotificationKind.Started : RunNotificationKind.Resumed);
        if (after.IsEndangered && !before.IsEndangered)
            notification.Add(RunNotificationKind.Endangered);
        if (after.IsLate && !before.IsLate)
            notification.Add(RunNotificationKind.Late);
        if (after.Word == "paused" && before.Word != "paused")
            notification.Add(RunNotificationKind.Paused);
        // A call-off ends it once more, this time for good.
        if (hasEnded)
            notification.Add(RunNotificationKind.Ended);
        return notification;
    }
}
