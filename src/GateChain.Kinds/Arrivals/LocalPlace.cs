using GateChain.Kinds.Contract;
using GateChain.Kinds.Files;

namespace GateChain.Kinds.Arrivals;

/// <summary>Looks for files on the disks of this machine. Thread-safe.</summary>
public static class LocalPlace
{
    /// <summary>The files that a path or pattern names now. Never throws for what the disk does.</summary>
    /// <param name="folders">Where it may look.</param>
    /// <param name="from">The folder that relative paths begin in.</param>
    /// <param name="pattern">A path, or a pattern with <c>*</c>, <c>**</c> and <c>?</c>.</param>
    /// <param name="cancel">Ends the look.</param>
    public static PlaceView Look(AllowedFolders folders, string from, string pattern, CancellationToken cancel)
    {
        var troubles = new List<string>();
        try
        {
            var full = FilePattern.Allowed(folders, from, pattern);
            var root = FilePattern.RootOf(full);
            if (!Directory.Exists(root))
                return new([], [$"there is no folder {root}"], IsThere: false);
            var files = new List<SeenFile>();
            foreach (var found in FilePattern.Match(folders, from, pattern, cancel, troubles.Add))
            {
                if (FileVersion.Of(found.FullName) is { } file)
                    files.Add(file);
                // The sign for bytes that are no text; no file has that name.
                else if (found.Name.Contains('\uFFFD', StringComparison.Ordinal))
                    troubles.Add($"{found.FullName} can't be taken: its name is not UTF-8");
            }
            return new(files, troubles, IsThere: true);
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException or StepFailedException)
        {
            return new([], [e.Message], IsThere: false);
        }
    }

    /// <summary>What has to be watched to hear of changes; null when it may not be looked at.</summary>
    public static string? Watched(AllowedFolders folders, string from, string pattern)
    {
        try
        {
            return FilePattern.Allowed(folders, from, pattern);
        }
        catch (StepFailedException)
        {
            return null;
        }
    }

    /// <summary>Names a folder on its disk: a copy of it, or one that was restored, has another name.</summary>
    public static string? NameOnDisk(string folder) => FileVersion.PlaceOf(folder);
}
