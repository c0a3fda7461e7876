using System.Text.RegularExpressions;
using GateChain.Kinds.Contract;
using Microsoft.Extensions.FileSystemGlobbing;

namespace GateChain.Kinds.Files;

/// <summary>Finds the files that a path or a pattern names.</summary>
static class FilePattern
{
    /// <summary>The files, by name. Files whose name begins with a dot are left out unless they are named.</summary>
    /// <exception cref="StepFailedException">A file, or the pattern, leads out of the folders.</exception>
    public static List<FileInfo> Match(AllowedFolders folders, string from, string pattern)
    {
        if (pattern.IndexOfAny(['*', '?']) < 0)
        {
            var single = new FileInfo(folders.Resolve(pattern, from));
            return single.Exists ? [single] : [];
        }
        // The part before the first wildcard is the folder to look in.
        var full = Path.GetFullPath(pattern, from);
        var root = full[..full.LastIndexOf('/', full.IndexOfAny(['*', '?']))];
        if (root.Length == 0) { root = "/"; }
        folders.Resolve(root, from);
        if (!Directory.Exists(root)) { return []; }
        // The matcher knows no “?”: it finds more, and what does not fit is left out again.
        var wanted = full[root.Length..].TrimStart('/');
        var matcher = new Matcher(StringComparison.Ordinal).AddInclude(wanted.Replace('?', '*'));
        var fits = wanted.Contains('?') ? Expression(wanted) : null;
        // Each by itself: a folder below may be a link.
        return [.. matcher.GetResultsInFullPath(root).Where(p => fits?.IsMatch(Path.GetRelativePath(root, p)) ?? true).Order(StringComparer.Ordinal).Select(p => new FileInfo(folders.Resolve(p, from))).Where(f => !f.Name.StartsWith('.'))];
    }

    static Regex Expression(string pattern) =>
        new("^" + Regex.Escape(pattern).Replace(@"\*\*/", "(.*/)?", StringComparison.Ordinal).Replace(@"\*", "[^/]*", StringComparison.Ordinal).Replace(@"\?", "[^/]", StringComparison.Ordinal) + "$", RegexOptions.NonBacktracking);
}
