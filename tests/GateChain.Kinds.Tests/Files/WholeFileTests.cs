using System.Diagnostics;
using GateChain.Kinds.Files;

namespace GateChain.Kinds.Tests.Files;

/// <summary>Parts that a killed service left behind go with the next file of that name; nobody else's do.</summary>
public sealed class WholeFileTests : IDisposable
{
    readonly TempFolder _folder = new();

    public void Dispose() => _folder.Dispose();

    IEnumerable<string> Names() => Directory.EnumerateFiles(_folder.Path).Select(f => Path.GetFileName(f)!).Order(StringComparer.Ordinal);

    [Fact]
    public void WhatIsLeftOfAProcessThatIsGoneIsDeletedAndWhatIsAtWorkStays()
    {
        using var gone = Process.Start("true");
        gone.WaitForExit();
        var own = WholeFile.PartOf(_folder["a.csv"]);
        File.WriteAllText(own, "at work");
        var begins = Path.GetFileName(own)[..(Path.GetFileName(own).IndexOf($"-{Environment.ProcessId}-", StringComparison.Ordinal) + 1)];
        var (dead, alive, other) = (_folder[$"{begins}{gone.Id}-x.gatechain-part"], _folder[$"{begins}1-x.gatechain-part"], _folder[".a.csv.elsewhere-77-x.gatechain-part"]);
        var otherFile = _folder[$"{begins.Replace(".a.csv.", ".b.csv.", StringComparison.Ordinal)}{gone.Id}-x.gatechain-part"];
        // A service in a container has the same number every time; what it does not know is of an earlier life.
        var earlier = _folder[$"{begins}{Environment.ProcessId}-x.gatechain-part"];
        foreach (var file in (string[])[dead, alive, other, otherFile, earlier]) { File.WriteAllText(file, ""); }
        WholeFile.Write(_folder["a.csv"], file => file.Write("whole"u8));
        Assert.Equal("whole", File.ReadAllText(_folder["a.csv"]));
        Assert.Equal(new[] { "a.csv", Path.GetFileName(own), Path.GetFileName(alive), Path.GetFileName(other), Path.GetFileName(otherFile) }.Order(StringComparer.Ordinal), Names());
        WholeFile.End(own);
        Assert.False(File.Exists(own));
    }

    [Fact]
    public void WhenItBreaksOffEverythingIsAsItWas()
    {
        File.WriteAllText(_folder["a.csv"], "before");
        Assert.Throws<IOException>(() => WholeFile.Write(_folder["a.csv"], _ => throw new IOException("full")));
        Assert.Equal(["a.csv"], Names());
        Assert.Equal("before", File.ReadAllText(_folder["a.csv"]));
    }
}
