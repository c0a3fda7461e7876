using Microsoft.Extensions.FileSystemGlobbing;

namespace GateChain.Kinds.Files;

/// <summary>Finds the files that a path or a pattern names.</summary>
static class FilePattern
{
    /// <summary>The files, by name. Files whose name begins with a dot are left out unless they are named.</summary>
    public static List<FileInfo> Match(string folder, string pattern)
    {
        if (pattern.IndexOfAny(['*', '?']) < 0)
        {
            var single = new FileInfo(Path.GetFullPath(pattern, folder));
            return single.Exists ? [single] : [];
        }
        // The part before the first wildcard is the folder to look in.
        var full = Path.GetFullPath(pattern, folder);
        var root = full[..full.LastIndexOf('/', full.IndexOfAny(['*', '?']))];
        if (root.Length == 0) { root = "/"; }
        if (!Directory.Exists(root)) { return []; }
        var matcher = new Matcher(StringComparison.Ordinal).AddInclude(full[root.Length..].TrimStart('/'));
        return [.. matcher.GetResultsInFullPath(root).Order(StringComparer.Ordinal).Select(p => new FileInfo(p)).Where(f => !f.Name.StartsWith('.'))];
    }
}
