using GateChain.Kinds.Connections;

namespace GateChain.Kinds.Contract;

/// <summary>
/// The folders in which steps may read and write. Neither <c>..</c> nor symbolic links lead out of them. Immutable,
/// thread-safe.
/// </summary>
public sealed class AllowedFolders
{
    // As many as the kernel follows.
    const int MostLinks = 40;

    readonly string[] _roots;

    /// <summary>A folder that is never reached, wherever it lies: the service's own data. Null for none.</summary>
    public string? Forbidden
    {
        get => _forbidden;
        init => _forbidden = value is null ? null : Real(Path.GetFullPath(value));
    }

    readonly string? _forbidden;

    /// <summary>The folders themselves.</summary>
    public IReadOnlyList<string> Roots => _roots;

    /// <summary>All that may be reached, as folders and single files, without what is forbidden.</summary>
    public (IReadOnlyList<string> Folders, IReadOnlyList<string> Files) Contents()
    {
        var (folders, files) = (new List<string>(), new List<string>());
        foreach (var root in _roots)
            Add(root);
        return (folders, files);

        void Add(string folder)
        {
            if (_forbidden is null || !IsIn(_forbidden, folder))
            {
                folders.Add(folder);
                return;
            }
            if (_forbidden == folder)
                return;
            foreach (var inner in Directory.EnumerateDirectories(folder))
                Add(inner);
            files.AddRange(Directory.EnumerateFiles(folder));
        }
    }

    /// <param name="folders">Full paths; what they really are is looked at when this is made.</param>
    public AllowedFolders(params IReadOnlyList<string> folders) =>
        _roots = [.. folders.Select(f => Real(Path.GetFullPath(f))).Distinct()];

    /// <summary>What using a connection needs, with its files kept within these folders.</summary>
    public ConnectionUse For(string workFolder, ISecrets secrets) =>
        new(workFolder, secrets) { Confine = path => Resolve(path, workFolder), Reach = Contents };

    /// <summary>A path as a full path.</summary>
    /// <param name="path">The path as a setting has it.</param>
    /// <param name="from">The folder that relative paths start from.</param>
    /// <exception cref="StepFailedException">It leads out of the folders.</exception>
    public string Resolve(string path, string from)
    {
        var full = Path.GetFullPath(path, from);
        var real = Real(full);
        if (_forbidden is not null && IsIn(real, _forbidden))
        {
            throw new StepFailedException(
                "outside",
                $"{full} lies in the service's own data, which no step may use",
                "Nothing was touched."
            );
        }
        return Array.Exists(_roots, r => IsIn(real, r))
            ? full
            : throw new StepFailedException(
                "outside",
                real == full.TrimEnd('/')
                    ? $"{full} is outside of the folders that the service may use"
                    : $"{full} leads to {real}, outside of the folders that the service may use",
                $"It may use {string.Join(", ", _roots)}. Whoever runs the service can allow more: "
                    + "gatechain serve --allow FOLDER. Nothing was touched."
            );
    }

    static bool IsIn(string path, string root) =>
        path == root || root == "/" || (path.StartsWith(root, StringComparison.Ordinal) && path[root.Length] == '/');

    /// <summary>What a full path really is, link by link; parts that are not there yet stand for themselves.</summary>
    internal static string RealPath(string full) => Real(full);

    static string Real(string full)
    {
        var (at, rest, links) = ("/", full.Split('/', StringSplitOptions.RemoveEmptyEntries).ToList(), 0);
        while (rest.Count > 0)
        {
            var next = Path.Combine(at, rest[0]);
            rest.RemoveAt(0);
            if (new FileInfo(next).LinkTarget is not { } target)
            {
                at = next;
                continue;
            }
            if (++links > MostLinks)
                throw new StepFailedException("outside", $"{full} goes in circles: too many symbolic links");
            rest.InsertRange(0, Path.GetFullPath(target, at).Split('/', StringSplitOptions.RemoveEmptyEntries));
            at = "/";
        }
        return at;
    }
}
