using GateChain.Core.Chains;
using GateChain.Core.Running.Events;
using GateChain.Core.Running.State;

namespace GateChain.Core.Running;

/// <summary>What somebody who resumes a run asks for.</summary>
/// <param name="From">Paths of steps to do again with all their descendants, even if they succeeded.</param>
/// <param name="Without">Paths of steps to pass over, or to settle with outputs given by hand.</param>
/// <param name="To">The chain to move to; null to stay.</param>
public sealed record ResumeSelection(IReadOnlyList<string> From, IReadOnlyList<string> Without, Chain? To = null)
{
    public static ResumeSelection Plain { get; } = new([], []);
}

/// <summary>What a resume does again, and what it keeps.</summary>
/// <param name="Refusal">Why it can't be, or null.</param>
/// <param name="Reset">Paths of steps that are done again from nothing.</param>
/// <param name="Reopened">Paths of containers and calls that continue with what is settled in them.</param>
/// <param name="Undecided">Gates in error whose source keeps its outcome.</param>
/// <param name="Redo">Those of <paramref name="Reset"/> that had succeeded and are done again only because others hang
/// on them.</param>
public sealed record ResumePlan(
    string? Refusal,
    IReadOnlyList<string> Reset,
    IReadOnlyList<string> Reopened,
    IReadOnlyList<GateName> Undecided,
    IReadOnlyList<string> Redo
)
{
    /// <summary>What does not fit, one sentence each, when the run can't move to the wanted release.</summary>
    public IReadOnlyList<string> Incompatibilities { get; init; } = [];

    internal static ResumePlan For(RunState state, ResumeSelection wish)
    {
        static ResumePlan Refuse(string why) => new(why, [], [], [], []);
        if (!state.HasEnded && !state.IsPaused)
            return Refuse(state.IsQueued ? "the run is queued and has not begun" : "the run is still going");
        foreach (var path in wish.From.Concat(wish.Without))
        {
            if (
                path.EndsWith(']')
                    ? state.FindScopeOrNull(path) is null
                    : state.Find(path) is null && CallAbove(state, path) is null
            )
            {
                return Refuse($"there is no step “{path}” in this run");
            }
        }
        if (state.Outcome == Outcome.Succeeded && wish.From.Count == 0)
            return Refuse("the run succeeded; there is nothing to resume");
        // An iteration or a round stands for all of its steps.
        List<string> named =
        [
            .. wish
                .From.Concat(wish.Without)
                .SelectMany(p =>
                    state.Find(p) is not null ? [p]
                    : state.FindScopeOrNull(p) is { } scope ? scope.Steps.Select(s => s.Path)
                    : [p]
                ),
        ];
        var collector = new ResumeCollector(named);
        collector.Scope(state.Root);
        if (collector.Busy is { } busy)
        {
            return Refuse(
                $"“{busy.Path}” is running and depends on a step that would run again; wait for it, "
                    + "or stop the run first"
            );
        }
        foreach (var path in wish.Without)
        {
            if (state.Find(path) is not null && !collector.Reset.Contains(path))
            {
                return Refuse(
                    $"“{path}” lies inside a container that runs again as a whole; it can't be skipped alone"
                );
            }
        }
        var plan = new ResumePlan(null, collector.Reset, collector.Reopened, collector.Undecided, collector.Redo);
        return wish.To is null ? plan : ReleaseFit.Test(state, wish.To, plan);
    }

    /// <summary>
    /// The call step that a path leads through into a child run, with the rest of the path; null when it does not.
    /// </summary>
    public static (StepState Call, string Inner)? CallAbove(RunState state, string path)
    {
        var whole = new StepPath(path);
        foreach (var outer in whole.Outer)
        {
            if (state.Find(outer.Text) is { Child: not null } call)
                return (call, whole.Behind(outer)!.Value.Text);
        }
        return null;
    }
}
