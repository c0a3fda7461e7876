using GateChain.Core.Chains;
using GateChain.Core.Problems;

namespace GateChain.Core.Checking;

/// <summary>Steps of one scope must not wait for each other in a circle.</summary>
sealed class CycleRule : ICheckRule
{
    public void Check(CheckContext context)
    {
        var (chain, _, problems) = context;
        foreach (var scope in Scopes.All(chain)) { Check(scope, problems); }
    }

    // Steps are taken away as long as one has no gate from what is left; what stays holds a circle.
    static void Check(StepScope scope, ProblemList problems)
    {
        var open = scope.Steps.ToDictionary(s => s, s => s.Incoming.Count);
        var free = new Queue<Step>(scope.Steps.Where(s => s.Incoming.Count == 0));
        while (free.TryDequeue(out var step))
        {
            open.Remove(step);
            foreach (var gate in step.Outgoing)
            {
                if (open.TryGetValue(gate.To, out var count) && (open[gate.To] = count - 1) == 0) { free.Enqueue(gate.To); }
            }
        }
        while (open.Count > 0)
        {
            var circle = Circle(open.Keys.First(), open);
            problems.Add(ProblemKinds.Cycle, circle[0].Incoming.First(g => g.From == circle[^1]).Span,
                $"these steps wait for each other: {string.Join(" → ", circle.Append(circle[0]).Select(s => s.Id))}", "remove one of the gates");
            foreach (var step in circle) { open.Remove(step); }
            while (open.Keys.FirstOrDefault(s => !s.Incoming.Any(g => open.ContainsKey(g.From))) is { } leftover) { open.Remove(leftover); }
        }
    }

    // Walking backwards from any step that is left must meet a step twice.
    static List<Step> Circle(Step start, Dictionary<Step, int> left)
    {
        var path = new List<Step>();
        var step = start;
        while (!path.Contains(step))
        {
            path.Add(step);
            step = step.Incoming.First(g => left.ContainsKey(g.From)).From;
        }
        path = path[path.IndexOf(step)..];
        path.Reverse();
        // Told from the step that stands first in the file.
        var first = path.IndexOf(path.MinBy(s => s.Index)!);
        return [.. path[first..], .. path[..first]];
    }
}
