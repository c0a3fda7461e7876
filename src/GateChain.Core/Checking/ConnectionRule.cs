using GateChain.Core.Expressions;
using GateChain.Core.Problems;

namespace GateChain.Core.Checking;

/// <summary>Connections that settings name must be declared, and be of a type that the setting takes.</summary>
sealed class ConnectionRule : ICheckRule
{
    public void Check(CheckContext context)
    {
        var (chain, workspace, problems) = context;
        if (workspace is null)
            return;
        foreach (var step in chain.AllSteps)
        {
            Check(ConnectionNames.In(step), workspace.Connections, problems);
        }
    }

    /// <summary>Adds a problem for each name that is not declared, or is that of a connection of another
    /// type.</summary>
    /// <param name="named">What settings name.</param>
    /// <param name="declared">The types of the declared connections, by name.</param>
    /// <param name="problems">Gets the problems.</param>
    public static void Check(
        IEnumerable<NamedConnection> named,
        IReadOnlyDictionary<string, string> declared,
        ProblemList problems
    )
    {
        foreach (var (name, span, types) in named)
        {
            if (!declared.TryGetValue(name, out var type))
            {
                problems.Add(
                    ProblemKinds.UnknownConnection,
                    span,
                    $"there is no connection “{name}” in connections.yaml",
                    Nearest.Fix(name, declared.Keys)
                );
            }
            else if (types.Count > 0 && !types.Contains(type))
            {
                problems.Add(
                    ProblemKinds.WrongConnection,
                    span,
                    $"“{name}” is {Article.Of(type)} connection, and this takes {string.Join(" or ", types)}",
                    Others(types, declared)
                );
            }
        }
    }

    // What could stand there instead.
    static string? Others(IReadOnlyList<string> types, IReadOnlyDictionary<string, string> declared)
    {
        var fitting = declared.Where(d => types.Contains(d.Value)).Select(d => d.Key).Order(StringComparer.Ordinal);
        var names = string.Join(", ", fitting.Take(5));
        return names.Length == 0 ? null : $"of that type: {names}";
    }
}
