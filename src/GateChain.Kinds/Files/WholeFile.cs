namespace GateChain.Kinds.Files;

/// <summary>Files that are there as a whole or not at all, also after a crash: written under a name nobody looks for, and renamed.</summary>
static class WholeFile
{
    /// <summary>A name to write it under that nobody else has.</summary>
    public static string PartOf(string path) => Path.Combine(Path.GetDirectoryName(path)!, $".{Path.GetFileName(path)}.{Guid.NewGuid():N}.gatechain-part");

    /// <summary>Writes a file; what was there under its name is replaced when it is whole.</summary>
    /// <param name="path">Its full path; folders on the way are made.</param>
    /// <param name="fill">Writes what is in it. When it throws, everything is as it was.</param>
    public static void Write(string path, Action<FileStream> fill)
    {
        Directory.CreateDirectory(Path.GetDirectoryName(path)!);
        var part = PartOf(path);
        try
        {
            using (var file = new FileStream(part, FileMode.CreateNew, FileAccess.Write, FileShare.None, 1 << 16))
            {
                fill(file);
                file.Flush(flushToDisk: true);
            }
            File.Move(part, path, overwrite: true);
        }
        finally { File.Delete(part); }
    }
}
