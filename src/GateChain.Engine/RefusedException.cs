using GateChain.Core.Expressions;
using GateChain.Core.Running.State;

namespace GateChain.Engine;

/// <summary>Why something that was asked for is not done.</summary>
public enum RefusalKind
{
    NotFound,
    Invalid,
    Conflict,
    Unavailable,
}

/// <summary>What was asked for is not done, and why, in words for people. Nothing was changed.</summary>
public sealed class RefusedException(RefusalKind kind, string message, IReadOnlyList<string>? details = null)
    : Exception(message)
{
    public RefusalKind Kind { get; } = kind;
    public IReadOnlyList<string> Details { get; } = details ?? [];

    /// <summary>A run has no step of that path; the nearest one is named.</summary>
    public static RefusedException NoStep(RunState run, string path) =>
        run.FindScopeOrNull(path) is { Index: >= 0 } loop
            ? new(
                RefusalKind.NotFound,
                $"“{path}” is {(loop.Owner!.Each is not null ? "an iteration" : "a round")} of “"
                    + $"{loop.Owner.Path}”, not a step; its steps are "
                    + $"{string.Join(", ", loop.Steps.Take(5).Select(s => s.Path))}"
            )
            : new(
                RefusalKind.NotFound,
                $"there is no step “{path}” in run {run.Id}"
                    + $"{(Nearest.Mend(path, run.AllSteps.Select(s => s.Path)) is { } mend ? $"; {mend}" : "")}"
            );
}
