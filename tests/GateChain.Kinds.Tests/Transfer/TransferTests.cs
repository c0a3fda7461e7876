using GateChain.Core.Running;
using GateChain.Core.Values;
using GateChain.Kinds.Arrivals;
using GateChain.Kinds.Connections;
using GateChain.Kinds.FileServers;
using GateChain.Kinds.Tests.Servers;
using GateChain.Kinds.Transfer;

namespace GateChain.Kinds.Tests.Transfer;

/// <summary>The kind <c>transfer</c> against OpenSSH's server.</summary>
public sealed class TransferTests : IDisposable
{
    readonly Bench _bench = new();
    readonly SshServer _server = SshServer.Start();
    readonly TransferKind _kind = new();

    public TransferTests() => Connect();

    void Connect(string? hostKey = null, int? port = null)
    {
        _bench.Secrets["key"] = _server.PrivateKey;
        _bench.Connect(
            "depots",
            "sftp",
            ("host", "127.0.0.1"),
            ("port", port ?? _server.Port),
            ("user", Environment.UserName),
            ("privateKey", "secret:key"),
            ("hostKey", hostKey ?? _server.HostKey)
        );
    }

    public void Dispose()
    {
        _server.Dispose();
        _bench.Dispose();
    }

    Task<AttemptResult> TransferAsync(string action, string path, string? to = null, string more = "") =>
        _bench.RunAsync(
            _kind,
            $$"""{"connection": "depots", "action": "{{action}}", "path": "{{path}}"{{(to is null ? "" : $", \"to\": \"{to}\"")}}{{more}}}"""
        );

    string There(string name) => Path.Combine(_server.Files, name);

    [Fact]
    public async Task FilesGoThereAndComeBack()
    {
        foreach (var name in (string[])["north.csv", "south.csv", "other.txt"])
            _bench.Write(name, $"the file {name}\n");
        var put = await TransferAsync("put", "*.csv", _server.Files + "/");
        Assert.Null(put.Error);
        Assert.Equal(2, put.Outputs.AsMap.Find("count")!.Value.AsInt);
        Assert.Equal("the file north.csv\n", File.ReadAllText(There("north.csv")));
        var list = await TransferAsync("list", _server.Files + "/*");
        Assert.Equal(
            """["north.csv","south.csv"]""",
            ValueJson.ToText(
                Value.List([.. list.Outputs.AsMap.Find("files")!.Value.AsList.Select(f => f.AsMap.Find("name")!.Value)])
            )
        );
        Assert.Null((await TransferAsync("get", _server.Files + "/*.csv", "in/")).Error);
        Assert.Equal("the file south.csv\n", File.ReadAllText(_bench["in/south.csv"]));
        Assert.Null((await TransferAsync("move", _server.Files + "/north.csv", _server.Files + "/done.csv")).Error);
        Assert.Null((await TransferAsync("delete", _server.Files + "/south.csv")).Error);
        Assert.Equal(["done.csv"], Directory.GetFiles(_server.Files).Select(Path.GetFileName));
    }

    [Fact]
    public async Task FilesThatComeAreSeenAndWhatDoesNotAnswerIsTold()
    {
        Task<PlaceView> LookAsync(string pattern) =>
            ServerPlace.LookAsync(_bench.Find("depots")!, _bench, pattern, TestContext.Current.CancellationToken);
        Directory.CreateDirectory(There("west"));
        Directory.CreateDirectory(There("east"));
        File.WriteAllText(There("west/a.csv"), "1");
        File.WriteAllText(There("east/a.csv"), "12");
        File.WriteAllText(There("east/.a.csv.part"), "12");
        var view = await LookAsync(_server.Files + "/*/*.csv");
        Assert.True(view.IsThere);
        Assert.Equal(
            [("east/a.csv", 2L), ("west/a.csv", 1L)],
            view.Files.Select(f => (f.Path[(_server.Files.Length + 1)..], f.Size))
        );
        // However its path is written, a file is told by its full one: it fires once.
        var own = Path.GetRelativePath(
            Environment.GetFolderPath(Environment.SpecialFolder.UserProfile),
            There("east/a.csv")
        );
        Assert.Equal(view.Files[0].Path, Path.GetFullPath(Assert.Single((await LookAsync(own)).Files).Path));
        // Another content is another version; the same one is not.
        var before = view.Files.Select(f => f.Key).ToList();
        File.WriteAllText(There("east/a.csv"), "123");
        var after = (await LookAsync(_server.Files + "/*/*.csv")).Files.Select(f => f.Key).ToList();
        Assert.Equal((false, true), (before[0] == after[0], before[1] == after[1]));
        var none = await LookAsync(_server.Files + "/north/*.csv");
        Assert.False(none.IsThere);
        Assert.NotEmpty(none.Troubles);
        Connect(port: 1);
        var silent = await LookAsync(_server.Files + "/*.csv");
        Assert.Equal((false, 0), (silent.IsThere, silent.Files.Count));
        Assert.NotEmpty(silent.Troubles);
    }

    [Fact]
    public async Task LinksOnTheServerAreWhatTheyLeadTo()
    {
        File.WriteAllText(There("real.txt"), "twelve bytes");
        File.CreateSymbolicLink(There("a.link"), There("real.txt"));
        File.CreateSymbolicLink(There("b.link"), There("gone.txt"));
        Directory.CreateDirectory(There("folder"));
        File.CreateSymbolicLink(There("c.link"), There("folder"));
        var list = await TransferAsync("list", There("*.link"));
        Assert.Equal(
            $$"""[{"path":"{{There("a.link")}}","name":"a.link","size":12}]""",
            ValueJson.ToText(
                Value.List([
                    .. list
                        .Outputs.AsMap.Find("files")!
                        .Value.AsList.Select(f =>
                            Value.Map(
                                ("path", f.AsMap.Find("path")!.Value),
                                ("name", f.AsMap.Find("name")!.Value),
                                ("size", f.AsMap.Find("size")!.Value)
                            )
                        ),
                ])
            )
        );
        var got = await TransferAsync("get", There("a.link"), "in/");
        Assert.True(got.Error is null, got.Error?.ToString());
        Assert.Equal(
            _bench["in/a.link"],
            got.Outputs.AsMap.Find("files")!.Value.AsList[0].AsMap.Find("path")!.Value.AsString
        );
        Assert.Equal(
            "twelve bytes",
            File.ReadAllText(got.Outputs.AsMap.Find("files")!.Value.AsList[0].AsMap.Find("path")!.Value.AsString)
        );
    }

    [Fact]
    public async Task WhatIsThereIsReplacedOnlyWhenAsked()
    {
        _bench.Write("a.csv", "new");
        File.WriteAllText(There("a.csv"), "old");
        Assert.Equal("exists", (await TransferAsync("put", "a.csv", There("a.csv"))).Error?.Code);
        Assert.Equal("old", File.ReadAllText(There("a.csv")));
        Assert.Null((await TransferAsync("put", "a.csv", There("a.csv"), """, "overwrite": true""")).Error);
        Assert.Equal("new", File.ReadAllText(There("a.csv")));
        Assert.Equal("no-file", (await TransferAsync("get", There("nothing.csv"), "in/")).Error?.Code);
        Assert.Null((await TransferAsync("get", There("nothing*.csv"), "in/", """, "ifNone": "proceed" """)).Error);
    }

    // What an attempt that was cut off has brought is not brought again.
    [Theory]
    [InlineData(true)]
    [InlineData(false)]
    public async Task ATransferThatWasCutGoesOn(bool get)
    {
        var content = Enumerable.Range(0, 300_000).Select(i => (byte)(i * 7 % 251)).ToArray();
        var (source, to) = get ? (There("big"), _bench["in/big"]) : (_bench["big"], There("big"));
        File.WriteAllBytes(source, content);
        // Servers tell whole seconds.
        var changed = new DateTime(2026, 11, 22, 4, 0, 0, DateTimeKind.Utc);
        File.SetLastWriteTimeUtc(source, changed);
        var part = FileServer.PartOf(_bench.Context(), to, content.Length, changed);
        Directory.CreateDirectory(Path.GetDirectoryName(part)!);
        File.WriteAllBytes(part, content[..100_000]);
        Assert.Null(
            (
                get
                    ? await TransferAsync("get", There("big"), "in/big")
                    : await TransferAsync("put", "big", There("big"))
            ).Error
        );
        Assert.Equal(content, File.ReadAllBytes(get ? _bench["in/big"] : There("big")));
        Assert.Contains(_bench.Log, l => l.EndsWith("continues after 100,000 bytes", StringComparison.Ordinal));
        Assert.False(File.Exists(part));
    }

    [Theory]
    [InlineData(true)]
    [InlineData(false)]
    public async Task WhatAnotherFileOfTheSameNameHasLeftIsNotGoneOnWith(bool get)
    {
        var content = Enumerable.Range(0, 300_000).Select(i => (byte)(i * 7 % 251)).ToArray();
        var (source, to) = get ? (There("big"), _bench["in/big"]) : (_bench["big"], There("big"));
        File.WriteAllBytes(source, content);
        Directory.CreateDirectory(Path.GetDirectoryName(to)!);
        foreach (
            var part in (string[])
                [
                    to + ".gatechain-part",
                    FileServer.PartOf(_bench.Context(), to, content.Length, new(2026, 1, 1, 0, 0, 0, DateTimeKind.Utc)),
                    FileServer.PartOf(
                        _bench.Context("another run"),
                        to,
                        content.Length,
                        File.GetLastWriteTimeUtc(source)
                    ),
                ]
        )
        {
            File.WriteAllBytes(part, new byte[100_000]);
        }

        Assert.Null(
            (
                get
                    ? await TransferAsync("get", There("big"), "in/big")
                    : await TransferAsync("put", "big", There("big"))
            ).Error
        );
        Assert.Equal(content, File.ReadAllBytes(to));
    }

    [Fact]
    public async Task FoldersAreMadeOnTheServerAndFilesOfOneNameDoNotTakeEachOthersPlace()
    {
        foreach (var name in (string[])["a/x.csv", "b/x.csv"])
        {
            Directory.CreateDirectory(Path.GetDirectoryName(_bench[name])!);
            File.WriteAllText(_bench[name], name);
        }
        Assert.Null((await TransferAsync("put", "a/x.csv", There("new/deep/"))).Error);
        Assert.Equal("a/x.csv", File.ReadAllText(There("new/deep/x.csv")));
        var error = (await TransferAsync("put", "**/x.csv", There("both/"), """, "overwrite": true""")).Error!;
        Assert.Equal("same-target", error.Code);
        Assert.False(Directory.Exists(There("both")));
    }

    [Fact]
    public async Task AServerWithAnotherKeyIsNotSpokenTo()
    {
        Connect(hostKey: "SHA256:" + new string('A', 43));
        var error = (await TransferAsync("list", "/tmp/*")).Error!;
        Assert.Equal(
            (
                "host-key",
                $"127.0.0.1 has another key than it should: {_server.HostKey} instead of SHA256:{new string('A', 43)}"
            ),
            (error.Code, error.Message)
        );
        _bench.Connect(
            "depots",
            "sftp",
            ("host", "127.0.0.1"),
            ("port", _server.Port),
            ("user", "root"),
            ("privateKey", "secret:key")
        );
        var check = await ConnectionCheck.LookAsync(
            _bench.Find("depots")!,
            AllConnections.Types.First(t => t.Name == "sftp"),
            new(_bench.Folder, _bench),
            default
        );
        Assert.False(check.Works);
        Assert.Contains($"write hostKey: {_server.HostKey} to the connection", check.Found);
    }

    [Fact]
    public async Task AKeyThatMayNotComeInAndAServerThatIsGoneAreTold()
    {
        using var other = SshServer.Start();
        _bench.Secrets["key"] = other.PrivateKey;
        Assert.Equal("login", (await TransferAsync("list", "/tmp/*")).Error?.Code);
        _server.Kill();
        Assert.Equal("unreachable", (await TransferAsync("list", "/tmp/*")).Error?.Code);
        _bench.Secrets.Clear();
        Assert.Equal("no-secret", (await TransferAsync("list", "/tmp/*")).Error?.Code);
    }

    [Fact]
    public async Task TheTestOfAConnectionSaysWhatItFound()
    {
        var check = await ConnectionCheck.LookAsync(
            _bench.Find("depots")!,
            AllConnections.Types.First(t => t.Name == "sftp"),
            new(_bench.Folder, _bench),
            default
        );
        Assert.True(check.Works, check.Found);
        Assert.StartsWith("SFTP 3, SSH-2.0-OpenSSH_", check.Found);
    }
}
