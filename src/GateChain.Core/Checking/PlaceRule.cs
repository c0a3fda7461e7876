using GateChain.Core.Chains;
using GateChain.Core.Expressions;
using GateChain.Core.Problems;
using GateChain.Core.Values;

namespace GateChain.Core.Checking;

/// <summary>A node that has the label of a place may come later; while there is none, its steps wait.</summary>
sealed class PlaceRule : ICheckRule
{
    public void Check(CheckContext context)
    {
        var (chain, workspace, problems) = context;
        if (workspace?.Labels is not { } labels)
            return;
        foreach (
            var place in chain
                .AllSteps.Select(s => s.Place)
                .OfType<Setting>()
                .Where(p => p.Constant is { Kind: ValueKind.String, AsString: var label } && !labels.Contains(label))
                .DistinctBy(p => p.Span)
        )
        {
            var label = place.Constant!.Value.AsString;
            problems.Add(
                ProblemKinds.UnknownPlace,
                place.Span,
                $"no node has the label “{label}”: steps with this place wait until one has",
                Nearest.Fix(label, labels)
                    ?? (labels.Count == 0 ? null : $"labels there are: {string.Join(", ", labels.Order())}")
            );
        }
    }
}
