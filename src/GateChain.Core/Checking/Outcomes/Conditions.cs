namespace GateChain.Core.Checking.Outcomes;

/// <summary>
/// Boolean conditions over yes-or-no variables, each kept in the one form that all equal conditions have: whether a
/// condition can hold is then seen at a glance. Conditions are numbers; 0 never holds, 1 always does.
/// </summary>
/// <remarks>
/// Source: Bryant, Graph-Based Algorithms for Boolean Function Manipulation (1986): reduced ordered binary decision
/// diagrams.
/// </remarks>
sealed class Conditions(int limit)
{
    public const int Never = 0,
        Always = 1;

    readonly List<(int Variable, int No, int Yes)> _nodes = [(-1, 0, 0), (-1, 1, 1)];
    readonly Dictionary<(int, int, int), int> _known = [];
    readonly Dictionary<(int, int, int), int> _chosen = [];
    int _variables;

    /// <summary>
    /// A new variable. Later ones stand above earlier ones, which keeps the conditions of long rows of steps small.
    /// </summary>
    public int Variable() => Node(_variables++, Never, Always);

    public int And(int a, int b) => Choose(a, b, Never);

    public int Or(int a, int b) => Choose(a, Always, b);

    public int Not(int a) => Choose(a, Never, Always);

    /// <summary>At least so many of the conditions hold.</summary>
    public int AtLeast(int needed, IReadOnlyList<int> conditions)
    {
        // ways[k]: at least k of those looked at so far
        var ways = new int[needed + 1];
        ways[0] = Always;
        foreach (var condition in conditions)
        {
            for (var k = needed; k > 0; k--)
                ways[k] = Or(ways[k], And(ways[k - 1], condition));
        }
        return ways[needed];
    }

    int Choose(int condition, int then, int otherwise)
    {
        if (condition == Always || then == otherwise)
            return then;
        if (condition == Never)
            return otherwise;
        if (then == Always && otherwise == Never)
            return condition;
        if (_chosen.TryGetValue((condition, then, otherwise), out var known))
            return known;
        var top = Math.Max(_nodes[condition].Variable, Math.Max(_nodes[then].Variable, _nodes[otherwise].Variable));
        var no = Choose(Side(condition, top, false), Side(then, top, false), Side(otherwise, top, false));
        var yes = Choose(Side(condition, top, true), Side(then, top, true), Side(otherwise, top, true));
        return _chosen[(condition, then, otherwise)] = no == yes ? no : Node(top, no, yes);
    }

    int Side(int condition, int variable, bool yes) =>
        _nodes[condition].Variable != variable ? condition
        : yes ? _nodes[condition].Yes
        : _nodes[condition].No;

    int Node(int variable, int no, int yes)
    {
        if (_known.TryGetValue((variable, no, yes), out var known))
            return known;
        if (_nodes.Count >= limit)
            throw new TooManyException();
        _nodes.Add((variable, no, yes));
        return _known[(variable, no, yes)] = _nodes.Count - 1;
    }

    /// <summary>The conditions have grown beyond the limit.</summary>
    public sealed class TooManyException : Exception;
}
