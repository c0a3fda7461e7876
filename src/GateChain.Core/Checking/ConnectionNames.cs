using GateChain.Core.Chains;
using GateChain.Core.Expressions;
using GateChain.Core.Problems;

namespace GateChain.Core.Checking;

/// <summary>Finds the connections that a step names: settings called <c>connection</c>, wherever they stand.</summary>
public static class ConnectionNames
{
    /// <summary>The names that stand plainly, with their places.</summary>
    public static IEnumerable<(string Name, Span Span)> In(Step step) =>
        In(step.Settings).Concat(step.Guard?.Probes.SelectMany(p => In(p.Settings)) ?? []);

    static IEnumerable<(string Name, Span Span)> In(MapSetting map) =>
        map.Entries.SelectMany(e =>
            e.Value switch
            {
                LiteralSetting literal when e.Key == "connection" =>
                [
                    (literal.Value.ToString().Trim('"'), literal.Span),
                ],
                MapSetting inner => In(inner),
                _ => (IEnumerable<(string, Span)>)[],
            }
        );
}
