using GateChain.Core.Running;
using GateChain.Core.Running.State;

namespace GateChain.Engine.Basics;

/// <summary>What was asked for is not done, and why, in words for people. Nothing was changed.</summary>
public sealed class RefusedException(RefusalKind kind, string message, IReadOnlyList<string>? details = null)
    : Exception(message)
{
    public RefusedException(Refused refused)
        : this(refused.Kind, refused.Sentence, refused.Details) { }

    public RefusalKind Kind { get; } = kind;
    public IReadOnlyList<string> Details { get; } = details ?? [];

    public static RefusedException NoRun(long run) => new(RefusalKind.NotFound, $"there is no run {run}");

    /// <summary>Gives a ruling that was no refusal.</summary>
    /// <exception cref="RefusedException">It was one.</exception>
    public static Ruling Accepted(Ruling ruling) =>
        ruling is Refused refused ? throw new RefusedException(refused) : ruling;

    /// <summary>A run has no step of that path; the nearest one is named.</summary>
    public static RefusedException NoStep(RunState run, string path) => new(Refused.NoStep(run, path));
}
