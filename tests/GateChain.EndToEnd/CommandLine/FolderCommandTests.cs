using GateChain.Client;
using GateChain.EndToEnd.House;

namespace GateChain.EndToEnd.CommandLine;

/// <summary>A workspace with folders, as people meet it: files on a disk, commands, and the service.</summary>
public sealed class FolderCommandTests : IAsyncLifetime
{
    Service _service = null!;

    public async ValueTask InitializeAsync() => _service = await Service.EmptyAsync();

    public ValueTask DisposeAsync() => _service.DisposeAsync();

    void Write(string path, string text)
    {
        path = Path(path);
        Directory.CreateDirectory(System.IO.Path.GetDirectoryName(path)!);
        File.WriteAllText(path, text);
    }

    async Task<string> CliAsync(int expected, params string[] arguments)
    {
        var (exit, output, error) = await _service.CliAsync(arguments);
        Assert.True(exit == expected, output + error);
        return output + error;
    }

    // A load that fails behind its first batches, for a quote that is never closed: it leaves a stage.
    static string Load(string name) =>
        $$"""
            chain: {{name}}
            steps:
              gather: { kind: load, set: { from: { csv: in.csv }, into: { connection: lite, table: t, create: true }, batch: 100 } }
              tell: { kind: sql, set: { connection: lite, query: { file: sql/count.sql } } }
            gates: [ { from: gather, to: tell, on: failure } ]
            """;

    [Fact]
    public async Task ChainsWorkWithWhatTheirFoldersSay()
    {
        Write("connections.yaml", "lite: { type: sqlite, path: root.db }\n");
        Write("sql/count.sql", "SELECT count(*) AS n FROM sqlite_master");
        Write("intake.chain.yaml", Load("intake"));
        Write("sales/connections.yaml", "lite: { type: sqlite, path: sales.db }\n");
        Write("sales/daily/prices.chain.yaml", Load("prices"));
        await File.WriteAllTextAsync(
            System.IO.Path.Combine(_service.Work, "in.csv"),
            "id\n" + string.Concat(Enumerable.Range(1, 500).Select(i => $"{i}\n")) + "\"501\n"
        );

        // A single file is checked with what stands around it; one folder alone is no workspace of this chain.
        Assert.Contains(
            "1 chain checked: no errors",
            await CliAsync(0, "check", Path("sales/daily/prices.chain.yaml"), "--workspace", Path(""))
        );
        Assert.Contains(
            "GC1401",
            await CliAsync(2, "check", Path("sales/daily/prices.chain.yaml"), "--workspace", Path("sales/daily"))
        );
        Assert.Contains(
            "does not lie in",
            await CliAsync(2, "check", Path("intake.chain.yaml"), "--workspace", Path("sales"))
        );
        Assert.Contains(
            "gather",
            await CliAsync(0, "rehearse", Path("sales/daily/prices.chain.yaml"), "--workspace", Path(""))
        );

        await CliAsync(0, "push", "workspace");
        Assert.Contains("sales/daily/ prices", await CliAsync(0, "chains"));
        var connections = await CliAsync(0, "connections", "--check");
        Assert.Contains("sales/ lite  sqlite      path sales.db\n             used by prices gather", connections);

        foreach (var chain in (string[])["intake", "prices"])
            await _service.EndAsync((await _service.Client.StartAsync(new(chain))).Id);
        Assert.Equal("1", Stages("root.db"));
        Assert.Equal("1", Stages("sales.db"));

        // Both folders mean a database of their own by the same name.
        Assert.Contains("say which by its folder", await CliAsync(2, "tidy", "lite"));
        var told = await CliAsync(0, "tidy", "lite", "--area", "sales", "--failed");
        Assert.Contains("cleared", told);
        Assert.Contains("run 2 gather", told);
        Assert.Equal(("1", "0"), (Stages("root.db"), Stages("sales.db")));

        await CliAsync(0, "export", "out");
        foreach (var file in Directory.EnumerateFiles(Path(""), "*.*", SearchOption.AllDirectories))
        {
            if (file.Contains("/.gatechain/", StringComparison.Ordinal))
                continue;
            var exported = file.Replace("/workspace/", "/out/", StringComparison.Ordinal);
            Assert.Equal(File.ReadAllText(file), File.ReadAllText(exported));
        }
    }

    static FileRequest Lanes(int width, string version) =>
        new("lanes.yaml", $"narrow: {{ width: {width} }}\n", null, version);

    [Fact]
    public async Task APushTellsWhatItWouldOverwriteAndGoesOnFromAnExport()
    {
        Write("lanes.yaml", "narrow: { width: 1 }\n");
        Write("t.chain.yaml", "chain: t\nsteps: { w: { kind: command, lane: narrow, set: { run: ['true'] } } }\n");
        await CliAsync(0, "push", "workspace");
        using var ann = new GateChainClient(_service.Address, "ann");
        Assert.Equal("2", (await ann.SaveFileAsync(Lanes(2, "1"))).Version);
        Write("lanes.yaml", "narrow: { width: 5 }\n");
        var refused = await CliAsync(4, "push", "workspace");
        Assert.Contains("nothing was stored: lanes.yaml (by ann, ", refused);
        Assert.Contains("gatechain export", refused);
        Assert.Contains("--over", refused);
        // An export does not overwrite what was changed here, either.
        Assert.Contains("lanes.yaml was changed in this folder", await CliAsync(4, "export", "workspace"));
        Assert.Equal("narrow: { width: 5 }\n", File.ReadAllText(Path("lanes.yaml")));
        // Who takes it over first may push what they made of it.
        await CliAsync(0, "export", "workspace", "--over");
        Assert.Equal("narrow: { width: 2 }\n", File.ReadAllText(Path("lanes.yaml")));
        Write("lanes.yaml", "narrow: { width: 6 }\n");
        await CliAsync(0, "push", "workspace");
        Assert.Equal("narrow: { width: 6 }\n", (await ann.FileAsync("lanes.yaml")).Text);
        // What was not changed here since is brought up to date without being asked.
        await ann.SaveFileAsync(Lanes(8, "3"));
        await CliAsync(0, "export", "workspace");
        Assert.Equal("narrow: { width: 8 }\n", File.ReadAllText(Path("lanes.yaml")));
        Write("lanes.yaml", "narrow: { width: 6 }\n");
        await ann.SaveFileAsync(Lanes(7, "4"));
        await CliAsync(4, "push", "workspace");
        await CliAsync(0, "push", "workspace", "--over");
        Assert.Equal("narrow: { width: 6 }\n", (await ann.FileAsync("lanes.yaml")).Text);
        // Nothing of it is lost.
        Assert.Equal("narrow: { width: 7 }\n", (await ann.FileAsync("lanes.yaml", "5")).Text);
    }

    [Fact]
    public async Task ChainsAreBroughtToAnotherServiceWithWhatTheyNeed()
    {
        Write(
            "connections.yaml",
            "lite: { type: sqlite, path: here.db }\nlab: { type: http, url: 'http://x/', "
                + "auth: bearer, token: secret:lab }\n"
        );
        Write("sql/count.sql", "SELECT 1 AS n");
        Write("intake.chain.yaml", Load("intake"));
        Write("ask.chain.yaml", "chain: ask\nsteps: { h: { kind: http, set: { connection: lab, path: y } } }\n");
        await CliAsync(0, "push", "workspace");
        await using var there = await Service.EmptyAsync();
        await there.Client.PushAsync(
            new Dictionary<string, byte[]>
            {
                ["connections.yaml"] = "lite: { type: sqlite, path: there.db }\n"u8.ToArray(),
            }
        );
        var to = there.Address.ToString();
        var planned = await CliAsync(0, "promote", "intake", "ask", "--to", to, "--dry-run");
        Assert.Contains("new      chain intake", planned);
        Assert.Contains("same     connection lite  (there, and kept as it is there)", planned);
        Assert.Contains("would be brought", planned);
        Assert.Empty(await there.Client.ChainsAsync());
        var done = await CliAsync(0, "promote", "intake", "ask", "--to", to);
        Assert.Contains($"the secret “lab” is not set there: gatechain secret set lab --service {to}", done);
        Assert.Equal(["ask", "intake"], (await there.Client.ChainsAsync()).Select(c => c.Name));
        var connections = (await there.Client.FileAsync("connections.yaml")).Text!;
        Assert.StartsWith("lite: { type: sqlite, path: there.db }\nlab: ", connections);
        Assert.Contains("has all of it already", await CliAsync(0, "promote", "intake", "ask", "--to", to));
        Assert.Contains("there is no chain “nope” here", await CliAsync(4, "promote", "nope", "--to", to));
        Assert.Contains("is not an address", await CliAsync(2, "promote", "ask", "--to", "x"));
    }

    string Path(string name) => System.IO.Path.Combine(_service.Work, "workspace", name);

    string Stages(string file) =>
        _service.Ask(file, "SELECT count(*) FROM sqlite_master WHERE name LIKE 'gatechain_stage%'");
}
