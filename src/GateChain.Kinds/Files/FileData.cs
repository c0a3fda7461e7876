using GateChain.Core.Datasets;

namespace GateChain.Kinds.Files;

/// <summary>Which files a <c>file</c> step reads and writes, by its settings. Pure.</summary>
static class FileData
{
    public static IEnumerable<DataUse> Of(SettingTexts settings)
    {
        if (settings["path"] is not { } path)
            yield break;
        var folder = settings["connection"];
        var action = settings["action"]?.ToLowerInvariant();
        yield return action is "write" or "delete" or "makefolder"
            ? DataUse.Writes(DataForm.File, folder, path)
            : DataUse.Reads(DataForm.File, folder, path);
        if (settings["to"] is not { } to)
            yield break;
        yield return DataUse.Writes(DataForm.File, folder, Target(action, path, to));
    }

    static string Target(string? action, string path, string to)
    {
        var name = path.LastIndexOf('/') + 1;
        return action switch
        {
            "rename" => path[..name] + to,
            // What is in it has names of its own.
            "unpack" when to.EndsWith('/') => to + "*",
            _ => to.EndsWith('/') ? to + path[name..] : to,
        };
    }
}
