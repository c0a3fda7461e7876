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
        foreach (var file in Directory.EnumerateFiles(Path(""), "*", SearchOption.AllDirectories))
        {
            var exported = file.Replace("/workspace/", "/out/", StringComparison.Ordinal);
            Assert.Equal(File.ReadAllText(file), File.ReadAllText(exported));
        }
    }

    string Path(string name) => System.IO.Path.Combine(_service.Work, "workspace", name);

    string Stages(string file) =>
        _service.Ask(file, "SELECT count(*) FROM sqlite_master WHERE name LIKE 'gatechain_stage%'");
}
