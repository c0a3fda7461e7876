using GateChain.Core.Chains;
using GateChain.Core.Problems;
using GateChain.Core.Values;

namespace GateChain.Core.Checking;

/// <summary>Secrets that steps name should be set before a run needs them.</summary>
sealed class SecretRule : ICheckRule
{
    public void Check(CheckContext context)
    {
        var (chain, workspace, problems) = context;
        if (workspace?.IsSecretSet is not { } isSet)
            return;
        foreach (var setting in chain.AllSteps.SelectMany(s => Literals(s.Settings)))
        {
            if (
                setting.Value is { Kind: ValueKind.String, AsString: var text }
                && SecretNames.In(text) is { } name
                && !isSet(name)
            )
            {
                problems.Add(
                    ProblemKinds.SecretUnset,
                    setting.Span,
                    $"{SecretNames.Unset(name)}",
                    SecretNames.HowToSet(name)
                );
            }
        }
    }

    static IEnumerable<LiteralSetting> Literals(Setting setting) =>
        setting switch
        {
            LiteralSetting literal => [literal],
            ListSetting list => list.Items.SelectMany(Literals),
            MapSetting map => map.Entries.SelectMany(e => Literals(e.Value)),
            _ => [],
        };
}
