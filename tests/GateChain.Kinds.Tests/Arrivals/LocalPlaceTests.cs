using System.Diagnostics;
using GateChain.Kinds.Arrivals;
using GateChain.Kinds.Contract;

namespace GateChain.Kinds.Tests.Arrivals;

/// <summary>What lies in a folder, however it is called and whatever it is.</summary>
public sealed class LocalPlaceTests : IDisposable
{
    readonly Bench _bench = new();

    public void Dispose() => _bench.Dispose();

    PlaceView Look(string pattern) =>
        LocalPlace.Look(new AllowedFolders(_bench.Folder), _bench.Folder, pattern, CancellationToken.None);

    [Fact]
    public void WhatIsNoFileIsLeftAndWhatCannotBeTakenIsTold()
    {
        using var shell = Process.Start(
            new ProcessStartInfo(
                "bash",
                [
                    "-c",
                    """
                    mkdir in; cd in; echo 1 > -rf.csv; echo 1 > $'new\nline.csv'; echo 1 > '${x} "y".csv'; : > empty.csv
                    mkdir folder.csv; mkfifo pipe.csv; ln -s /etc/passwd out.csv; ln -s loop.csv loop.csv; ln -s nowhere no.csv
                    ln -s empty.csv inside.csv; echo 1 > $'bad\xff.csv'
                    """,
                ]
            )
            {
                WorkingDirectory = _bench.Folder,
            }
        )!;
        shell.WaitForExit();
        var view = Look("in/*.csv");
        Assert.True(view.IsThere);
        Assert.Equal(
            ["${x} \"y\".csv", "-rf.csv", "empty.csv", "inside.csv", "new\nline.csv"],
            view.Files.Select(f => f.Name).Order(StringComparer.Ordinal)
        );
        Assert.Equal(5, view.Files.Select(f => f.Key).Distinct().Count());
        Assert.Contains(view.Troubles, t => t.Contains("its name is not UTF-8", StringComparison.Ordinal));
        Assert.Contains(view.Troubles, t => t.Contains("outside of the folders", StringComparison.Ordinal));
        Assert.Contains(view.Troubles, t => t.Contains("goes in circles", StringComparison.Ordinal));
        // Another content, or another file in its place, is another version.
        var before = Look("in/-rf.csv").Files[0].Key;
        File.WriteAllText(_bench["in/-rf.csv"], "22");
        var after = Look("in/-rf.csv").Files[0].Key;
        File.Copy(_bench["in/-rf.csv"], _bench["in/other"]);
        File.Move(_bench["in/other"], _bench["in/-rf.csv"], overwrite: true);
        Assert.Equal(3, new[] { before, after, Look("in/-rf.csv").Files[0].Key }.Distinct().Count());
        Assert.False(Look("nowhere/*.csv").IsThere);
        Assert.False(Look("/etc/*.csv").IsThere);
    }
}
