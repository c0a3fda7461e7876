using System.Threading.Channels;

namespace GateChain.Cli.Terminal;

/// <summary>Waits for changes of files in folders; several at once are one. Used by one caller at a time.</summary>
sealed class FolderChanges : IDisposable
{
    static readonly TimeSpan Quiet = TimeSpan.FromMilliseconds(150);

    readonly Channel<bool> _changes = Channel.CreateBounded<bool>(
        new BoundedChannelOptions(1) { FullMode = BoundedChannelFullMode.DropWrite }
    );
    readonly List<FileSystemWatcher> _watchers = [];

    public FolderChanges(IEnumerable<string> folders)
    {
        foreach (var folder in folders.Distinct())
        {
            var watcher = new FileSystemWatcher(folder) { IncludeSubdirectories = true };
            watcher.Changed += (_, _) => Tell();
            watcher.Created += (_, _) => Tell();
            watcher.Deleted += (_, _) => Tell();
            watcher.Renamed += (_, _) => Tell();
            watcher.EnableRaisingEvents = true;
            _watchers.Add(watcher);
        }
    }

    void Tell() => _changes.Writer.TryWrite(true);

    /// <summary>Comes back when something has changed and it has been quiet for a moment.</summary>
    /// <exception cref="OperationCanceledException">It was cancelled.</exception>
    public async Task NextAsync(CancellationToken cancel)
    {
        await _changes.Reader.ReadAsync(cancel);
        do
        {
            await Task.Delay(Quiet, cancel);
        } while (_changes.Reader.TryRead(out _));
    }

    public void Dispose()
    {
        foreach (var watcher in _watchers)
            watcher.Dispose();
    }
}
