using GateChain.Engine.Guards;

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
    public void OnlyChangesThatCanMatterWake(string pattern, string? path, bool concerns) => Assert.Equal(concerns, FileWatches.Concerns(pattern, path));

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
