using GateChain.Core.Chains;
using GateChain.Core.Expressions;
using GateChain.Core.Problems;

namespace GateChain.Core.Checking;

/// <summary>Attachments that settings name must stand beside the chain.</summary>
sealed class AttachmentRule : ICheckRule
{
    public void Check(CheckContext context)
    {
        var (chain, surroundings, problems) = context;
        if (surroundings is null) { return; }
        foreach (var step in chain.AllSteps)
        {
            foreach (var (member, setting) in step.Settings.Entries)
            {
                var takesFile = step.Kind.Settings.Members.Any(m => m.Name == member && m.Shape.Form == Chains.Kinds.SettingForm.TextOrFile);
                if (takesFile && (setting as MapSetting)?["file"] is LiteralSetting { Value: { Kind: Values.ValueKind.String } name } at && !surroundings.Files.Contains(name.AsString))
                {
                    problems.Add(ProblemKinds.MissingAttachment, at.Span, $"there is no file “{name.AsString}” beside the chain", Nearest.Mend(name.AsString, surroundings.Files));
                }
            }
        }
    }
}
