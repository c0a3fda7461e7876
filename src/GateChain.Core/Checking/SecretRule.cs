using GateChain.Core.Chains;
using GateChain.Core.Problems;

namespace GateChain.Core.Checking;

/// <summary>Secrets that a chain names should be set before a run needs them.</summary>
sealed class SecretRule : ICheckRule
{
    public void Check(CheckContext context)
    {
        var (chain, workspace, problems) = context;
        if (workspace?.IsSecretSet is not { } isSet)
            return;
        foreach (var (name, span) in SecretNames.In(chain).Where(s => !isSet(s.Name)))
        {
            problems.Add(ProblemKinds.SecretUnset, span, $"{SecretNames.Unset(name)}", SecretNames.HowToSet(name));
        }
    }
}
