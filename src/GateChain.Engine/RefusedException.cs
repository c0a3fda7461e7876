using GateChain.Core.Expressions;
using GateChain.Core.Running.State;

namespace GateChain.Engine;

/// <summary>Why something that was asked for is not done.</summary>
public enum RefusalKind { NotFound, Invalid, Conflict, Unavailable }

/// <summary>What was asked for is not done, and why, in words for people. Nothing was changed.</summary>
public sealed class RefusedException(RefusalKind kind, string message, IReadOnlyList<string>? details = null) : Exception(message)
{
    public RefusalKind Kind { get; } = kind;
    public IReadOnlyList<string> Details { get; } = details ?? [];

    /// <summary>A run has no step of that path; the nearest one is named.</summary>
    public static RefusedException NoStep(RunState run, string path) => new(RefusalKind.NotFound,
        $"there is no step “{path}” in run {run.Id}{(Nearest.Mend(path, run.AllSteps.Select(s => s.Path)) is { } mend ? $"; {mend}" : "")}");
}
