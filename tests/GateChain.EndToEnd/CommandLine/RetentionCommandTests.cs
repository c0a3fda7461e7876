using GateChain.Client;
using GateChain.EndToEnd.House;

namespace GateChain.EndToEnd.CommandLine;

/// <summary>What is said about how long runs are kept holds, and what is gone is gone everywhere.</summary>
public sealed class RetentionCommandTests : IAsyncLifetime
{
    Service _service = null!;

    public async ValueTask InitializeAsync() => _service = await Service.EmptyAsync();

    public ValueTask DisposeAsync() => _service.DisposeAsync();

    async Task<string> OutAsync(int exit, params string[] arguments)
    {
        var (code, output, error) = await _service.CliAsync(arguments);
        Assert.True(exit == code, $"{string.Join(' ', arguments)} gave {code}: {output}{error}");
        return output + error;
    }

    // In the databases that runs worked in nothing of them is left.
    [Fact]
    public async Task MarksGoWithTheirRuns()
    {
        await File.WriteAllTextAsync(Path.Combine(_service.Work, "in.csv"), "id\n1\n");
        await _service.Client.PushAsync(
            new Dictionary<string, byte[]>
            {
                ["connections.yaml"] =
                    "db: { type: sqlite, path: dairy.db }\naway: { type: sqlite, path: no/where.db }"u8.ToArray(),
                ["below.chain.yaml"] = (
                    "chain: below\nsteps:\n  a: { kind: load, set: { from: { csv: in.csv }, "u8
                    + "into: { connection: db, table: t, create: true } } }"u8
                ).ToArray(),
                ["top.chain.yaml"] = (
                    "chain: top\nsteps: { a: { kind: call, chain: below }, "u8
                    + "b: { kind: sql, ifFails: absorb, set: { connection: away, query: SELECT 1 } } }"u8
                ).ToArray(),
            }
        );
        for (var i = 0; i < 3; i++)
            await _service.EndAsync((await _service.Client.StartAsync(new("top"))).Id);
        Assert.Equal("3", _service.Ask("dairy.db", "SELECT count(*) FROM gatechain_work"));
        await OutAsync(0, "retention", "--folder", "/", "--at-most", "1", "--at-least", "1");
        await OutAsync(0, "retention", "--now");
        Assert.Equal("1", _service.Ask("dairy.db", "SELECT count(*) FROM gatechain_work"));
    }

    [Fact]
    public async Task OldRunsGoAndWhatIsPinnedStays()
    {
        Assert.Contains("there are no runs yet", await OutAsync(0, "retention"));
        await _service.Client.PushAsync(
            new Dictionary<string, byte[]>
            {
                ["below.chain.yaml"] =
                    "chain: below\nsteps: { a: { kind: command, set: { run: [echo, hello] } } }"u8.ToArray(),
                ["top.chain.yaml"] = "chain: top\nsteps: { a: { kind: call, chain: below } }"u8.ToArray(),
            }
        );
        for (var i = 0; i < 4; i++)
            await _service.EndAsync((await _service.Client.StartAsync(new("top"))).Id);
        // Runs 1, 3, 5 and 7; each has called the next one.
        Assert.Contains("everything is kept", await OutAsync(0, "retention"));
        await OutAsync(0, "pin", "2", "-m", "the auditors look at it");
        Assert.Contains(
            "never more than 1",
            await OutAsync(0, "retention", "--folder", "/", "--at-most", "1", "--at-least", "1")
        );
        Assert.Contains("run 2 stays: the auditors look at it", await OutAsync(0, "retention"));
        Assert.Contains("1 to 36,500", await OutAsync(2, "retention", "--chain", "top", "--days", "0"));
        Assert.Contains("--chain or --folder", await OutAsync(2, "retention", "--days", "3"));
        Assert.Contains("no folder", await OutAsync(2, "retention", "--folder", "../x", "--days", "3"));
        await OutAsync(0, "retention", "--now");
        Assert.Equal([8L, 7, 2, 1], (await _service.Client.RunsAsync()).Select(r => r.Id));
        Assert.Contains("there is no run 3", await OutAsync(4, "show", "3"));
        Assert.Contains("there is no run 4", await OutAsync(4, "log", "4", "a"));
        Assert.Contains("hello", await OutAsync(0, "log", "2", "a"));
        Assert.Contains("database", await OutAsync(0, "usage"));
        await OutAsync(0, "pin", "2", "--off");
        await OutAsync(0, "retention", "--now");
        Assert.Equal([8L, 7], (await _service.Client.RunsAsync()).Select(r => r.Id));
        var audit = await OutAsync(0, "audit");
        Assert.Contains("2 runs; ", audit);
        Assert.Contains("unpin", audit);
        Assert.Equal(
            404,
            (await Assert.ThrowsAsync<GateChainException>(() => _service.Client.PinAsync(3, null))).Status
        );
    }
}
