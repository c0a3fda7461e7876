using GateChain.Core.Chains;
using GateChain.Core.Checking.Outcomes;
using GateChain.Core.Expressions;
using GateChain.Core.Problems;
using GateChain.Core.Running;

namespace GateChain.Core.Checking;

/// <summary>Finds where an expression reads an output of a step that may not have succeeded by then, without asking for it first.</summary>
static class MissingOutputs
{
    public static void Check(CheckContext context, IReadOnlyDictionary<StepScope, OutcomeSearch> searches)
    {
        foreach (var placed in context.Expressions)
        {
            if (placed.Step is null && placed.Gate is null) { continue; }
            var tree = placed.At.Expression.Tree;
            var read = Walk.All(tree).OfType<SelectExpr>().Where(s => s is { Test: false, Optional: false, Operand: SelectExpr { Test: false, Optional: false, Operand: IdentExpr { Name: "steps" } } }).ToList();
            if (read.Count == 0) { continue; }
            foreach (var select in read)
            {
                var name = ((SelectExpr)select.Operand).Field;
                var from = placed.Gate?.From ?? placed.Step!;
                if (StepMap.OwnTypes.Any(o => o.Name == select.Field) || AsksFor(tree, name)) { continue; }
                if (Find(from.Scope, name) is not { } other || placed.Before.Value.Contains(other)) { continue; }
                if (MayBeMissing(placed, from, other, searches))
                {
                    context.Problems.Add(ProblemKinds.MayBeMissing, placed.At.Place(select.Span), $"“{name}” need not have succeeded when this is computed, and then there is no “{select.Field}”",
                        $"ask with has(steps.{name}.{select.Field}), or write steps.{name}.?{select.Field}.orValue(…)");
                }
            }
        }
    }

    static Step? Find(StepScope scope, string id) => Scopes.Outward(scope).Select(s => s.Find(id)).FirstOrDefault(s => s is not null);

    static bool MayBeMissing(PlacedExpression placed, Step from, Step other, IReadOnlyDictionary<StepScope, OutcomeSearch> searches)
    {
        if (!searches.TryGetValue(other.Scope, out var search) || !search.Knows(other)) { return false; }
        // From inside a container, the container's own fate counts beside the other step.
        var beside = from;
        while (beside.Scope != other.Scope)
        {
            if (beside.Scope.Owner is not { } owner) { return false; }
            beside = owner;
        }
        if (beside == other || !search.Knows(beside)) { return false; }
        return placed.Gate is { } gate && beside == from ? search.MayBeLookedAtWithout(gate, other) : search.MayRunWithout(beside, other);
    }

    /// <summary>Whether an expression asks in some way whether the step has got anywhere: then it is taken to know what it does.</summary>
    static bool AsksFor(Expr tree, string step) => Walk.All(tree).OfType<SelectExpr>().Any(s =>
        s.Test && (IsStep(s, step) || (s.Operand is SelectExpr owner && IsStep(owner, step)))
        || (s.Field is "state" or "error" && s.Operand is SelectExpr of && IsStep(of, step)));

    static bool IsStep(SelectExpr select, string step) => select.Field == step && select.Operand is IdentExpr { Name: "steps" };
}
