using GateChain.Core.Expressions;
using GateChain.Core.Running.Events;
using GateChain.Core.Running.State;

namespace GateChain.Core.Running;

/// <summary>
/// What the machine says to an input: it is decided what follows, it changes nothing, or it is refused.
/// </summary>
public abstract record DecideResult
{
    /// <summary>What follows; empty unless it is <see cref="Decided"/>.</summary>
    public virtual IReadOnlyList<RunEvent> Events => [];
}

/// <summary>Something follows; the state has taken it in.</summary>
/// <param name="Decision">The events, to be journaled before anybody acts on them.</param>
public sealed record Decided(Decision Decision) : DecideResult
{
    public override IReadOnlyList<RunEvent> Events => Decision.Events;
}

/// <summary>The input changes nothing: for example the end of an attempt that nobody waits for any more.</summary>
public sealed record Unchanged : DecideResult
{
    public static Unchanged Instance { get; } = new();
}

/// <summary>Why something that was asked for is not done.</summary>
public enum RefusalKind
{
    NotFound,
    Invalid,
    Conflict,
    Unavailable,
}

/// <summary>What somebody asked for is not done. Nothing was changed.</summary>
/// <param name="Kind">What it is about.</param>
/// <param name="Sentence">Why, in words for people.</param>
/// <param name="Details">More of it, a sentence each; mostly empty.</param>
public sealed record Refused(RefusalKind Kind, string Sentence, IReadOnlyList<string> Details) : DecideResult
{
    internal static Refused Conflict(string why) => new(RefusalKind.Conflict, why, []);

    /// <summary>A run has no step of that path; the nearest one is named.</summary>
    public static Refused NoStep(RunState run, string path) =>
        new(
            RefusalKind.NotFound,
            run.FindScopeOrNull(path) is { Index: >= 0 } loop
                ? $"“{path}” is {(loop.Owner!.Each is not null ? "an iteration" : "a round")} of "
                    + $"“{loop.Owner.Path}”, not a step; its steps are "
                    + string.Join(", ", loop.Steps.Take(5).Select(s => s.Path))
                : $"there is no step “{path}” in run {run.Id}" + Nearest.Hint(path, run.AllSteps.Select(s => s.Path)),
            []
        );
}
