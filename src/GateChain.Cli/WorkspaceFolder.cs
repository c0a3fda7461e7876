namespace GateChain.Cli;

/// <summary>Reads a workspace from disk.</summary>
static class WorkspaceFolder
{
    const long MaxFile = 4 << 20;

    /// <summary>The files by name; those that begin with a dot and those over 4 MiB are left out.</summary>
    public static Dictionary<string, byte[]> Read(string folder)
    {
        var files = new Dictionary<string, byte[]>();
        foreach (var file in new DirectoryInfo(folder).EnumerateFiles("*", SearchOption.AllDirectories))
        {
            var name = Path.GetRelativePath(folder, file.FullName).Replace('\\', '/');
            if (file.Length <= MaxFile && !name.Split('/').Any(p => p.StartsWith('.'))) { files[name] = File.ReadAllBytes(file.FullName); }
        }
        return files;
    }
}
