using GateChain.Core.Chains;
using GateChain.Core.Checking.Outcomes;
using GateChain.Core.Expressions;
using GateChain.Core.Problems;
using GateChain.Core.Running;

namespace GateChain.Core.Checking;

/// <summary>
/// Finds where an expression reads an output of a step that may not have succeeded by then, without asking for it
/// first.
/// </summary>
static class MissingOutputs
{
    public static void Check(CheckContext context, IReadOnlyDictionary<StepScope, OutcomeSearch> searches)
    {
        foreach (var placed in context.Expressions)
        {
            context.ThrowIfTimeIsUp();
            var tree = placed.At.Expression.Tree;
            foreach (var select in Walk.All(tree).OfType<SelectExpr>())
            {
                if (
                    select
                    is not {
                        Test: false,
                        Optional: false,
                        Operand: SelectExpr
                        {
                            Test: false,
                            Optional: false,
                            Operand: IdentExpr { Name: "steps" },
                            Field: var name
                        }
                    }
                )
                {
                    continue;
                }
                var error = select.Field == "error";
                if ((!error && StepMap.OwnTypes.Any(o => o.Name == select.Field)) || AsksFor(tree, name, error))
                    continue;
                if (Find(placed.In, name) is not { } other || placed.Before.Value.Contains(other))
                    continue;
                if (!MayBeMissing(placed, other, error, searches))
                    continue;
                if (error)
                {
                    context.Problems.Add(
                        ProblemKinds.MayBeMissing,
                        placed.At.Place(select.Span),
                        $"“{name}” need not have failed when this is computed, and then there is no “error”",
                        $"ask with has(steps.{name}.error), or write steps.{name}.?error.?message.orValue(…)"
                    );
                }
                else
                {
                    context.Problems.Add(
                        ProblemKinds.MayBeMissing,
                        placed.At.Place(select.Span),
                        $"“{name}” need not have succeeded when this is computed, "
                            + $"and then there is no “{select.Field}”",
                        $"ask with has(steps.{name}.{select.Field}), or write steps.{name}.?{select.Field}.orValue(…)"
                    );
                }
            }
        }
    }

    static Step? Find(StepScope scope, string id) =>
        Scopes.Outward(scope).Select(s => s.Find(id)).FirstOrDefault(s => s is not null);

    static bool MayBeMissing(
        PlacedExpression placed,
        Step other,
        bool error,
        IReadOnlyDictionary<StepScope, OutcomeSearch> searches
    )
    {
        if (!searches.TryGetValue(other.Scope, out var search) || !search.Knows(other))
            return false;
        // What is computed when the scope of the other step is through: outputs, collect, until.
        var isAtEnd = placed.Step is null
            ? placed.Gate is null
            : placed.Step.Inner == other.Scope && placed.In == other.Scope;
        if (isAtEnd)
            return error || search.MayEndWellWithout(other);
        // From inside a container, the container's own fate counts beside the other step.
        var beside = placed.Gate?.From ?? placed.Step!;
        while (beside.Scope != other.Scope)
        {
            // A handler hears of what its occasion says, whatever else has happened.
            if (beside.Scope.Occasion is { } occasion)
                return error || occasion != Occasion.Success || search.MayEndWellWithout(other);
            if (beside.Scope.Owner is not { } owner)
                return false;
            beside = owner;
        }
        if (!search.Knows(beside))
            return false;
        if (error)
            return beside != other && search.MayRunWithoutFailure(beside, other) && placed.Gate is null;
        if (placed.Gate is { } gate && gate.From == beside)
        {
            // A failed each tells what it collected too.
            if (
                beside == other
                && other is { Each: not null, Disabled: false }
                && !gate.On.HasFlag(GateOutcomes.Skipped)
            )
            {
                return false;
            }
            return search.MayBeLookedAtWithout(gate, other);
        }
        return beside != other && search.MayRunWithout(beside, other);
    }

    /// <summary>
    /// Whether an expression asks in some way whether the step has got anywhere: then it is taken to know what it does.
    /// </summary>
    static bool AsksFor(Expr tree, string step, bool error) =>
        Walk.All(tree)
            .OfType<SelectExpr>()
            .Any(s =>
                s.Test && (IsStep(s, step) || (s.Operand is SelectExpr owner && IsStep(owner, step)))
                || (
                    (s.Field == "state" || (s.Field == "error" && !error))
                    && s.Operand is SelectExpr of
                    && IsStep(of, step)
                )
            );

    static bool IsStep(SelectExpr select, string step) =>
        select.Field == step && select.Operand is IdentExpr { Name: "steps" };
}
