using GateChain.Core.Chains;
using GateChain.Core.Chains.Kinds;
using GateChain.Core.Expressions;
using GateChain.Core.Values;

namespace GateChain.Core.Checking;

/// <summary>Finds the connections that a step names: settings that refer to one, wherever they stand.</summary>
public static class ConnectionNames
{
    /// <summary>The names that stand plainly, with their places.</summary>
    public static IEnumerable<(string Name, Span Span)> In(Step step) =>
        In(step.Settings, step.Kind.Settings).Concat(step.Guard?.Probes.SelectMany(In) ?? []);

    /// <summary>Those that a probe names.</summary>
    public static IEnumerable<(string Name, Span Span)> In(Probe probe) => In(probe.Settings, probe.Kind.Settings);

    static IEnumerable<(string Name, Span Span)> In(Setting setting, SettingShape shape) =>
        setting switch
        {
            LiteralSetting literal when shape.Refers == SettingReference.Connection =>
            [
                (ValueText.ToPlainString(literal.Value), literal.Span),
            ],
            MapSetting map => map.Entries.SelectMany(e => In(e.Value, shape.Under(e.Key))),
            ListSetting list => list.Items.SelectMany(i => In(i, shape.Each)),
            _ => [],
        };
}
