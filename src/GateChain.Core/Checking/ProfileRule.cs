using GateChain.Core.Expressions;
using GateChain.Core.Problems;

namespace GateChain.Core.Checking;

/// <summary>
/// Values that expressions read as <c>profile.x</c> must be in every profile, for a chain can run under any.
/// </summary>
sealed class ProfileRule : ICheckRule
{
    public void Check(CheckContext context)
    {
        if (context.Workspace is not { } workspace)
            return;
        foreach (var placed in context.Expressions)
        {
            var read = Walk.All(placed.At.Expression.Tree)
                .OfType<SelectExpr>()
                .Where(s => s is { Optional: false, Operand: IdentExpr { Name: "profile" } })
                .ToList();
            var asked = read.Where(s => s.Test).Select(s => s.Field).ToHashSet();
            foreach (var select in read.Where(s => !s.Test && !asked.Contains(s.Field)))
                Check(placed.At.Place(select.Span), select.Field, workspace, context.Problems);
        }
    }

    static void Check(Span span, string name, WorkspaceContext workspace, ProblemList problems)
    {
        var lacking = workspace.Profiles.Where(p => p.Value.AsMap.Find(name) is null).Select(p => p.Key).ToList();
        if (workspace.Profiles.Count == 0)
        {
            problems.Add(
                ProblemKinds.UnknownProfileValue,
                span,
                $"there is no profile in profiles.yaml that has “{name}”"
            );
        }
        else if (lacking.Count == workspace.Profiles.Count)
        {
            problems.Add(
                ProblemKinds.UnknownProfileValue,
                span,
                $"no profile has “{name}”",
                Nearest.Fix(
                    name,
                    workspace.Profiles.Values.SelectMany(p => p.AsMap.Entries.Select(e => e.Key.AsString)).Distinct()
                )
            );
        }
        else if (lacking.Count > 0)
        {
            problems.Add(
                ProblemKinds.ProfileLacks,
                span,
                $"the {(lacking.Count == 1 ? "profile" : "profiles")} "
                    + $"{string.Join(", ", lacking.Select(l => $"“{l}”"))} "
                    + $"{(lacking.Count == 1 ? "has" : "have")} no “{name}”",
                $"declare it there; under {(lacking.Count == 1 ? "it" : "them")} this would fail"
            );
        }
    }
}
