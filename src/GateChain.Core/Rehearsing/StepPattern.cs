using GateChain.Core.Chains;

namespace GateChain.Core.Rehearsing;

/// <summary>
/// Names step instances: <c>depots[2]/load</c> one of them, <c>depots/load</c> those of all iterations and rounds.
/// Steps of a child run lie behind the path of the call: <c>reload/load</c>.
/// </summary>
public sealed record StepPattern(string Text)
{
    readonly List<StepPath.Part> _parts = [.. new StepPath(Text).Parts];

    public bool Matches(string path)
    {
        var parts = new StepPath(path).Parts.ToList();
        return parts.Count == _parts.Count && _parts.Zip(parts).All(p => Fits(p.First, p.Second));
    }

    // Without a number it is any of its iterations.
    static bool Fits(StepPath.Part pattern, StepPath.Part part) =>
        pattern.Text == part.Text
        || (pattern.Index is null && pattern.Name == part.Name && pattern.IsHandler == part.IsHandler);

    /// <summary>The pattern as seen from inside a child run; null when it does not lead there.</summary>
    public StepPattern? Inside(string call)
    {
        var (own, path) = (new StepPath(Text), new StepPath(call));
        return (own.Behind(path.Address) ?? own.Behind(path)) is { } inner ? new(inner.Text) : null;
    }

    public override string ToString() => Text;
}
