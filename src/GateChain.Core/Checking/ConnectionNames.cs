using GateChain.Core.Chains;
using GateChain.Core.Chains.Kinds;
using GateChain.Core.Expressions;
using GateChain.Core.Values;

namespace GateChain.Core.Checking;

/// <summary>A connection that a setting names.</summary>
/// <param name="Name">Its name.</param>
/// <param name="Span">Where it is named.</param>
/// <param name="Types">The types it may be of; empty for any.</param>
public readonly record struct NamedConnection(string Name, Span Span, IReadOnlyList<string> Types);

/// <summary>Finds the connections that a step names: settings that refer to one, wherever they stand.</summary>
public static class ConnectionNames
{
    /// <summary>The names that stand plainly, with their places.</summary>
    public static IEnumerable<NamedConnection> In(Step step) =>
        In(step.Settings, step.Kind.Settings).Concat(step.Guard?.Probes.SelectMany(In) ?? []);

    /// <summary>Those that a probe names.</summary>
    public static IEnumerable<NamedConnection> In(Probe probe) => In(probe.Settings, probe.Kind.Settings);

    static IEnumerable<NamedConnection> In(Setting setting, SettingShape shape) =>
        setting switch
        {
            LiteralSetting literal when shape.Refers == SettingReference.Connection =>
            [
                new(ValueText.ToPlainString(literal.Value), literal.Span, shape.ConnectionTypes),
            ],
            MapSetting map => map.Entries.SelectMany(e => In(e.Value, shape.Under(e.Key))),
            ListSetting list => list.Items.SelectMany(i => In(i, shape.Each)),
            _ => [],
        };
}
