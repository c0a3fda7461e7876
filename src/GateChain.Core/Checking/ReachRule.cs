using GateChain.Core.Chains;
using GateChain.Core.Checking.Outcomes;
using GateChain.Core.Problems;

namespace GateChain.Core.Checking;

/// <summary>
/// By a search over all outcomes: steps that can never run, joins that can't be satisfied, gates that can't open, and
/// outputs that may be missing where they are read.
/// </summary>
sealed class ReachRule : ICheckRule
{
    public void Check(CheckContext context)
    {
        var (chain, _, problems) = context;
        var searches = new Dictionary<StepScope, OutcomeSearch>();
        foreach (var scope in Scopes.All(chain))
        {
            if (OutcomeSearch.Of(scope) is not { } search)
            {
                problems.Add(
                    ProblemKinds.SearchGivenUp,
                    scope.Steps[0].Span,
                    $"these {scope.Steps.Count} steps can end in too many ways to search them all for "
                        + $"what can never happen",
                    null
                );
                continue;
            }
            searches[scope] = search;
            foreach (var step in scope.Steps.Where(search.Knows))
                Check(step, search, problems);
        }
        MissingOutputs.Check(context, searches);
    }

    static void Check(Step step, OutcomeSearch search, ProblemList problems)
    {
        var dead = step.Incoming.Where(g => !search.CanOpen(g)).ToList();
        // Gates behind a step that never runs are told with that step.
        foreach (var gate in dead.Where(g => search.CanRun(g.From) || g.On.HasFlag(GateOutcomes.Skipped)))
        {
            problems.Add(
                ProblemKinds.DeadGate,
                gate.Span,
                $"the gate from “{gate.From.Id}” to “{step.Id}” can never open: {Reason(gate)}"
            );
        }

        if (search.CanRun(step))
            return;
        if (step.Join.Mode == JoinMode.Count && step.Join.Needed > step.Incoming.Count)
        {
            problems.Add(
                ProblemKinds.BadJoin,
                step.Span,
                $"“{step.Id}” waits for {step.Join.Needed} open gates, and only {step.Incoming.Count} lead to it"
            );
        }
        else if (
            step.Join.Mode == JoinMode.All
            && step.Incoming.GroupBy(g => g.From).FirstOrDefault(g => g.All(search.CanOpen) && !search.CanAllOpen(g))
                is { } clash
        )
        {
            problems.Add(
                ProblemKinds.BadJoin,
                step.Span,
                $"“{step.Id}” waits for all gates, and those from “{clash.Key.Id}” can never all open",
                "use join: any or join: some"
            );
        }
        else if (dead.Count > 0 && (step.Join.Mode != JoinMode.Count || dead.Count == step.Incoming.Count))
        {
            problems.Add(
                ProblemKinds.NeverRuns,
                step.Span,
                $"“{step.Id}” can never run: "
                    + $"{string.Join(" and ", dead.Select(g => $"the gate from “{g.From.Id}”"))} can't open"
            );
        }
        else
        {
            problems.Add(
                ProblemKinds.NeverRuns,
                step.Span,
                $"“{step.Id}” can never run: of its gates, "
                    + $"{string.Join(", ", step.Incoming.Select(Words))}, there are never "
                    + $"{(step.Join.Mode == JoinMode.All ? "all" : $"{step.Join.Needed}")} open together",
                step.Join.Mode == JoinMode.All ? "use join: any or join: some" : null
            );
        }
    }

    static string Reason(Gate gate) =>
        gate.From.Disabled ? $"“{gate.From.Id}” is disabled and counts as succeeded"
        : gate.From.Kind.Name == Chains.Kinds.ControlKinds.Stop ? $"“{gate.From.Id}” stops the run"
        : gate.IsElse && gate.From.Branches.Count > 0
            ? $"every branch of “{gate.From.Id}” has a gate, and without a branch it fails"
        : gate.When?.Expression.Tree is Expressions.LiteralExpr ? $"its condition is {gate.When.Expression.Text}"
        : gate.Branch is { } branch ? $"the branch “{branch}” is never taken, one before it always is"
        : $"“{gate.From.Id}” never ends so";

    static string Words(Gate gate) => $"from “{gate.From.Id}” {(gate.Label.Length == 0 ? "on success" : gate.Label)}";
}
