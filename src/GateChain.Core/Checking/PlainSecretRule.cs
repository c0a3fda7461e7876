using GateChain.Core.Chains;
using GateChain.Core.Problems;

namespace GateChain.Core.Checking;

/// <summary>Credentials should not stand in a chain file, where everybody reads them.</summary>
sealed class PlainSecretRule : ICheckRule
{
    public void Check(CheckContext context)
    {
        foreach (var step in context.Chain.AllSteps)
        {
            foreach (var (key, span) in SecretSettings.In(step))
            {
                context.Problems.Add(
                    ProblemKinds.PlainSecret,
                    span,
                    $"“{key}” of step “{step.Id}” stands in the file for all to read",
                    $"write secret:NAME in its place, and set it: gatechain secret set NAME"
                );
            }
        }
    }
}
