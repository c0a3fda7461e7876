using GateChain.Core.Running;
using GateChain.Core.Running.State;

namespace GateChain.Engine.Basics;

/// <summary>What was asked for is not done, and why, in words for people. Nothing was changed.</summary>
public sealed class RefusedException(RefusalKind kind, string message, IReadOnlyList<string>? details = null)
    : Exception(message)
{
    /// <summary>Says what the run machine said.</summary>
    public RefusedException(Refused refused)
        : this(refused.Kind, refused.Sentence, refused.Details) { }

    /// <summary>What kind of refusal it is.</summary>
    public RefusalKind Kind { get; } = kind;

    /// <summary>More, a sentence each; mostly none.</summary>
    public IReadOnlyList<string> Details { get; } = details ?? [];

    /// <summary>
    /// Whether there is a run for the same occasion already: what was asked for was done before.
    /// </summary>
    public bool IsTaken { get; init; }

    /// <summary>
    /// The run that is going while its chain's <c>whenBusy</c> is <c>skip</c>; null for other reasons.
    /// </summary>
    public long? Busy { get; init; }

    /// <summary>There is no run of that number.</summary>
    public static RefusedException NoRun(long run) => new(RefusalKind.NotFound, $"there is no run {run}");

    /// <summary>Gives a ruling that was no refusal.</summary>
    /// <exception cref="RefusedException">It was one.</exception>
    public static DecideResult Accepted(DecideResult ruling) =>
        ruling is Refused refused ? throw new RefusedException(refused) : ruling;

    /// <summary>A run has no step of that path; the nearest one is named.</summary>
    public static RefusedException NoStep(RunState run, string path) => new(Refused.NoStep(run, path));
}
