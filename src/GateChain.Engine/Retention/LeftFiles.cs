using System.Globalization;
using GateChain.Engine.Basics;
using GateChain.Storage;

namespace GateChain.Engine.Retention;

/// <summary>The files that runs leave beside the store: logs, snapshots, what steps keep. Thread-safe.</summary>
sealed class LeftFiles(EngineOptions options, IRetention store, TimeProvider time)
{
    const int Together = 1_000;

    // What is this young may be of a run that is just being written.
    static readonly TimeSpan Young = TimeSpan.FromHours(1);

    /// <summary>Removes those of one run. What can't be removed now is removed by a later sweep.</summary>
    public void Remove(long run)
    {
        var name = run.ToString(CultureInfo.InvariantCulture);
        foreach (var folder in (string[])[options.Logs, options.Steps])
            Try(() => Directory.Delete(Path.Combine(folder, name), recursive: true));
        Try(() => File.Delete(Path.Combine(options.Snapshots, $"{name}.snapshot")));
    }

    static void Try(Action remove)
    {
        try
        {
            remove();
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException) { }
    }

    /// <summary>Removes those of runs that are not there any more: a crash came before, or another node removed
    /// them.</summary>
    public async Task SweepAsync(CancellationToken cancel)
    {
        var before = time.GetUtcNow().UtcDateTime - Young;
        foreach (var folder in (string[])[options.Logs, options.Steps, options.Snapshots])
        {
            if (!Directory.Exists(folder))
                continue;
            var old = new DirectoryInfo(folder)
                .EnumerateFileSystemInfos()
                .Where(e => e.LastWriteTimeUtc < before)
                .Select(e => RunOf(e.Name))
                .OfType<long>();
            foreach (var some in old.Chunk(Together))
            {
                cancel.ThrowIfCancellationRequested();
                var there = await store.ThereAsync(some).ConfigureAwait(false);
                foreach (var run in some.Where(r => !there.Contains(r)))
                    Remove(run);
            }
        }
    }

    static long? RunOf(string name) =>
        long.TryParse(Path.GetFileNameWithoutExtension(name), CultureInfo.InvariantCulture, out var run) ? run : null;

    /// <summary>How much room they take.</summary>
    public IEnumerable<RoomUse> Use(CancellationToken cancel)
    {
        foreach (
            var (what, folder) in ((string, string)[])
                [("logs", options.Logs), ("files of steps", options.Steps), ("snapshots", options.Snapshots)]
        )
        {
            var (files, bytes) = (0L, 0L);
            if (Directory.Exists(folder))
            {
                foreach (var file in new DirectoryInfo(folder).EnumerateFiles("*", SearchOption.AllDirectories))
                {
                    cancel.ThrowIfCancellationRequested();
                    files++;
                    bytes += file.Length;
                }
            }
            yield return new(what, files, bytes);
        }
    }
}
