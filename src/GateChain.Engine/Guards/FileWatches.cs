using Microsoft.Extensions.Logging;

namespace GateChain.Engine.Guards;

/// <summary>
/// Reports changes in the file system. Watches of one folder share one watcher of the operating system, of which there
/// are few. Thread-safe. When none is to be had, nothing is reported: guards then look again at their planned times.
/// </summary>
/// <remarks>
/// A watcher of the operating system says nothing when its own folder is removed or another one takes its place, and
/// nothing any more. So folders are looked after, every <see cref="Patrol"/>.
/// </remarks>
sealed partial class FileWatches(ILogger logger) : IDisposable
{
    /// <summary>How often it is seen to that a watched folder is still the one at its place.</summary>
    static readonly TimeSpan Patrol = TimeSpan.FromSeconds(2);

    readonly Lock _lock = new();
    readonly Dictionary<(string Folder, bool Deep), Folder> _folders = [];
    Timer? _patrol;

    sealed class Folder(string path, DateTime made, FileSystemWatcher watcher)
    {
        public FileSystemWatcher Watcher { get; } = watcher;
        public List<Action<string?>> Listeners { get; } = [];
        public bool IsAlive { get; set; } = true;
        public bool IsInPlace => MadeAt(path) == made;

        public static DateTime MadeAt(string path) =>
            new DirectoryInfo(path) is { Exists: true } folder ? folder.CreationTimeUtc : default;
    }

    /// <summary>Where a path or pattern would be watched: its folder, or the nearest one above that exists.</summary>
    public static (string Folder, bool Deep) Place(string pattern)
    {
        var wild = pattern.IndexOfAny(['*', '?']);
        var folder =
            wild < 0 ? Path.GetDirectoryName(pattern) ?? "/" : pattern[..Math.Max(1, pattern.LastIndexOf('/', wild))];
        // Below the first wildcard there may be folders.
        var deep = wild >= 0 && pattern.IndexOf('/', wild) >= 0;
        while (!Directory.Exists(folder) && Path.GetDirectoryName(folder) is { } above)
            (folder, deep) = (above, false);
        return (folder, deep);
    }

    /// <summary>
    /// Whether a change of a path can be one of what a path or pattern names: a file that fits, or a folder on the way
    /// to it.
    /// </summary>
    public static bool Concerns(string pattern, string? path)
    {
        if (path is null || pattern == path || pattern.StartsWith(path + "/", StringComparison.Ordinal))
            return true;
        var wild = pattern.IndexOfAny(['*', '?']);
        if (wild < 0)
            return false;
        var fix = pattern[..(pattern.LastIndexOf('/', wild) + 1)];
        if (!path.StartsWith(fix, StringComparison.Ordinal))
            return false;
        // Below further folders any change may be one; in the last one only names that fit.
        return pattern.IndexOf('/', wild) >= 0
            || System.IO.Enumeration.FileSystemName.MatchesSimpleExpression(
                pattern.AsSpan(fix.Length),
                path.AsSpan(fix.Length),
                ignoreCase: false
            );
    }

    /// <summary>
    /// Calls <paramref name="changed"/> on every change at the place of a path or pattern, with the path that changed
    /// (null when that is not known), until disposed of; null when it can't be watched.
    /// </summary>
    public FileWatch? Watch(string pattern, Action<string?> changed)
    {
        while (true)
        {
            var place = Place(pattern);
            var watch = Watch(place, changed);
            // A folder that came before there was a watcher above it is reported by none: it is watched itself.
            if (watch is null || Place(pattern) == place)
                return watch;
            watch.Dispose();
        }
    }

    FileWatch? Watch((string Folder, bool Deep) place, Action<string?> changed)
    {
        lock (_lock)
        {
            if (!_folders.TryGetValue(place, out var folder))
            {
                // Before there is a watcher: a folder that takes its place in between is another one.
                var made = Folder.MadeAt(place.Folder);
                if (Open(place) is not { } watcher)
                    return null;
                _folders[place] = folder = new(place.Folder, made, watcher);
                _patrol ??= new(_ => LookAfter(), null, Patrol, Patrol);
            }
            folder.Listeners.Add(changed);
            return new(place, () => folder.IsAlive, () => End(place, folder, changed));
        }
    }

    // The listeners of a folder that is gone are told, and watch what is there instead.
    void LookAfter()
    {
        List<Action<string?>> listeners = [];
        lock (_lock)
        {
            foreach (var (place, folder) in _folders.Where(f => !f.Value.IsInPlace).ToList())
            {
                _folders.Remove(place);
                folder.IsAlive = false;
                folder.Watcher.Dispose();
                listeners.AddRange(folder.Listeners);
            }
            Rest();
        }
        foreach (var listener in listeners)
            listener(null);
    }

    void Rest()
    {
        if (_folders.Count > 0)
            return;
        _patrol?.Dispose();
        _patrol = null;
    }

    FileSystemWatcher? Open((string Folder, bool Deep) place)
    {
        try
        {
            var watcher = new FileSystemWatcher(place.Folder)
            {
                IncludeSubdirectories = place.Deep,
                NotifyFilter =
                    NotifyFilters.FileName | NotifyFilters.DirectoryName | NotifyFilters.LastWrite | NotifyFilters.Size,
            };
            void Report(object sender, EventArgs e) => Changed(place, (e as FileSystemEventArgs)?.FullPath);
            watcher.Created += Report;
            watcher.Changed += Report;
            watcher.Deleted += Report;
            watcher.Renamed += Report;
            watcher.Error += Report;
            watcher.EnableRaisingEvents = true;
            return watcher;
        }
        catch (Exception e) when (e is IOException or ArgumentException or UnauthorizedAccessException)
        {
            NotWatched(logger, place.Folder, e.Message);
            return null;
        }
    }

    [LoggerMessage(
        LogLevel.Warning,
        "{Folder} can't be watched ({Reason}); guards that look there do so at their planned times only"
    )]
    static partial void NotWatched(ILogger logger, string folder, string reason);

    void Changed((string, bool) place, string? path)
    {
        Action<string?>[] listeners;
        lock (_lock)
        {
            listeners = _folders.TryGetValue(place, out var folder) ? [.. folder.Listeners] : [];
        }
        foreach (var listener in listeners)
            listener(path);
    }

    void End((string, bool) place, Folder folder, Action<string?> changed)
    {
        lock (_lock)
        {
            if (!folder.Listeners.Remove(changed) || folder.Listeners.Count > 0 || !folder.IsAlive)
                return;
            _folders.Remove(place);
            folder.Watcher.Dispose();
            Rest();
        }
    }

    public void Dispose()
    {
        lock (_lock)
        {
            foreach (var folder in _folders.Values)
                folder.Watcher.Dispose();
            _folders.Clear();
            Rest();
        }
    }
}

/// <summary>Somebody watches a place, until it is disposed of. Thread-safe.</summary>
sealed class FileWatch((string Folder, bool Deep) place, Func<bool> isAlive, Action end) : IDisposable
{
    public (string Folder, bool Deep) Place => place;

    /// <summary>
    /// Whether anything would still be reported; false once the folder is not the one any more that was watched.
    /// </summary>
    public bool IsAlive => isAlive();

    public void Dispose() => end();
}
