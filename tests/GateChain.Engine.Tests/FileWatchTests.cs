using GateChain.Engine.Guards;
using Microsoft.Extensions.Logging.Abstractions;

namespace GateChain.Engine.Tests;

public class FileWatchTests
{
    [Theory]
    [InlineData("/w/in/*.csv", "/w/in/a.csv", true)]
    [InlineData("/w/in/*.csv", "/w/in/a.csv.partial", false)]
    [InlineData("/w/in/*.csv", "/w/in/db-wal", false)]
    [InlineData("/w/in/*.csv", "/w/in", true)]
    [InlineData("/w/in/*.csv", "/w/other", false)]
    [InlineData("/w/in/x.csv", "/w/in/x.csv", true)]
    [InlineData("/w/in/x.csv", "/w/in/y.csv", false)]
    [InlineData("/w/in/**/x.csv", "/w/in/deep", true)]
    [InlineData("/w/in/**/x.csv", "/w/data.db", false)]
    [InlineData("/w/in/x.csv", null, true)]
    public void OnlyChangesThatCanMatterWake(string pattern, string? path, bool concerns) =>
        Assert.Equal(concerns, FileWatches.Concerns(pattern, path));

    // Folders are made just while the watch is set up; whichever comes first, the watch stands at the last one or has
    // told of a change.
    [Fact]
    public void NoFolderIsMissedThatComesWhileTheWatchIsSetUp()
    {
        using var folder = new TempFolder();
        using var watches = new FileWatches(NullLogger.Instance);
        var watched = 0;
        for (var i = 0; i < 300; i++)
        {
            var (first, last) = (folder[$"{i}"], folder[$"{i}/in/deep"]);
            Directory.CreateDirectory(first);
            using var start = new Barrier(2);
            var maker = new Thread(() =>
            {
                start.SignalAndWait();
                Thread.SpinWait(i * 20);
                Directory.CreateDirectory(last);
            });
            maker.Start();
            start.SignalAndWait();
            var told = 0;
            using var watch = watches.Watch($"{last}/*.csv", _ => Interlocked.Increment(ref told));
            maker.Join();
            // A machine has few watchers, and closes those of the last rounds in its own time.
            if (watch is null)
                continue;
            watched++;
            Assert.True(
                watch.Place.Folder == last
                    || SpinWait.SpinUntil(() => Volatile.Read(ref told) > 0, TimeSpan.FromSeconds(20)),
                $"round {i}: it stands at {watch.Place.Folder} and has told nothing"
            );
        }
        Assert.InRange(watched, 100, 300);
    }

    [Fact]
    public void AFolderThatIsReplacedIsToldAndWatchedAnew()
    {
        using var folder = new TempFolder();
        using var watches = new FileWatches(NullLogger.Instance);
        Directory.CreateDirectory(folder["in"]);
        List<string?> told = [];
        FileWatch Watch() => watches.Watch(folder["in/*.csv"], path =>
            {
                lock (told)
                {
                    told.Add(path);
                }
            })!;
        bool Tells(Func<bool> what) =>
            SpinWait.SpinUntil(
                () =>
                {
                    lock (told)
                    {
                        return what();
                    }
                },
                TimeSpan.FromSeconds(30)
            );
        var (old, other) = (Watch(), Watch());
        Directory.Move(folder["in"], folder["out"]);
        Directory.CreateDirectory(folder["in"]);
        Assert.True(Tells(() => told.Count(t => t is null) == 2), "nobody was told");
        Assert.False(old.IsAlive || other.IsAlive);
        using var anew = Watch();
        old.Dispose();
        other.Dispose();
        Assert.True(anew.IsAlive);
        File.WriteAllText(folder["in/a.csv"], "1");
        Assert.True(Tells(() => told.Contains(folder["in/a.csv"])), "the new folder is not watched");
    }

    [Fact]
    public void AFolderThatIsNotThereIsWatchedFromTheNearestAbove()
    {
        using var folder = new TempFolder();
        Assert.Equal((folder.Path, false), FileWatches.Place(folder["a/b/*.csv"]));
        Directory.CreateDirectory(folder["a/b"]);
        Assert.Equal((folder["a/b"], false), FileWatches.Place(folder["a/b/*.csv"]));
        Assert.Equal((folder["a"], true), FileWatches.Place(folder["a/*/x.csv"]));
    }
}
