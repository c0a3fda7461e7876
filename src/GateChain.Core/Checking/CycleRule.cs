using GateChain.Core.Chains;
using GateChain.Core.Problems;

namespace GateChain.Core.Checking;

/// <summary>Steps of one scope must not wait for each other in a circle.</summary>
sealed class CycleRule : ICheckRule
{
    public void Check(CheckContext context)
    {
        var (chain, _, problems) = context;
        foreach (var scope in Scopes.All(chain))
            Check(scope, problems);
    }

    // Steps are taken away as long as one has no gate from what is left; what stays holds a circle.
    static void Check(StepScope scope, ProblemList problems)
    {
        var open = scope.Steps.Except(Scopes.InOrder(scope)).ToHashSet();
        while (open.Count > 0)
        {
            var circle = Circle(open.First(), open);
            problems.Add(
                ProblemKinds.Cycle,
                circle[0].Incoming.First(g => g.From == circle[^1]).Span,
                $"these steps wait for each other: {string.Join(" → ", circle.Append(circle[0]).Select(s => s.Id))}",
                "remove one of the gates"
            );
            foreach (var step in circle)
                open.Remove(step);
            while (open.FirstOrDefault(s => !s.Incoming.Any(g => open.Contains(g.From))) is { } leftover)
                open.Remove(leftover);
        }
    }

    // Walking backwards from any step that is left must meet a step twice.
    static List<Step> Circle(Step start, HashSet<Step> left)
    {
        var path = new List<Step>();
        var step = start;
        while (!path.Contains(step))
        {
            path.Add(step);
            step = step.Incoming.First(g => left.Contains(g.From)).From;
        }
        path = path[path.IndexOf(step)..];
        path.Reverse();
        // Told from the step that stands first in the file.
        var first = path.IndexOf(path.MinBy(s => s.Index)!);
        return [.. path[first..], .. path[..first]];
    }
}
