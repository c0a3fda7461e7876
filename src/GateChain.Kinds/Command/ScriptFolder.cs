using GateChain.Kinds.Contract;

namespace GateChain.Kinds.Command;

/// <summary>Where the attachments of a command stand while it runs.</summary>
static class ScriptFolder
{
    static readonly Dictionary<string, string[]> Interpreters = new(StringComparer.OrdinalIgnoreCase)
    {
        [".sh"] = ["sh"],
        [".bash"] = ["bash"],
        [".py"] = ["python3"],
        [".js"] = ["node"],
        [".mjs"] = ["node"],
        [".pl"] = ["perl"],
        [".rb"] = ["ruby"],
        [".r"] = ["Rscript"],
        [".awk"] = ["awk", "-f"],
    };

    /// <summary>What runs a script.</summary>
    /// <exception cref="StepFailedException">Nobody knows.</exception>
    public static string[] Interpreter(string script, string? said) =>
        said is not null
            ? [said]
            : Interpreters.GetValueOrDefault(Path.GetExtension(script))
                ?? throw new StepFailedException(
                    "setting",
                    $"nothing is known to run “{script}” by its ending",
                    $"Name the interpreter. Known endings: {string.Join(", ", Interpreters.Keys)}"
                );

    /// <summary>Puts the script and the other files there, again for each attempt; null when there are none.</summary>
    /// <exception cref="StepFailedException">An attachment is missing.</exception>
    public static string? Fill(CommandSettings settings, AttemptContext context)
    {
        if (settings.Script is null && settings.Files.Count == 0)
            return null;
        var user = context.ProgramsAs;
        var folder = user is null ? Path.Combine(context.StepFolder, "files") : Fresh(user, context);
        foreach (var name in settings.Files.Prepend(settings.Script).OfType<string>())
        {
            var content = context.Attachment(name)
                ?? throw new StepFailedException(
                    "no-file",
                    $"the attachment “{name}” is missing",
                    "Push the workspace with the file beside the chain."
                );
            var path = Path.GetFullPath(name, folder);
            if (!path.StartsWith(folder + "/", StringComparison.Ordinal))
                throw new StepFailedException("outside", $"“{name}” leads out of the step's folder");
            Directory.CreateDirectory(Path.GetDirectoryName(path)!);
            File.WriteAllBytes(path, content);
        }
        user?.Own(folder);
        return folder;
    }

    // Made anew for each attempt: in what was already theirs, a link could lead what is written astray.
    static string Fresh(ProgramUser user, AttemptContext context)
    {
        var folder = context.FolderIn(user.Folder);
        Directory.CreateDirectory(Path.GetDirectoryName(folder)!);
        if (Directory.Exists(folder))
            Directory.Delete(folder, recursive: true);
        Directory.CreateDirectory(folder, UnixFileMode.UserRead | UnixFileMode.UserWrite | UnixFileMode.UserExecute);
        return folder;
    }
}
