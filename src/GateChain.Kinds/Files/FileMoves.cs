using GateChain.Kinds.Contract;

namespace GateChain.Kinds.Files;

/// <summary>
/// Copies, moves, renames and deletes. What was done before a file that can't be done stays done; doing it again skips
/// nothing and doubles nothing.
/// </summary>
static class FileMoves
{
    public static FileReport Delete(List<FileInfo> found, FileReport report, CancellationToken cancel)
    {
        foreach (var file in found)
        {
            cancel.ThrowIfCancellationRequested();
            file.Delete();
            report.AddGone(file.FullName);
            report.Notes.Add($"deleted {file.FullName}");
        }
        return report;
    }

    /// <exception cref="StepFailedException">A target leads outside, or is there already.</exception>
    public static FileReport Files(
        FilePlace place,
        List<FileInfo> found,
        FileSettings settings,
        FileReport report,
        CancellationToken cancel
    )
    {
        if (settings.Action == FileAction.Rename && found.Count > 1)
        {
            throw new StepFailedException(
                "file",
                $"{found.Count} files match {settings.Path}, and only one can have the new name"
            );
        }
        // All targets are looked at before the first file is touched.
        var ways = found.Select(f => (File: f, To: Target(place, settings, f, found.Count))).ToList();
        Targets.MustDiffer(ways, "Nothing was touched. Take one folder after the other, or give each its own target.");
        var sources = ways.Select(w => w.File.FullName).ToHashSet();
        foreach (var (file, to) in ways)
        {
            if (to != file.FullName && sources.Contains(to))
            {
                throw new StepFailedException(
                    "same-target",
                    $"{file.FullName} would replace {to}, which is one of the files itself",
                    "Nothing was touched. Use another folder for the targets."
                );
            }
            if (to == file.FullName)
                throw new StepFailedException("file", $"{file.FullName} is source and target at once");
            if (!settings.Overwrite && File.Exists(to))
            {
                throw new StepFailedException(
                    "exists",
                    $"{to} exists already",
                    "Set overwrite: true to replace it. Nothing was touched."
                );
            }
        }
        foreach (var (file, to) in ways)
        {
            cancel.ThrowIfCancellationRequested();
            var word = settings.Action switch
            {
                FileAction.Copy => "copied",
                FileAction.Rename => "renamed",
                _ => "moved",
            };
            if (settings.Action == FileAction.Copy)
                Copy(file, to);
            else
                Move(file, to);
            report.Notes.Add($"{word} {file.FullName} to {to}");
            report.Add(new(to));
        }
        return report;
    }

    static string Target(FilePlace place, FileSettings settings, FileInfo file, int count)
    {
        if (settings.Action == FileAction.Rename)
            return place.Resolve(Path.Combine(file.DirectoryName!, settings.To!));
        var to = place.Resolve(settings.To!);
        return settings.To!.EndsWith('/') || count > 1 || Directory.Exists(to)
            ? place.Resolve(Path.Combine(to, file.Name))
            : to;
    }

    static void Copy(FileInfo file, string to)
    {
        WholeFile.Write(to, target =>
        {
            using var source = file.OpenRead();
            source.CopyTo(target, 1 << 16);
            // Half a file under the name of a whole one is worse than none.
            var now = new FileInfo(file.FullName);
            if (
                !now.Exists
                || (now.Length, now.LastWriteTimeUtc) != (file.Length, file.LastWriteTimeUtc)
                || target.Length != file.Length
            )
            {
                throw new StepFailedException(
                    "changed",
                    $"{file.FullName} was changed while it was copied, or is still being written",
                    "A guard with a file probe and “stable” waits until a file is whole."
                );
            }
        });
        File.SetLastWriteTimeUtc(to, file.LastWriteTimeUtc);
    }

    // Within a file system a name changes at once; between two of them the file is whole there before it goes here.
    static void Move(FileInfo file, string to)
    {
        Directory.CreateDirectory(Path.GetDirectoryName(to)!);
        if (Disk.Rename(file.FullName, to))
            return;
        Copy(file, to);
        file.Delete();
    }
}
