using System.Security.Cryptography;
using Azure.Storage;
using Azure.Storage.Blobs;
using GateChain.Core.Running;
using GateChain.Core.Values;
using GateChain.Kinds.Arrivals;
using GateChain.Kinds.Contract;
using GateChain.Kinds.FileServers;
using GateChain.Kinds.Load;
using GateChain.Kinds.Lookups;
using GateChain.Kinds.Transfer;
using GateChain.Tests;

namespace GateChain.Kinds.Tests.Transfer;

/// <summary>Files from and to stores of objects, against stand-ins for them.</summary>
public sealed class BucketTests(BucketTests.Stores stores) : IClassFixture<BucketTests.Stores>, IDisposable
{
    readonly Bench _bench = new();

    // Tests share a bucket: each has a place of its own in it.
    readonly string _own = Guid.NewGuid().ToString("N")[..8];

    public sealed class Stores : IDisposable
    {
        internal Lazy<ObjectStore> S3 { get; } = new(ObjectStore.S3);

        internal Lazy<ObjectStore> Azure { get; } =
            new(() =>
            {
                var store = ObjectStore.Azure();
                new BlobContainerClient(
                    new Uri($"http://127.0.0.1:{store.Port}/{ObjectStore.Account}/larkmoor"),
                    new StorageSharedKeyCredential(ObjectStore.Account, ObjectStore.AccountKey)
                ).Create();
                return store;
            });

        public void Dispose()
        {
            if (S3.IsValueCreated)
                S3.Value.Dispose();
            if (Azure.IsValueCreated)
                Azure.Value.Dispose();
        }
    }

    public static TheoryData<string> Types => ["s3", "azure"];

    void Connect(string type, string bucket = "larkmoor", string? key = null, int? port = null)
    {
        _bench.Secrets["key"] = key ?? (type == "s3" ? "S3RVER" : ObjectStore.AccountKey);
        if (type == "s3")
        {
            _bench.Connect(
                "depots",
                "s3",
                ("bucket", bucket),
                ("endpoint", $"http://127.0.0.1:{port ?? stores.S3.Value.Port}"),
                // The stand-in knows one key, and does not look at its secret.
                ("keyId", key is null ? "S3RVER" : "NOBODY"),
                ("key", "secret:key"),
                ("pathStyle", true)
            );
            return;
        }
        _bench.Connect(
            "depots",
            "azure",
            ("container", bucket),
            ("account", ObjectStore.Account),
            ("endpoint", $"http://127.0.0.1:{port ?? stores.Azure.Value.Port}/{ObjectStore.Account}"),
            ("key", "secret:key")
        );
    }

    Task<AttemptResult> TransferAsync(string action, string path, string? to = null, bool overwrite = false) =>
        _bench.RunAsync(
            new TransferKind(),
            $$"""{"connection": "depots", "action": "{{action}}", "path": "{{path}}", "overwrite": {{(overwrite ? "true" : "false")}}{{(to is null ? "" : $", \"to\": \"{to}\"")}}}"""
        );

    async Task<string> MustAsync(string action, string path, string? to = null, bool overwrite = false)
    {
        var result = await TransferAsync(action, path, to, overwrite);
        Assert.True(result.Error is null, $"{result.Error?.Message}\n{result.Error?.Detail}");
        return string.Join(
            ", ",
            result.Outputs.AsMap.Find("files")!.Value.AsList.Select(f => f.AsMap.Find("name")!.Value.AsString)
        );
    }

    [Theory]
    [MemberData(nameof(Types))]
    public async Task FilesGoThereAndComeBack(string type)
    {
        Connect(type);
        _bench.Write("out/north.csv", "the file north\n");
        _bench.Write("out/süd 1.csv", "the file south\n");
        _bench.Write("out/empty.csv", "");
        Assert.Equal("empty.csv, north.csv, süd 1.csv", await MustAsync("put", "out/*.csv", $"{_own}/in/"));
        Assert.Equal("empty.csv, north.csv, süd 1.csv", await MustAsync("list", $"{_own}/in/*.csv"));
        Assert.Equal("north.csv", await MustAsync("list", $"{_own}/*/n*.csv"));
        Assert.Equal("", await MustAsync("list", $"{_own}/*.csv"));
        Assert.Equal("exists", (await TransferAsync("put", "out/north.csv", $"{_own}/in/")).Error?.Code);
        await MustAsync("put", "out/north.csv", $"{_own}/in/", overwrite: true);
        Assert.Equal("empty.csv, north.csv, süd 1.csv", await MustAsync("get", $"{_own}/in/*", "back/"));
        Assert.Equal("the file south\n", File.ReadAllText(_bench["back/süd 1.csv"]));
        Assert.Equal("", File.ReadAllText(_bench["back/empty.csv"]));
        await MustAsync("move", $"{_own}/in/north.csv", $"{_own}/done/");
        await MustAsync("delete", $"{_own}/in/empty.csv");
        Assert.Equal("süd 1.csv", await MustAsync("list", $"{_own}/in/*"));
        Assert.Equal("north.csv", await MustAsync("list", $"{_own}/done/*"));
        Assert.Equal("no-file", (await TransferAsync("get", $"{_own}/none.csv", "back/")).Error?.Code);
        // What is written, and a name alone, is looked up while somebody designs.
        var looked = Lookup.Paths($"{_own}/", "depots", _bench.Context(), TestContext.Current.CancellationToken);
        Assert.Equal([$"{_own}/done/", $"{_own}/in/"], looked.Items.Select(i => i.Text));
    }

    [Theory]
    [MemberData(nameof(Types))]
    public async Task ALargeFileGoesInPartsAndContinuesWhereItWasCutOff(string type)
    {
        Connect(type);
        var content = RandomNumberGenerator.GetBytes(21 << 20);
        File.WriteAllBytes(_bench["large.bin"], content);
        var context = _bench.Context();
        DateTime changed;
        // The first part was brought by an attempt that was cut off.
        using (var cut = new CancellationTokenSource())
        using (var server = FileServer.Open(_bench.Find("depots")!, _bench, cut.Token))
        {
            // The disk ends in the middle of the file.
            var file = new FileInfo(_bench["large.bin"]);
            changed = file.LastWriteTimeUtc;
            using var half = new FileStream(file.FullName, FileMode.Open, FileAccess.ReadWrite);
            half.SetLength(12 << 20);
            Assert.ThrowsAny<Exception>(() => server.Put(file, $"{_own}/large.bin", false, context));
        }
        Assert.Equal("", await MustAsync("list", $"{_own}/*"));
        File.WriteAllBytes(_bench["large.bin"], content);
        File.SetLastWriteTimeUtc(_bench["large.bin"], changed);
        await MustAsync("put", "large.bin", $"{_own}/");
        await MustAsync("get", $"{_own}/large.bin", "back/");
        Assert.Equal(SHA256.HashData(content), SHA256.HashData(File.ReadAllBytes(_bench["back/large.bin"])));
        // What has arrived of it is not asked for again.
        File.Delete(_bench["back/large.bin"]);
        using (var server = FileServer.Open(_bench.Find("depots")!, _bench, TestContext.Current.CancellationToken))
        {
            var found = server.Match($"{_own}/large.bin").Single();
            var part = FileServer.PartOf(context, _bench["back/large.bin"], found.Length, found.Changed);
            File.WriteAllBytes(part, content[..(9 << 20)]);
        }
        _bench.ClearLog();
        await MustAsync("get", $"{_own}/large.bin", "back/");
        Assert.Contains(_bench.Log, l => l.Contains("continues after 9,437,184 bytes", StringComparison.Ordinal));
        Assert.Equal(SHA256.HashData(content), SHA256.HashData(File.ReadAllBytes(_bench["back/large.bin"])));
        Assert.Equal(["large.bin"], Directory.GetFiles(_bench["back"]).Select(Path.GetFileName));
    }

    [Theory]
    [MemberData(nameof(Types))]
    public async Task LoadsReadAndWriteThere(string type)
    {
        Connect(type);
        _bench.Write("a.csv", "id,v\n1,a\n");
        _bench.Write("b.csv", "id,v\n2,b\nx\n");
        await MustAsync("put", "*.csv", $"{_own}/in/");
        var from = $$"""{"csv": "{{_own}}/in/*.csv", "server": "depots", "fileColumn": "file"}""";
        var into = $$"""{"csv": "{{_own}}/all.csv.gz", "server": "depots"}""";
        var load = await _bench.RunAsync(
            new LoadKind(),
            $$"""{"from": {{from}}, "into": {{into}}, "reject": {"limit": 1, "file": "bad.csv"} }"""
        );
        Assert.True(load.Error is null, load.Error?.Message);
        Assert.StartsWith($"{_own}/in/b.csv,3,", File.ReadAllLines(_bench["bad.csv"])[1], StringComparison.Ordinal);
        await MustAsync("get", $"{_own}/all.csv.gz", "back/");
        using var packed = new System.IO.Compression.GZipStream(
            File.OpenRead(_bench["back/all.csv.gz"]),
            System.IO.Compression.CompressionMode.Decompress
        );
        Assert.Equal($"id,v,file\n1,a,{_own}/in/a.csv\n2,b,{_own}/in/b.csv\n", new StreamReader(packed).ReadToEnd());
        // Nothing of it is left here.
        Assert.Empty(Directory.EnumerateFiles(_bench["steps"], "*", SearchOption.AllDirectories));
        var none = await _bench.RunAsync(
            new LoadKind(),
            $$"""{"from": {"csv": "{{_own}}/none/*.csv", "server": "depots"}, "into": {"csv": "none.csv"} }"""
        );
        Assert.Equal("no-file", none.Error?.Code);
    }

    [Theory]
    [MemberData(nameof(Types))]
    public async Task FilesThatComeAreSeenInTheirVersion(string type)
    {
        Connect(type);
        async Task<string> KeysAsync()
        {
            var view = await ServerPlace.LookAsync(
                _bench.Find("depots")!,
                _bench,
                $"{_own}/*/*.csv",
                TestContext.Current.CancellationToken
            );
            Assert.True(view.IsThere, string.Join(", ", view.Troubles));
            return string.Join(", ", view.Files.Select(f => $"{f.Path[9..]} {f.Key}"));
        }
        _bench.Write("a.csv", "1");
        await MustAsync("put", "a.csv", $"{_own}/west/");
        var first = await KeysAsync();
        Assert.StartsWith("west/a.csv ", first, StringComparison.Ordinal);
        Assert.Equal(first, await KeysAsync());
        _bench.Write("a.csv", "2");
        await MustAsync("put", "a.csv", $"{_own}/west/", overwrite: true);
        Assert.NotEqual(first, await KeysAsync());
    }

    [Theory]
    [InlineData("s3", "key", "login")]
    [InlineData("s3", "bucket", "no-bucket")]
    [InlineData("s3", "port", "unreachable")]
    [InlineData("azure", "key", "login")]
    [InlineData("azure", "bucket", "no-bucket")]
    [InlineData("azure", "port", "unreachable")]
    public async Task WhatDoesNotGoIsTold(string type, string wrong, string code)
    {
        Connect(
            type,
            wrong == "bucket" ? "nowhere" : "larkmoor",
            wrong == "key" ? Convert.ToBase64String(new byte[24]) : null,
            wrong == "port" ? 1 : null
        );
        var error = (await TransferAsync("list", $"{_own}/*")).Error;
        Assert.Equal(code, error?.Code);
        var view = await ServerPlace.LookAsync(
            _bench.Find("depots")!,
            _bench,
            "*",
            TestContext.Current.CancellationToken
        );
        Assert.False(view.IsThere);
        Assert.Equal(error!.Message, Assert.Single(view.Troubles));
    }

    public void Dispose() => _bench.Dispose();
}
