using System.IO.Compression;
using System.Net;
using System.Net.Sockets;
using System.Text;
using GateChain.Core.Values;
using GateChain.Kinds.Command;
using GateChain.Kinds.Contract;
using GateChain.Kinds.Files;
using GateChain.Kinds.Http;
using GateChain.Kinds.Load;
using GateChain.Kinds.Sql;

namespace GateChain.Kinds.Tests;

/// <summary>What data, drafts and archives must not be able to do.</summary>
public sealed class ConfinementTests : IDisposable
{
    readonly Bench _bench = new();

    public void Dispose() => _bench.Dispose();

    AttemptContext Computed(AttemptContext context) => context with { NamesSecret = (_, _) => false };

    /// <summary>A server that takes one request and gives its bytes.</summary>
    static (int Port, Task<string> Seen) OneRequest()
    {
        var listener = new TcpListener(IPAddress.Loopback, 0);
        listener.Start();
        return (
            ((IPEndPoint)listener.LocalEndpoint).Port,
            Task.Run(async () =>
            {
                using var client = await listener.AcceptTcpClientAsync();
                var stream = client.GetStream();
                var buffer = new byte[16384];
                var read = await stream.ReadAsync(buffer);
                await stream.WriteAsync(
                    "HTTP/1.1 200 OK\r\nContent-Length: 0\r\nConnection: close\r\n\r\n"u8.ToArray()
                );
                listener.Stop();
                return Encoding.UTF8.GetString(buffer, 0, read);
            })
        );
    }

    [Theory]
    [InlineData("X-Tenant", "a\r\n\r\nDELETE /admin/all HTTP/1.1\r\nHost: inner")]
    [InlineData("X-Tenant", "a\0b")]
    [InlineData("X-Tenant\r\nX-Other", "a")]
    [InlineData("X Tenant", "a")]
    public async Task AHeaderIsOneHeader(string name, string value)
    {
        var result = await new HttpKind().RunAsync(
            Value.Map(
                ("path", Value.String("http://127.0.0.1:1/")),
                ("headers", Value.Map((name, Value.String(value))))
            ),
            _bench.Context(),
            default
        );
        Assert.Equal("setting", result.Error?.Code);
        Assert.DoesNotContain('\n', result.Error!.Message);
    }

    [Fact]
    public async Task OnlyTheFileNamesASecret()
    {
        _bench.Secrets["lab"] = "made-up-lab-secret";
        var (port, seen) = OneRequest();
        var settings = Value.Map(
            ("path", Value.String($"http://127.0.0.1:{port}/")),
            ("headers", Value.Map(("X-A", Value.String("secret:lab"))))
        );
        await new HttpKind().RunAsync(settings, Computed(_bench.Context()), default);
        Assert.Contains("X-A: secret:lab", await seen);
        var program = await new CommandKind().RunAsync(
            ValueJson.TryParse("""{"shell": "echo $A", "env": {"A": "secret:lab"}}""")!.Value,
            Computed(_bench.Context()),
            default
        );
        Assert.Equal("secret:lab", program.Outputs.AsMap.Find("value")!.Value.AsString);
        var written = await new CommandKind().RunAsync(
            ValueJson.TryParse("""{"shell": "echo $A", "env": {"A": "secret:lab"}}""")!.Value,
            _bench.Context(),
            default
        );
        Assert.Equal("made-up-lab-secret", written.Outputs.AsMap.Find("value")!.Value.AsString);
    }

    [Fact]
    public async Task ProgramsGetTheUsualVariablesAndNoOthers()
    {
        Environment.SetEnvironmentVariable("GATECHAIN_TEST_OTHER", "not for programs");
        var result = await new CommandKind().RunAsync(
            ValueJson.TryParse("""{"shell": "env"}""")!.Value,
            _bench.Context() with
            {
                PassedVariables = ["PATH", "HOME"],
            },
            default
        );
        var names = result
            .Outputs.AsMap.Find("value")!
            .Value.AsString.Split('\n')
            .Select(l => l.Split('=')[0])
            .Except(["PWD", "_", "OLDPWD", "SHLVL"])
            .Order();
        Assert.Equal(
            new[] { "GATECHAIN_ATTEMPT", "HOME", "PATH" }.Where(n =>
                n != "HOME" || Environment.GetEnvironmentVariable("HOME") is not null
            ),
            names
        );
    }

    [Theory]
    [InlineData("insert into t values (9) returning n")]
    [InlineData("delete from t returning n")]
    public void ALookAtColumnsChangesNothing(string query)
    {
        _bench.Sql("create table t (n int); insert into t values (1), (2)");
        var from = Value.Map(("connection", Value.String("db")), ("query", Value.String(query)));
        var columns = LoadColumns.Look(
            from,
            Value.Map(("csv", Value.String("x.csv"))),
            _bench.Context() with
            {
                ReadOnly = true,
            },
            default
        );
        Assert.NotNull(columns.Problem);
        Assert.Equal("2", _bench.Ask("select count(*) from t"));
        Assert.Equal(
            ["n"],
            LoadColumns
                .Look(
                    Value.Map(("connection", Value.String("db")), ("query", Value.String("select n from t"))),
                    Value.Map(("csv", Value.String("x.csv"))),
                    _bench.Context() with
                    {
                        ReadOnly = true,
                    },
                    default
                )
                .Source
        );
    }

    [Fact]
    public void ALookMakesNoDatabase()
    {
        _bench.Connect("new", "sqlite", ("path", "new.sqlite"));
        LoadColumns.Look(
            Value.Map(("connection", Value.String("new")), ("query", Value.String("select 1 as n"))),
            Value.Map(("csv", Value.String("x.csv"))),
            _bench.Context() with
            {
                ReadOnly = true,
            },
            default
        );
        Assert.False(File.Exists(_bench["new.sqlite"]));
    }

    [Fact]
    public async Task TheServicesOwnDataIsNeverReached()
    {
        _bench.Write("data/gatechain.db", "x");
        _bench.Write("data/keys/key.xml", "x");
        File.CreateSymbolicLink(_bench["inside"], _bench["data"]);
        var folders = new AllowedFolders(_bench.Folder) { Forbidden = _bench["data"] };
        foreach (
            var path in (string[])
                [
                    "data/gatechain.db",
                    "data",
                    "inside/keys/key.xml",
                    "../" + Path.GetFileName(_bench.Folder) + "/data/x",
                ]
        )
        {
            Assert.Contains(
                "own data",
                Assert.Throws<StepFailedException>(() => folders.Resolve(path, _bench.Folder)).Message
            );
        }

        Assert.Equal(_bench["other"], folders.Resolve("other", _bench.Folder));
        var context = _bench.Context() with { Folders = folders };
        var copied = await new FileKind().RunAsync(
            ValueJson.TryParse("""{"action": "copy", "path": "*/*.db", "to": "out/"}""")!.Value,
            context,
            default
        );
        Assert.Equal("outside", copied.Error?.Code);
        var (reach, files) = folders.Contents();
        Assert.DoesNotContain(reach, f => f == _bench.Folder || f.StartsWith(_bench["data"], StringComparison.Ordinal));
        Assert.Empty(files);
    }

    [Theory]
    [InlineData("sqlite", "../outside.sqlite", "select 1 as n", "outside of the folders")]
    [InlineData("sqlite", "a.sqlite", "attach '/tmp/gatechain-outside.db' as x", "not authorized")]
    [InlineData("sqlite", "a.sqlite", "attach 'file:/tmp/gatechain-outside.db' as x", "not authorized")]
    [InlineData("sqlite", "a.sqlite", "vacuum into '/tmp/gatechain-outside.db'", "authorization denied")]
    [InlineData("sqlite", "a.sqlite", "vacuum into '/tmp/' || 'gatechain-outside.db'", "authorization denied")]
    [InlineData("duckdb", "../outside.duckdb", "select 1 as n", "outside of the folders")]
    [InlineData("duckdb", "a.duckdb", "select * from read_text('/etc/hostname')", "disabled")]
    [InlineData("duckdb", "a.duckdb", "copy (select 1) to '/tmp/gatechain-outside.csv'", "disabled")]
    [InlineData("duckdb", "a.duckdb", "attach '/tmp/gatechain-outside.duckdb' as x", "disabled")]
    [InlineData("duckdb", "a.duckdb", "select * from glob('/etc/*')", "disabled")]
    [InlineData("duckdb", "a.duckdb", "install httpfs", "disabled")]
    [InlineData("duckdb", "a.duckdb", "set enable_external_access = true", "locked")]
    public async Task DatabasesInFilesReachNoOtherFiles(string type, string path, string sql, string? why)
    {
        _bench.Connect("own", type, ("path", path));
        var result = await new SqlKind().RunAsync(
            Value.Map(
                ("connection", Value.String("own")),
                ("query", Value.String(sql)),
                ("give", Value.String("none")),
                ("alone", Value.Bool(sql.StartsWith("vacuum", StringComparison.Ordinal)))
            ),
            _bench.Context(),
            default
        );
        Assert.True(
            result.Error is not null
                && (
                    why is null
                    || $"{result.Error.Message} {result.Error.Detail}".Contains(why, StringComparison.OrdinalIgnoreCase)
                ),
            result.Error?.ToString() ?? "it worked"
        );
        Assert.Empty(Directory.GetFiles("/tmp", "gatechain-outside*"));
    }

    [Theory]
    [InlineData("sqlite", "attach 'b.sqlite' as b")]
    [InlineData("duckdb", "copy (select 1 as n) to 'FOLDER/made.csv'")]
    public async Task WithinTheFoldersTheyDo(string type, string sql)
    {
        _bench.Connect("own", type, ("path", "a." + type));
        Environment.CurrentDirectory = _bench.Folder;
        var result = await new SqlKind().RunAsync(
            Value.Map(
                ("connection", Value.String("own")),
                ("query", Value.String(sql.Replace("FOLDER", _bench.Folder, StringComparison.Ordinal))),
                ("give", Value.String("none"))
            ),
            _bench.Context(),
            default
        );
        Environment.CurrentDirectory = AppContext.BaseDirectory;
        Assert.Null(result.Error);
    }

    [Fact]
    public async Task LinksInCirclesComeToAnEnd()
    {
        _bench.Write("loop/a/one.csv", "x");
        File.CreateSymbolicLink(_bench["loop/self"], _bench["loop"]);
        File.CreateSymbolicLink(_bench["loop/a/up"], _bench["loop"]);
        for (var i = 0; i < 8; i++)
        {
            Directory.CreateDirectory(_bench[$"many/d{i}"]);
            for (var j = 0; j < 8; j++)
                File.CreateSymbolicLink(_bench[$"many/d{i}/l{j}"], _bench[$"many/d{j}"]);
        }
        var clock = System.Diagnostics.Stopwatch.StartNew();
        var loop = await _bench.RunAsync(new FileKind(), """{"action": "look", "path": "loop/**/*.csv"}""");
        var many = await _bench.RunAsync(new FileKind(), """{"action": "look", "path": "many/**/*.zzz"}""");
        Assert.Equal(
            (1L, 0L),
            (loop.Outputs.AsMap.Find("count")!.Value.AsInt, many.Outputs.AsMap.Find("count")!.Value.AsInt)
        );
        Assert.True(clock.Elapsed < TimeSpan.FromMinutes(2), clock.Elapsed.ToString());
    }

    [Fact]
    public async Task ADamagedArchiveLeavesWhatWasThere()
    {
        _bench.Write("out/a.txt", "before");
        using (var zip = new ZipArchive(File.Create(_bench["x.zip"]), ZipArchiveMode.Create))
        {
            foreach (var name in (string[])["a.txt", "b.txt"])
            {
                using var writer = new StreamWriter(zip.CreateEntry(name, CompressionLevel.NoCompression).Open());
                writer.Write($"content of {name}");
            }
        }
        var bytes = File.ReadAllBytes(_bench["x.zip"]);
        bytes[bytes.AsSpan().IndexOf("content of b.txt"u8)] ^= 1;
        File.WriteAllBytes(_bench["x.zip"], bytes);
        var result = await _bench.RunAsync(
            new FileKind(),
            """{"action": "unpack", "path": "x.zip", "to": "out", "overwrite": true}"""
        );
        Assert.Equal(("damaged", "before"), (result.Error?.Code, File.ReadAllText(_bench["out/a.txt"])));
        Assert.Equal(["a.txt"], Directory.GetFiles(_bench["out"]).Select(Path.GetFileName));
    }

    [Fact]
    public async Task CopiesToOnePlaceDoNotTakeEachOthersParts()
    {
        for (var i = 0; i < 6; i++)
            _bench.Write($"in/{i}.txt", new string((char)('a' + i), 200_000));
        // What somebody put where parts used to be leads nowhere.
        File.CreateSymbolicLink(_bench[".all.txt.gatechain-part"], "/tmp/gatechain-outside-part");
        var results = await Task.WhenAll(
            Enumerable
                .Range(0, 6)
                .Select(i =>
                    _bench.RunAsync(
                        new FileKind(),
                        $$"""{"action": "copy", "path": "in/{{i}}.txt", "to": "all.txt", "overwrite": true}"""
                    )
                )
        );
        Assert.All(results, r => Assert.Null(r.Error));
        Assert.Single(File.ReadAllText(_bench["all.txt"]).Distinct());
        Assert.False(File.Exists("/tmp/gatechain-outside-part"));
    }

    [Fact]
    public async Task AFileThatIsTooYoungSaysWhenItWillBeStable()
    {
        _bench.Write("in/one.csv", "x");
        var probe = new FileProbe();
        var settings = ValueJson.TryParse("""{"path": "in/*.csv", "stable": "1h"}""")!.Value;
        var seen = await probe.LookAsync(
            settings,
            new(_bench.Folder, new(_bench.Folder), _bench, _bench, TimeProvider.System),
            default
        );
        Assert.Equal(
            (0L, 1L, ""),
            (
                seen.AsMap.Find("count")!.Value.AsInt,
                seen.AsMap.Find("unstable")!.Value.AsInt,
                seen.AsMap.Find("error")!.Value.AsString
            )
        );
        Assert.InRange(probe.LookAgainIn(settings, seen)!.Value, TimeSpan.FromMinutes(59), TimeSpan.FromHours(1));
    }

    [Fact]
    public void NothingIsWatchedThatMayNotBeLookedAt() =>
        Assert.Null(
            new FileProbe().Watches(
                Value.Map(("path", Value.String("/usr/**/x"))),
                new(_bench.Folder, new(_bench.Folder), _bench, _bench, TimeProvider.System)
            )
        );
}
