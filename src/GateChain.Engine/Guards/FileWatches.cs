using Microsoft.Extensions.Logging;

namespace GateChain.Engine.Guards;

/// <summary>
/// Reports changes in the file system. Watches of one folder share one watcher of the operating system, of which there
/// are few. Thread-safe. When none is to be had, nothing is reported: guards then look again at their planned times.
/// </summary>
sealed partial class FileWatches(ILogger logger) : IDisposable
{
    readonly Lock _lock = new();
    readonly Dictionary<(string Folder, bool Deep), Folder> _folders = [];

    sealed class Folder(FileSystemWatcher watcher)
    {
        public FileSystemWatcher Watcher { get; } = watcher;
        public List<Action> Listeners { get; } = [];
    }

    /// <summary>Where a path or pattern would be watched: its folder, or the nearest one above that exists.</summary>
    public static (string Folder, bool Deep) Place(string pattern)
    {
        var wild = pattern.IndexOfAny(['*', '?']);
        var folder = wild < 0 ? Path.GetDirectoryName(pattern) ?? "/" : pattern[..Math.Max(1, pattern.LastIndexOf('/', wild))];
        // Below the first wildcard there may be folders.
        var deep = wild >= 0 && pattern.IndexOf('/', wild) >= 0;
        while (!Directory.Exists(folder) && Path.GetDirectoryName(folder) is { } above) { (folder, deep) = (above, false); }
        return (folder, deep);
    }

    /// <summary>Calls <paramref name="changed"/> on every change at the place, until disposed of; null when it can't be watched.</summary>
    public IDisposable? Watch((string Folder, bool Deep) place, Action changed)
    {
        lock (_lock)
        {
            if (!_folders.TryGetValue(place, out var folder))
            {
                if (Open(place) is not { } watcher) { return null; }
                _folders[place] = folder = new(watcher);
            }
            folder.Listeners.Add(changed);
        }
        return new Listening(() => End(place, changed));
    }

    FileSystemWatcher? Open((string Folder, bool Deep) place)
    {
        try
        {
            var watcher = new FileSystemWatcher(place.Folder)
            {
                IncludeSubdirectories = place.Deep,
                NotifyFilter = NotifyFilters.FileName | NotifyFilters.DirectoryName | NotifyFilters.LastWrite | NotifyFilters.Size,
            };
            void Report(object sender, EventArgs e) => Changed(place);
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

    [LoggerMessage(LogLevel.Warning, "{Folder} can't be watched ({Reason}); guards that look there do so at their planned times only")]
    static partial void NotWatched(ILogger logger, string folder, string reason);

    void Changed((string, bool) place)
    {
        Action[] listeners;
        lock (_lock) { listeners = _folders.TryGetValue(place, out var folder) ? [.. folder.Listeners] : []; }
        foreach (var listener in listeners) { listener(); }
    }

    void End((string, bool) place, Action changed)
    {
        lock (_lock)
        {
            if (!_folders.TryGetValue(place, out var folder) || !folder.Listeners.Remove(changed) || folder.Listeners.Count > 0) { return; }
            _folders.Remove(place);
            folder.Watcher.Dispose();
        }
    }

    public void Dispose()
    {
        lock (_lock)
        {
            foreach (var folder in _folders.Values) { folder.Watcher.Dispose(); }
            _folders.Clear();
        }
    }

    sealed class Listening(Action end) : IDisposable
    {
        public void Dispose() => end();
    }
}
