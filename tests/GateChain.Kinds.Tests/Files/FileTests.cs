using System.IO.Compression;
using GateChain.Core.Running;
using GateChain.Core.Values;
using GateChain.Kinds.Contract;
using GateChain.Kinds.Files;

namespace GateChain.Kinds.Tests.Files;

public sealed class FileTests : IDisposable
{
    readonly Bench _bench = new();

    public void Dispose() => _bench.Dispose();

    Task<AttemptResult> RunAsync(string settings) => _bench.RunAsync(new FileKind(), settings);

    static string Out(AttemptResult result, string name) =>
        ValueText.ToPlainString(result.Outputs.AsMap.Find(name)!.Value);

    [Theory]
    [InlineData("move", "mv/**/pick.csv", "out/", "2 files would become")]
    [InlineData("copy", "mv/**/pick.csv", "out/", "2 files would become")]
    [InlineData("move", "mv/**/pick.csv", "mv/north/", "would become")]
    [InlineData("move", "chain/*.csv", "chain/a/", null)]
    public async Task FilesOfOneNameNeverTakeEachOthersPlace(string action, string pattern, string to, string? says)
    {
        foreach (
            var (name, text) in ((string, string)[])
                [("mv/north/pick.csv", "NORTH"), ("mv/south/pick.csv", "SOUTH"), ("chain/x.csv", "X")]
        )
        {
            Directory.CreateDirectory(Path.GetDirectoryName(_bench[name])!);
            File.WriteAllText(_bench[name], text);
        }
        var before = Tree();
        var result = await RunAsync(
            $$"""{"action": "{{action}}", "path": "{{pattern}}", "to": "{{to}}", "overwrite": true}"""
        );
        if (says is null)
        {
            Assert.Null(result.Error);
            return;
        }
        Assert.Equal("same-target", result.Error?.Code);
        Assert.Contains(says, result.Error!.Message, StringComparison.Ordinal);
        Assert.Equal(before, Tree());
        Assert.Equal(
            ("NORTH", "SOUTH"),
            (File.ReadAllText(_bench["mv/north/pick.csv"]), File.ReadAllText(_bench["mv/south/pick.csv"]))
        );
    }

    string Tree() =>
        string.Join(
            ' ',
            Directory
                .EnumerateFiles(_bench.Folder, "*", SearchOption.AllDirectories)
                .Select(f => Path.GetRelativePath(_bench.Folder, f))
                .Where(f => f.Contains('/'))
                .Order(StringComparer.Ordinal)
        );

    [Theory]
    [InlineData("""{"action": "look", "path": "in/*.csv"}""", 2, "in/a.csv in/b.csv in/c.txt")]
    [InlineData("""{"action": "look", "path": "in/?.csv"}""", 2, "in/a.csv in/b.csv in/c.txt")]
    [InlineData("""{"action": "look", "path": "**/b.?sv"}""", 1, "in/a.csv in/b.csv in/c.txt")]
    [InlineData("""{"action": "look", "path": "in/?csv"}""", 0, "in/a.csv in/b.csv in/c.txt")]
    [InlineData("""{"action": "look", "path": "in/none-*"}""", 0, "in/a.csv in/b.csv in/c.txt")]
    [InlineData("""{"action": "look", "path": "**/*.csv"}""", 2, "in/a.csv in/b.csv in/c.txt")]
    [InlineData(
        """{"action": "copy", "path": "in/*.csv", "to": "out/"}""",
        2,
        "in/a.csv in/b.csv in/c.txt out/a.csv out/b.csv"
    )]
    [InlineData("""{"action": "move", "path": "in/a.csv", "to": "out/z.csv"}""", 1, "in/b.csv in/c.txt out/z.csv")]
    [InlineData("""{"action": "rename", "path": "in/a.csv", "to": "z.csv"}""", 1, "in/b.csv in/c.txt in/z.csv")]
    [InlineData(
        """{"action": "rename", "path": "in/a.csv", "to": "b.csv", "overwrite": true}""",
        1,
        "in/b.csv in/c.txt"
    )]
    [InlineData("""{"action": "delete", "path": "in/*.csv"}""", 2, "in/c.txt")]
    [InlineData("""{"action": "hash", "path": "in/*.csv"}""", 2, "in/a.csv in/b.csv in/c.txt")]
    [InlineData("""{"action": "makeFolder", "path": "new/er"}""", 0, "in/a.csv in/b.csv in/c.txt")]
    [InlineData(
        """{"action": "write", "path": "new/d.txt", "text": "moo"}""",
        1,
        "in/a.csv in/b.csv in/c.txt new/d.txt"
    )]
    [InlineData(
        """{"action": "pack", "path": "in/*.csv", "to": "out/all.zip"}""",
        1,
        "in/a.csv in/b.csv in/c.txt out/all.zip"
    )]
    [InlineData(
        """{"action": "pack", "path": "in/a.csv", "to": "out/a.csv.gz"}""",
        1,
        "in/a.csv in/b.csv in/c.txt out/a.csv.gz"
    )]
    [InlineData("""{"action": "look", "connection": "inbox", "path": "*.csv"}""", 2, "in/a.csv in/b.csv in/c.txt")]
    public async Task DoesWhatTheActionSays(string settings, int count, string left)
    {
        foreach (var name in (string[])["in/a.csv", "in/b.csv", "in/c.txt"])
            _bench.Write(name, name);
        _bench.Connect("inbox", "folder", ("path", "in"));
        var result = await RunAsync(settings);
        Assert.Null(result.Error);
        Assert.Equal(count, result.Outputs.AsMap.Find("count")!.Value.AsInt);
        Assert.Equal(left, Tree());
    }

    [Theory]
    [InlineData("""{"action": "look", "path": "nothing", "ifNone": "fail"}""", "no-file", "no file matches nothing")]
    [InlineData("""{"action": "copy", "path": "nothing", "to": "x"}""", "no-file", "no file matches nothing")]
    [InlineData("""{"action": "copy", "path": "a"}""", "setting", "“to” is missing: where to copy")]
    [InlineData("""{"action": "copy", "path": "a", "to": "b"}""", "exists", "b exists already")]
    [InlineData("""{"action": "copy", "path": "?", "to": "b/"}""", "file", "b")]
    [InlineData(
        """{"action": "move", "path": "a", "to": "a", "overwrite": true}""",
        "file",
        "a is source and target at once"
    )]
    [InlineData("""{"action": "rename", "path": "a", "to": "x/y"}""", "setting", "move leads to another folder")]
    [InlineData("""{"action": "rename", "path": "?", "to": "y"}""", "file", "only one can have the new name")]
    [InlineData("""{"action": "write", "path": "b", "text": "x"}""", "exists", "b exists already")]
    [InlineData("""{"action": "write", "path": "c"}""", "setting", "“text” is missing: what to write")]
    [InlineData("""{"action": "pack", "path": "a", "to": "x.rar"}""", "setting", "say which it is with “format”")]
    [InlineData("""{"action": "pack", "path": "?", "to": "x.gz"}""", "archive", "a gzip file holds one")]
    [InlineData("""{"action": "unpack", "path": "a", "to": "x/", "format": "zip"}""", "archive", "a can't be unpacked")]
    [InlineData(
        """{"action": "look", "path": "a", "connection": "inbox"}""",
        "no-connection",
        "there is no connection “inbox”"
    )]
    [InlineData(
        """{"action": "shred", "path": "a"}""",
        "setting",
        "is not one of look, copy, move, rename, delete, makeFolder, pack, unpack, hash, write"
    )]
    public async Task SaysWhatWentWrongAndTouchesNothing(string settings, string code, string message)
    {
        _bench.Write("a", "a");
        _bench.Write("b", "b");
        var result = await RunAsync(settings);
        Assert.Equal(
            (code, true),
            (result.Error!.Code, result.Error.Message.Contains(message.Split(':')[0], StringComparison.Ordinal))
        );
        Assert.Equal("b", File.ReadAllText(_bench["b"]));
        Assert.Equal("a", File.ReadAllText(_bench["a"]));
    }

    // A program of root may write anywhere but onto a folder: there the third file meets one.
    [Fact]
    public async Task WhatWasDoneBeforeItBreaksOffIsTold()
    {
        foreach (var name in (string[])["a.csv", "b.csv", "c.csv"])
            _bench.Write("in/" + name, name);
        Directory.CreateDirectory(_bench["out/c.csv"]);
        var result = await _bench.RunAsync(
            new FileKind(),
            """{"action": "move", "path": "in/*.csv", "to": "out/", "overwrite": true}"""
        );
        Assert.EndsWith(
            "2 of 3 files were done before; the step's log names them.",
            result.Error?.Detail,
            StringComparison.Ordinal
        );
        Assert.Contains(_bench.Log, l =>
            l.StartsWith("note moved ", StringComparison.Ordinal) && l.EndsWith("out/b.csv", StringComparison.Ordinal)
        );
        Assert.Equal("c.csv", File.ReadAllText(_bench["in/c.csv"]));
    }

    [Fact]
    public async Task AFileThatGrowsWhileItIsCopiedIsNotTakenForAWholeOne()
    {
        _bench.Write("big.csv", new string('x', 64 << 20));
        using var stop = new CancellationTokenSource();
        var grows = Task.Run(async () =>
        {
            await using var file = new FileStream(
                _bench["big.csv"],
                FileMode.Append,
                FileAccess.Write,
                FileShare.ReadWrite
            );
            while (!stop.IsCancellationRequested)
            {
                file.WriteByte((byte)'y');
                file.Flush();
            }
        });
        while (new FileInfo(_bench["big.csv"]).Length == 64 << 20)
            await Task.Yield();
        var result = await _bench.RunAsync(
            new FileKind(),
            """{"action": "copy", "path": "big.csv", "to": "out/big.csv"}"""
        );
        await stop.CancelAsync();
        await grows;
        Assert.Equal(("changed", false), (result.Error?.Code, File.Exists(_bench["out/big.csv"])));
    }

    [Fact]
    public async Task LooksIntoFilesWhenAsked()
    {
        _bench.Write("old.csv", "id,litres\n1,5\n2,6");
        _bench.Write("new.csv", "id,litres,degrees\r\n1,5,4\r\n");
        File.SetLastWriteTimeUtc(_bench["old.csv"], DateTime.UtcNow.AddHours(-1));
        var result = await RunAsync("""{"action": "look", "path": "*.csv", "lines": true}""");
        Assert.Equal(
            "5 id,litres,degrees new.csv old.csv",
            $"{Out(result, "lines")} {Out(result, "header")} {Path.GetFileName(Out(result, "newest"))} "
                + $"{Path.GetFileName(Out(result, "oldest"))}"
        );
        Assert.Equal("2c26b46b68ffc68ff99b453c1d30413413422d706483bfa0f98a5e886266e7ae", Out(await Foo(""), "hash"));
        Assert.Equal("acbd18db4cc2f85cedef654fccc4a4d8", Out(await Foo(""", "algorithm": "md5" """), "hash"));

        Task<AttemptResult> Foo(string more)
        {
            _bench.Write("foo", "foo");
            return RunAsync($$"""{"action": "hash", "path": "foo"{{more}}}""");
        }
    }

    [Theory]
    [InlineData("all.zip", "back", "back/in/a.csv back/in/deep/b.csv")]
    [InlineData("a.csv.gz", "back/", "back/a.csv")]
    public async Task WhatWasPackedComesBackAsItWas(string archive, string to, string expected)
    {
        _bench.Write("in/a.csv", string.Concat(Enumerable.Repeat("milk,", 10_000)));
        _bench.Write("in/deep/b.csv", "b");
        Assert.Null(
            (
                await RunAsync(
                    $$"""{"action": "pack", "path": "{{(archive == "all.zip" ? "**/*.csv" : "in/a.csv")}}", "to": "{{archive}}"}"""
                )
            ).Error
        );
        Assert.True(new FileInfo(_bench[archive]).Length < 2_000);
        Assert.Null((await RunAsync($$"""{"action": "unpack", "path": "{{archive}}", "to": "{{to}}"}""")).Error);
        Assert.Equal(
            expected,
            string.Join(' ', Tree().Split(' ').Where(f => f.StartsWith("back", StringComparison.Ordinal)))
        );
        Assert.Equal(File.ReadAllText(_bench["in/a.csv"]), File.ReadAllText(_bench[expected.Split(' ')[0]]));
        // A second time nothing is replaced unasked, and too much is too much.
        Assert.Equal(
            "exists",
            (await RunAsync($$"""{"action": "unpack", "path": "{{archive}}", "to": "{{to}}"}""")).Error!.Code
        );
        Assert.Equal(
            "size",
            (await RunAsync($$"""{"action": "unpack", "path": "{{archive}}", "to": "other/", "maxBytes": 20}"""))
                .Error!
                .Code
        );
        Assert.DoesNotContain("other", Tree(), StringComparison.Ordinal);
    }

    [Fact]
    public async Task WrittenTextsCanBePutBehindEachOther()
    {
        _bench.Attachments["line.txt"] = "two\n";
        Assert.Null((await RunAsync("""{"action": "write", "path": "t", "text": "one\n"}""")).Error);
        Assert.Null(
            (await RunAsync("""{"action": "write", "path": "t", "text": {"file": "line.txt"}, "append": true}""")).Error
        );
        Assert.Equal("one\ntwo\n", File.ReadAllText(_bench["t"]));
        Assert.Null((await RunAsync("""{"action": "write", "path": "t", "text": "", "overwrite": true}""")).Error);
        Assert.Equal("", File.ReadAllText(_bench["t"]));
    }

    [Theory]
    [InlineData("""{"action": "look", "path": "../secret/*"}""")]
    [InlineData("""{"action": "look", "path": "/etc/hostname"}""")]
    [InlineData("""{"action": "look", "path": "link/x"}""")]
    [InlineData("""{"action": "look", "path": "link/*"}""")]
    [InlineData("""{"action": "look", "path": "round/x"}""")]
    [InlineData("""{"action": "hash", "path": "**/x"}""")]
    [InlineData("""{"action": "copy", "path": "a", "to": "../stolen"}""")]
    [InlineData("""{"action": "copy", "path": "a", "to": "link/"}""")]
    [InlineData("""{"action": "move", "path": "a", "to": "link/deep/er"}""")]
    [InlineData("""{"action": "write", "path": "link/new", "text": "x"}""")]
    [InlineData("""{"action": "makeFolder", "path": "link/new"}""")]
    [InlineData("""{"action": "delete", "path": "link/x"}""")]
    [InlineData("""{"action": "unpack", "path": "evil.zip", "to": "out"}""")]
    [InlineData("""{"action": "look", "connection": "out", "path": "x"}""")]
    public async Task NothingLeadsOutOfTheAllowedFolders(string settings)
    {
        using var outside = new TempFolder();
        outside.Write("x", "secret");
        Directory.CreateSymbolicLink(_bench["link"], outside.Path);
        Directory.CreateSymbolicLink(_bench["round"], _bench["round"]);
        _bench.Connect("out", "folder", ("path", outside.Path));
        _bench.Write("a", "a");
        using (var zip = ZipFile.Open(_bench["evil.zip"], ZipArchiveMode.Create))
        {
            using var entry = new StreamWriter(zip.CreateEntry("../../stolen").Open());
            entry.Write("x");
        }
        var error = (await RunAsync(settings)).Error!;
        Assert.Equal("outside", error.Code);
        Assert.Equal("x", Assert.Single(Directory.GetFileSystemEntries(outside.Path).Select(Path.GetFileName)));
        Assert.Equal("secret", File.ReadAllText(outside["x"]));
        Assert.False(File.Exists(Path.Combine(Path.GetDirectoryName(_bench.Folder)!, "stolen")));
    }

    [Fact]
    public void WhatIsAllowedIsAllowedByWhatItReallyIs()
    {
        using var other = new TempFolder();
        other.Write("x", "x");
        Directory.CreateSymbolicLink(_bench["link"], other.Path);
        var folders = new AllowedFolders(_bench.Folder, _bench["link"]);
        Assert.Equal(_bench["link/x"], folders.Resolve("link/x", _bench.Folder));
        Assert.Equal(other["x"], folders.Resolve(other["x"], _bench.Folder));
        // A folder whose name only begins the same is another one.
        Assert.Throws<StepFailedException>(() => folders.Resolve(_bench.Folder + "-more/x", "/"));
        Assert.Equal("/any/thing", new AllowedFolders("/").Resolve("thing", "/any"));
    }
}
