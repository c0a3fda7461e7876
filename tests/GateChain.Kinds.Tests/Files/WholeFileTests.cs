using System.Diagnostics;
using GateChain.Kinds.Files;

namespace GateChain.Kinds.Tests.Files;

/// <summary>Parts that a killed service left behind go with the next file of that name; nobody else's do.</summary>
public sealed class WholeFileTests : IDisposable
{
    readonly TempFolder _folder = new();

    public void Dispose() => _folder.Dispose();

    IEnumerable<string> Names() =>
        Directory.EnumerateFiles(_folder.Path).Select(f => Path.GetFileName(f)!).Order(StringComparer.Ordinal);

    [Fact]
    public void WhatIsLeftOfAProcessThatIsGoneIsDeletedAndWhatIsAtWorkStays()
    {
        using var gone = Process.Start("true");
        gone.WaitForExit();
        // How parts are named is learned in another folder.
        using var elsewhere = new TempFolder();
        var like = Path.GetFileName(WholeFile.PartOf(elsewhere["a.csv"]));
        string Part(string file, string host, int process) => $".{file}.{host}-{process}-x.gatechain-part";
        var host = like[".a.csv.".Length..].Split('-')[0];
        Assert.StartsWith($".a.csv.{host}-{Environment.ProcessId}-", like, StringComparison.Ordinal);
        // A service in a container has the same number every time; what it does not know is of an earlier life.
        string[] dead =
        [
            Part("a.csv", host, gone.Id),
            Part("b.csv", host, gone.Id),
            Part("a.csv", host, Environment.ProcessId),
        ];
        string[] others =
        [
            Part("a.csv", host, 1),
            Part("a.csv", "elsewhere", gone.Id),
            ".x.gatechain-part",
            "a.gatechain-part",
        ];
        foreach (var file in dead.Concat(others))
            File.WriteAllText(_folder[file], "");
        WholeFile.Write(_folder["a.csv"], file =>
        {
            file.Write("whole"u8);
            WholeFile.Write(_folder["c.csv"], _ => { });
        });
        Assert.Equal("whole", File.ReadAllText(_folder["a.csv"]));
        Assert.Equal(others.Concat(["a.csv", "c.csv"]).Order(StringComparer.Ordinal), Names());
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
