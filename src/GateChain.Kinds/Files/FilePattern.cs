using System.IO.Enumeration;
using GateChain.Kinds.Contract;

namespace GateChain.Kinds.Files;

/// <summary>
/// Finds the files that a path or a pattern names: <c>*</c> and <c>?</c> within a name, <c>**</c> for any folders, none
/// included.
/// </summary>
static class FilePattern
{
    /// <summary>
    /// Where a path or pattern leads: its full text, once the folder before its first wildcard may be looked at.
    /// </summary>
    /// <exception cref="StepFailedException">It leads out of the folders.</exception>
    public static string Allowed(AllowedFolders folders, string from, string pattern)
    {
        var full = Path.GetFullPath(pattern, from);
        folders.Resolve(full.IndexOfAny(Wildcards) < 0 ? full : RootOf(full), from);
        return full;
    }

    static readonly char[] Wildcards = ['*', '?'];

    // The part before the first wildcard is the folder to look in.
    internal static string RootOf(string full) =>
        full.IndexOfAny(Wildcards) < 0 ? Path.GetDirectoryName(full) ?? "/"
        : full[..full.LastIndexOf('/', full.IndexOfAny(Wildcards))] is { Length: > 0 } root ? root
        : "/";

    /// <summary>
    /// The files, by name. Files whose name begins with a dot are left out unless they are named. A link to a folder is
    /// followed, but into no folder that lies above it on the way.
    /// </summary>
    /// <exception cref="StepFailedException">A file, or the pattern, leads out of the folders.</exception>
    /// <exception cref="OperationCanceledException">Nobody waits for it any more.</exception>
    /// <param name="folders">Where it may look.</param>
    /// <param name="from">The folder that relative paths begin in.</param>
    /// <param name="pattern">The path or pattern.</param>
    /// <param name="cancel">Ends the search.</param>
    /// <param name="outside">Is told of files that lead out of the folders, which are left out then; null when one is
    /// an error.</param>
    public static List<FileInfo> Match(
        AllowedFolders folders,
        string from,
        string pattern,
        CancellationToken cancel,
        Action<string>? outside = null
    )
    {
        var full = Allowed(folders, from, pattern);
        if (full.IndexOfAny(Wildcards) < 0)
        {
            return new FileInfo(full) is { Exists: true } single ? [single] : [];
        }
        var root = RootOf(full);
        if (!Directory.Exists(root))
            return [];
        var found = new SortedDictionary<string, FileInfo>(StringComparer.Ordinal);
        new Walk(folders, from, found, outside, cancel).Into(
            new(root),
            full[root.Length..].Split('/', StringSplitOptions.RemoveEmptyEntries),
            0,
            []
        );
        return [.. found.Values];
    }

    sealed class Walk(
        AllowedFolders folders,
        string from,
        SortedDictionary<string, FileInfo> found,
        Action<string>? outside,
        CancellationToken cancel
    )
    {
        // Where links have led, for each part of the pattern.
        readonly HashSet<(int Part, string Folder)> _linked = [];

        /// <summary>Looks in a folder for what the parts of the pattern from <paramref name="at"/> on name.</summary>
        /// <param name="above">What the folders on the way really are.</param>
        public void Into(DirectoryInfo folder, string[] parts, int at, List<string> above)
        {
            cancel.ThrowIfCancellationRequested();
            if (parts[at] == "**")
            {
                if (at + 1 < parts.Length)
                    Into(folder, parts, at + 1, above);
                foreach (var below in Folders(folder, at, above))
                    Into(below.Folder, parts, at, below.Above);
                if (at + 1 == parts.Length)
                    Take(folder, "*");
                return;
            }
            if (at == parts.Length - 1)
            {
                Take(folder, parts[at]);
                return;
            }
            foreach (var below in Folders(folder, at, above).Where(f => Fits(parts[at], f.Folder.Name)))
                Into(below.Folder, parts, at + 1, below.Above);
        }

        void Take(DirectoryInfo folder, string name)
        {
            foreach (var file in folder.EnumerateFiles().Where(f => !f.Name.StartsWith('.') && Fits(name, f.Name)))
            {
                cancel.ThrowIfCancellationRequested();
                // Each by itself: it may be a link.
                try
                {
                    found.TryAdd(file.FullName, new(folders.Resolve(file.FullName, from)));
                }
                catch (StepFailedException e) when (outside is not null)
                {
                    outside(e.Message);
                }
            }
        }

        static bool Fits(string pattern, string name) =>
            FileSystemName.MatchesSimpleExpression(pattern, name, ignoreCase: false);

        IEnumerable<(DirectoryInfo Folder, List<string> Above)> Folders(
            DirectoryInfo folder,
            int at,
            List<string> above
        )
        {
            var here = Real(folder);
            foreach (var below in folder.EnumerateDirectories())
            {
                // A link that leads back to where one comes from, or where another one has led, has nothing new.
                if (
                    below.LinkTarget is not null
                    && Real(below) is var real
                    && (
                        $"{here}/".StartsWith(real.TrimEnd('/') + "/", StringComparison.Ordinal)
                        || above.Contains(real)
                        || !_linked.Add((at, real))
                    )
                )
                {
                    continue;
                }
                yield return (below, [.. above, here]);
            }
        }

        static string Real(DirectoryInfo folder) => AllowedFolders.RealPath(folder.FullName);
    }
}
