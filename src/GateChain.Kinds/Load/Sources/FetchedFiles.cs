using System.Globalization;
using GateChain.Kinds.Contract;
using GateChain.Kinds.FileServers;

namespace GateChain.Kinds.Load.Sources;

/// <summary>
/// Files that a load reads from a server or bucket: they are brought here first, into the step's own folder, and
/// continue there where a cut connection left them.
/// </summary>
static class FetchedFiles
{
    const string Folder = "fetched";

    /// <summary>The files that a path or pattern names there, each with where it is now.</summary>
    /// <exception cref="StepFailedException">There is none, the server fails, or somebody only looks.</exception>
    public static IReadOnlyList<(string Name, string Path)> Fetch(
        string connection,
        string pattern,
        AttemptContext context,
        CancellationToken cancel
    )
    {
        // Who only looks for columns is not to wait for gigabytes.
        if (context.ReadOnly)
            throw new StepFailedException("setting", $"files of “{connection}” are not fetched to look at them");
        using var server = FileServer.Open(context.Connections.Require(connection), context.Secrets, cancel);
        var found = server.Match(pattern);
        if (found.Count == 0)
            throw new StepFailedException("no-file", $"no file of “{connection}” is named like {pattern}");
        return [.. found.Select((file, at) => (file.Path, Bring(server, file, at, context, cancel)))];
    }

    static string Bring(FileServer server, ServerFile file, int at, AttemptContext context, CancellationToken cancel)
    {
        var folder = Path.Combine(context.StepFolder, Folder, at.ToString(CultureInfo.InvariantCulture));
        var path = Path.Combine(folder, file.Name);
        Download.To(server, file, path, overwrite: true, context, cancel);
        // The same file is the same source for whoever continues.
        File.SetLastWriteTimeUtc(path, file.Changed);
        return path;
    }

    /// <summary>Takes them away when they are read.</summary>
    public static void Remove(AttemptContext context)
    {
        var folder = Path.Combine(context.StepFolder, Folder);
        if (Directory.Exists(folder))
            Directory.Delete(folder, recursive: true);
    }
}
