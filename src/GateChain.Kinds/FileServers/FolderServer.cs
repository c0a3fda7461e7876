using System.IO.Enumeration;
using GateChain.Kinds.Contract;

namespace GateChain.Kinds.FileServers;

/// <summary>A server with folders: what is put there grows under another name until it is whole.</summary>
abstract class FolderServer : FileServer
{
    /// <summary>What stands in a folder.</summary>
    /// <param name="Path">Its path, as the server tells it.</param>
    /// <param name="Name">Its last part.</param>
    /// <param name="IsFolder">Whether it is a folder.</param>
    /// <param name="Known">What the list tells of a file; null where it has to be asked for.</param>
    protected sealed record Entry(string Path, string Name, bool IsFolder, ServerFile? Known);

    /// <summary>The folder that relative paths begin at, without a stroke at its end.</summary>
    protected abstract string Home { get; }

    /// <summary>All that stands in a folder, but for itself and the one above.</summary>
    protected abstract IEnumerable<Entry> List(string folder);

    /// <summary>The file under a path, or that a link leads to; null when there is none.</summary>
    protected abstract ServerFile? Find(string path);

    /// <summary>Whether there is anything under a path.</summary>
    protected abstract bool Exists(string path);

    /// <summary>Makes a folder in one that is there.</summary>
    protected abstract void MakeFolder(string path);

    /// <summary>Writes the rest of a file, whose first bytes are there already.</summary>
    /// <param name="path">The file.</param>
    /// <param name="from">How many bytes are there; 0 begins it anew.</param>
    /// <param name="rest">What comes after them.</param>
    protected abstract void Write(string path, long from, Stream rest);

    /// <summary>Gives a file a path that nothing has.</summary>
    protected abstract void Rename(string from, string to);

    /// <summary>Puts a file in the place of another one at once; false when the server can't.</summary>
    protected abstract bool TryReplace(string from, string to);

    public sealed override string Full(string path) => path.StartsWith('/') ? path : $"{Home}/{path}";

    public sealed override IReadOnlyList<ServerFile> Match(string pattern, int most = int.MaxValue)
    {
        if (pattern.IndexOfAny(['*', '?']) < 0)
            return Find(pattern) is { } one ? [one] : [];
        var found = new List<ServerFile>();
        var root = pattern.StartsWith('/') ? "/" : ".";
        Into(root, pattern.Split('/', StringSplitOptions.RemoveEmptyEntries), 0, found, most);
        return [.. found.OrderBy(f => f.Path, StringComparer.Ordinal)];
    }

    void Into(string folder, string[] parts, int at, List<ServerFile> found, int most)
    {
        var isLast = at == parts.Length - 1;
        if (!isLast && parts[at].IndexOfAny(['*', '?']) < 0)
        {
            Into(folder == "." ? parts[at] : $"{folder.TrimEnd('/')}/{parts[at]}", parts, at + 1, found, most);
            return;
        }
        foreach (var entry in List(folder).Where(e => Fits(parts[at], e.Name)).ToList())
        {
            if (!isLast && entry.IsFolder)
                Into(entry.Path, parts, at + 1, found, most);
            else if (isLast && !entry.IsFolder && found.Count < most && (entry.Known ?? Find(entry.Path)) is { } file)
                found.Add(file);
        }
    }

    // What a server says is a name is one: nothing that leads elsewhere.
    static bool Fits(string pattern, string name) =>
        name is not ("." or "..")
        && !name.Contains('/', StringComparison.Ordinal)
        && !name.EndsWith(Part, StringComparison.Ordinal)
        && FileSystemName.MatchesSimpleExpression(pattern, name, ignoreCase: false);

    public sealed override IReadOnlyList<(string Name, bool IsFolder)> Entries(string folder) =>
        [.. List(folder.Length == 0 ? Home : folder).Select(e => (e.Name, e.IsFolder))];

    public sealed override void Put(FileInfo file, string to, bool overwrite, AttemptContext context)
    {
        if (!overwrite && Exists(to))
            throw IsThere(to);
        MakeFolders(to[..Math.Max(0, to.LastIndexOf('/'))]);
        var part = PartOf(context, to, file.Length, file.LastWriteTimeUtc);
        var from = Find(part)?.Length ?? 0;
        if (from > file.Length)
            from = 0;
        using (var source = file.OpenRead())
        {
            if (from > 0)
                NoteGoesOn(context, file.FullName, from);
            source.Seek(from, SeekOrigin.Begin);
            Write(part, from, source);
        }
        Check(Find(part)?.Length ?? 0, file.Length, to);
        Move(part, to, overwrite);
    }

    void MakeFolders(string folder)
    {
        if (folder.Length == 0 || Exists(folder))
            return;
        MakeFolders(folder[..Math.Max(0, folder.LastIndexOf('/'))]);
        MakeFolder(folder);
    }

    public sealed override void Move(string from, string to, bool overwrite)
    {
        if (Exists(to))
        {
            if (!overwrite)
                throw IsThere(to);
            // The server's own way replaces at once; where it has none there is a moment without the file.
            if (TryReplace(from, to))
                return;
            Delete(to);
        }
        Rename(from, to);
    }
}
