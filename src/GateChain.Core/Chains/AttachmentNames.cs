using GateChain.Core.Chains.Kinds;
using GateChain.Core.Expressions;
using GateChain.Core.Values;

namespace GateChain.Core.Chains;

/// <summary>Finds the attachments that a step names, wherever in its settings they stand.</summary>
public static class AttachmentNames
{
    /// <summary>
    /// Whether an attachment can be called so: a relative path of plain names that stays in its folder.
    /// </summary>
    public static bool IsName(string name) =>
        name.Length is > 0 and <= 255
        && name.Split('/').All(p => p.Length > 0 && p is not ("." or ".."))
        && !name.Any(c => char.IsControl(c) || c is '\\' or ':');

    /// <summary>The names that stand plainly, with their places.</summary>
    public static IEnumerable<(string Name, Span Span)> In(Step step) => In(step.Settings, step.Kind.Settings);

    static IEnumerable<(string Name, Span Span)> In(Setting? setting, SettingShape shape) =>
        (shape.Form, setting) switch
        {
            (SettingForm.TextOrFile, MapSetting map) => In(map["file"], new(SettingForm.Attachment)),
            (SettingForm.Attachment, LiteralSetting name) => [(ValueText.ToPlainString(name.Value), name.Span)],
            (_, ListSetting list) => list.Items.SelectMany(i => In(i, shape.Each)),
            (_, MapSetting map) => map.Entries.SelectMany(e => In(e.Value, shape.Under(e.Key))),
            _ => [],
        };
}
