using System.Security.Cryptography;
using GateChain.Core.Running;
using GateChain.Kinds.Arrivals;
using GateChain.Kinds.Connections;
using GateChain.Kinds.FileServers;
using GateChain.Kinds.Lookups;
using GateChain.Kinds.Transfer;
using GateChain.Tests;

namespace GateChain.Kinds.Tests.Transfer;

/// <summary>The kind <c>transfer</c> against ProFTPD, enciphered and not.</summary>
public sealed class FtpTests : IDisposable
{
    readonly Bench _bench = new();
    FtpHost? _host;

    FtpHost Start(string tls = "explicit", bool facts = true)
    {
        _host = FtpHost.Start(tls, facts);
        Connect(tls);
        return _host;
    }

    void Connect(string tls = "explicit", string? certificate = null, string? password = null, int? port = null)
    {
        _bench.Secrets["password"] = password ?? FtpHost.Password;
        List<(string, object)> settings =
        [
            ("host", "localhost"),
            ("port", port ?? _host!.Port),
            ("user", FtpHost.User),
            ("password", "secret:password"),
            ("tls", tls),
        ];
        if (certificate != "")
            settings.Add(("certificate", certificate ?? _host!.Certificate));
        _bench.Connect("depots", "ftp", [.. settings]);
    }

    public void Dispose()
    {
        _host?.Dispose();
        _bench.Dispose();
    }

    Task<AttemptResult> TransferAsync(string action, string path, string? to = null, bool overwrite = false) =>
        _bench.RunAsync(
            new TransferKind(),
            $$"""{"connection": "depots", "action": "{{action}}", "path": "{{path}}", "overwrite": """
                + (overwrite ? "true" : "false")
                + (to is null ? "}" : $$""", "to": "{{to}}"}""")
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
    [InlineData("explicit", true)]
    [InlineData("explicit", false)]
    [InlineData("implicit", true)]
    [InlineData("none", false)]
    public async Task FilesGoThereAndComeBack(string tls, bool facts)
    {
        var host = Start(tls, facts);
        _bench.Write("out/north.csv", "the file north\n");
        _bench.Write("out/süd 1.csv", "the file south\n");
        _bench.Write("out/-a -l.csv", "a name like an option\n");
        _bench.Write("out/empty.csv", "");
        var all = "-a -l.csv, empty.csv, north.csv, süd 1.csv";
        Assert.Equal(all, await MustAsync("put", "out/*.csv", "in/new/"));
        Assert.Equal("the file south\n", File.ReadAllText(Path.Combine(host.Files, "in/new/süd 1.csv")));
        Assert.Equal(all, await MustAsync("list", "in/new/*.csv"));
        Assert.Equal("north.csv", await MustAsync("list", "*/*/n*.csv"));
        Assert.Equal("", await MustAsync("list", "in/*.csv"));
        Assert.Equal("exists", (await TransferAsync("put", "out/north.csv", "in/new/")).Error?.Code);
        _bench.Write("out/north.csv", "another\n");
        await MustAsync("put", "out/north.csv", "in/new/", overwrite: true);
        Assert.Equal(all, await MustAsync("get", "in/new/*", "back/"));
        Assert.Equal("another\n", File.ReadAllText(_bench["back/north.csv"]));
        Assert.Equal("", File.ReadAllText(_bench["back/empty.csv"]));
        Assert.Equal("a name like an option\n", File.ReadAllText(_bench["back/-a -l.csv"]));
        await MustAsync("move", "in/new/north.csv", "in/");
        await MustAsync("delete", "in/new/empty.csv");
        Assert.Equal("-a -l.csv, süd 1.csv", await MustAsync("list", $"{host.Files}/in/new/*"));
        Assert.Equal("north.csv", await MustAsync("list", "in/north.csv"));
        Assert.Equal("no-file", (await TransferAsync("get", "in/none.csv", "back/")).Error?.Code);
        Assert.Equal("no-file", (await TransferAsync("get", "none/*.csv", "back/")).Error?.Code);
        var looked = Lookup.Paths("in/", "depots", _bench.Context(), TestContext.Current.CancellationToken);
        Assert.Equal(["in/new/", "in/north.csv"], looked.Items.Select(i => i.Text));
    }

    [Theory]
    [InlineData(true)]
    [InlineData(false)]
    public async Task ATransferThatWasCutGoesOn(bool get)
    {
        var host = Start();
        var content = RandomNumberGenerator.GetBytes(3_000_000);
        var there = Path.Combine(host.Files, "big");
        var (source, to) = get ? (there, _bench["in/big"]) : (_bench["big"], "big");
        File.WriteAllBytes(source, content);
        var changed = new DateTime(2026, 11, 22, 4, 0, 0, DateTimeKind.Utc);
        File.SetLastWriteTimeUtc(source, changed);
        var part = FileServer.PartOf(_bench.Context(), to, content.Length, changed);
        var partHere = get ? part : Path.Combine(host.Files, part);
        Directory.CreateDirectory(Path.GetDirectoryName(partHere)!);
        File.WriteAllBytes(partHere, content[..1_000_000]);
        await (get ? MustAsync("get", "big", "in/big") : MustAsync("put", "big", "big"));
        Assert.Equal(SHA256.HashData(content), SHA256.HashData(File.ReadAllBytes(get ? _bench["in/big"] : there)));
        Assert.Contains(_bench.Log, l => l.EndsWith("continues after 1,000,000 bytes", StringComparison.Ordinal));
        Assert.False(File.Exists(partHere));
    }

    // A file is told apart from another one of its name by size and second, however the server tells lists.
    [Theory]
    [InlineData(true)]
    [InlineData(false)]
    public async Task FilesThatComeAreSeenInTheirVersion(bool facts)
    {
        var host = Start(facts: facts);
        var file = Path.Combine(host.Files, "a.csv");
        File.WriteAllText(file, "1");
        File.SetLastWriteTimeUtc(file, new(2019, 2, 28, 23, 59, 58, DateTimeKind.Utc));
        async Task<SeenFile> SeenAsync(string pattern)
        {
            var view = await ServerPlace.LookAsync(
                _bench.Find("depots")!,
                _bench,
                pattern,
                TestContext.Current.CancellationToken
            );
            Assert.True(view.IsThere, string.Join(", ", view.Troubles));
            return Assert.Single(view.Files);
        }
        var seen = await SeenAsync("*.csv");
        Assert.Equal((file, 1L), (seen.Path, seen.Size));
        Assert.Equal(new DateTimeOffset(2019, 2, 28, 23, 59, 58, default), seen.Changed);
        // The same file under another spelling is the same one.
        Assert.Equal(
            (seen.Path, seen.Key),
            (await SeenAsync("a.csv") is var other ? (other.Path, other.Key) : default)
        );
        File.SetLastWriteTimeUtc(file, new(2019, 2, 28, 23, 59, 59, DateTimeKind.Utc));
        Assert.NotEqual(seen.Key, (await SeenAsync("*.csv")).Key);
    }

    [Fact]
    public async Task AServerWithAnotherCertificateIsNotToldThePassword()
    {
        var host = Start();
        var wrong = "SHA256:" + new string('A', 64);
        Connect(certificate: wrong);
        var error = (await TransferAsync("list", "*")).Error!;
        Assert.Equal(
            ("certificate", $"localhost has another certificate than it should: {host.Certificate} instead of {wrong}"),
            (error.Code, error.Message)
        );
        Connect(certificate: "");
        var check = await CheckAsync();
        Assert.False(check.Works);
        Assert.Contains($"write certificate: {host.Certificate} to the connection", check.Found);
        // Tools write the digits in pairs.
        var digits = host.Certificate["SHA256:".Length..];
        Connect(certificate: string.Join(':', digits.Chunk(2).Select(c => new string(c))).ToLowerInvariant());
        check = await CheckAsync();
        Assert.True(check.Works, check.Found);
        Assert.Contains(host.Files, check.Found);
    }

    Task<ConnectionCheck> CheckAsync() =>
        ConnectionCheck.LookAsync(
            _bench.Find("depots")!,
            AllConnections.Types.First(t => t.Name == "ftp"),
            new(_bench.Folder, _bench),
            TestContext.Current.CancellationToken
        );

    [Fact]
    public async Task WhatDoesNotGoIsTold()
    {
        Start();
        Connect(password: "wrong");
        Assert.Equal("login", (await TransferAsync("list", "*")).Error?.Code);
        Connect("none");
        // The server speaks to nobody who does not encipher; the password was not the trouble.
        Assert.NotNull((await TransferAsync("list", "*")).Error);
        Connect(port: 1);
        Assert.Equal("unreachable", (await TransferAsync("list", "*")).Error?.Code);
        Connect();
        Assert.Equal("path", (await TransferAsync("delete", "a\\r\\nDELE b")).Error?.Code);
        _host!.Kill();
        Assert.Equal("unreachable", (await TransferAsync("list", "*")).Error?.Code);
    }
}
