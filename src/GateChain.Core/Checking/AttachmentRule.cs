using GateChain.Core.Chains;
using GateChain.Core.Expressions;
using GateChain.Core.Problems;

namespace GateChain.Core.Checking;

/// <summary>Attachments that settings name must stand beside the chain.</summary>
sealed class AttachmentRule : ICheckRule
{
    public void Check(CheckContext context)
    {
        var (chain, workspace, problems) = context;
        if (workspace is null)
            return;
        foreach (
            var (name, span) in chain
                .AllSteps.SelectMany(AttachmentNames.In)
                .Where(a => !workspace.Files.Contains(a.Name))
        )
        {
            problems.Add(
                ProblemKinds.MissingAttachment,
                span,
                $"there is no file “{name}” beside the chain",
                Nearest.Fix(name, workspace.Files)
            );
        }
    }
}
