using GateChain.Client;
using GateChain.Core.Testing.Reading;
using GateChain.Engine.Workspaces;

namespace GateChain.Cli;

/// <summary>Reads a workspace from disk: chains, settings, and of all else only what the chains name.</summary>
static class WorkspaceFolder
{
    const long MaxFile = 4 << 20;

    /// <summary>
    /// The workspace that a file belongs to, and the file's path in it: its folder, and those around it as long as each
    /// has chains or settings of its own.
    /// </summary>
    /// <param name="file">The file.</param>
    /// <param name="given">The workspace, when somebody has said it.</param>
    /// <exception cref="GateChainException">The file does not lie in the workspace that was said.</exception>
    public static (string Folder, string Name) Of(string file, string? given)
    {
        var full = Path.GetFullPath(file);
        var folder = given is null ? Path.GetDirectoryName(full)! : Path.GetFullPath(given);
        while (given is null && Path.GetDirectoryName(folder) is { } around && HasFilesOfItsOwn(around))
            folder = around;
        var name = Path.GetRelativePath(folder, full);
        return name.StartsWith("..", StringComparison.Ordinal)
            ? throw new GateChainException(422, $"{file} does not lie in {given}", null, [])
            : (folder, name);
    }

    static bool HasFilesOfItsOwn(string folder) =>
        Directory
            .EnumerateFiles(folder, "*.yaml", new EnumerationOptions { IgnoreInaccessible = true })
            .Any(f => !Workspace.IsAttachment(Path.GetFileName(f)));

    /// <summary>
    /// The contents of chains, settings and the files that settings name; of other files the name with no content.
    /// </summary>
    /// <exception cref="GateChainException">A file can't be read.</exception>
    public static Dictionary<string, byte[]> ReadChains(string folder)
    {
        var files = new Dictionary<string, byte[]>();
        var options = new EnumerationOptions { RecurseSubdirectories = true, IgnoreInaccessible = true };
        foreach (var path in Directory.EnumerateFiles(folder, "*", options))
        {
            var name = Path.GetRelativePath(folder, path);
            if (!name.Split('/').Any(p => p.StartsWith('.')))
                files[name] = Workspace.IsAttachment(name) ? [] : Read(path);
        }
        foreach (var named in Workspace.NamedBySettings(files))
            files[named] = Read(Path.Combine(folder, named));
        return files;
    }

    /// <summary>The same with the contents of tests.</summary>
    /// <exception cref="GateChainException">A file can't be read, or is larger than 4 MiB.</exception>
    public static Dictionary<string, byte[]> ReadTests(string folder)
    {
        var files = ReadChains(folder);
        foreach (var name in files.Keys.Where(n => n.EndsWith(TestsFile.Ending, StringComparison.Ordinal)).ToList())
            files[name] = Read(Path.Combine(folder, name));
        return files;
    }

    /// <summary>What a push brings to the service.</summary>
    /// <exception cref="GateChainException">A file can't be read, or is larger than 4 MiB.</exception>
    public static Dictionary<string, byte[]> ReadForPush(string folder)
    {
        var files = ReadChains(folder);
        var wanted = new Workspace(files, PluginFolder.Catalogue).Attachments;
        return files
            .Where(f => !Workspace.IsAttachment(f.Key) || wanted.Contains(f.Key))
            .ToDictionary(f => f.Key, f => wanted.Contains(f.Key) ? Read(Path.Combine(folder, f.Key)) : f.Value);
    }

    static byte[] Read(string path)
    {
        try
        {
            return new System.IO.FileInfo(path).Length <= MaxFile
                ? File.ReadAllBytes(path)
                : throw new GateChainException(422, $"{path} is larger than 4 MiB", null, []);
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            throw new GateChainException(422, $"{path} can't be read: {e.Message}", null, []);
        }
    }
}
