using System.Text.Json.Nodes;
using GateChain.EndToEnd.House;

namespace GateChain.EndToEnd.Api;

/// <summary>Which data runs read and write, told to people and to other systems.</summary>
public sealed class LineageTests
{
    const string Below =
        "chain: below\nparams: { day: { type: string } }\nsteps:\n"
        + "  load: { kind: load, set: { from: { csv: 'in/${params.day}.csv' }, "
        + "into: { connection: db, table: pickups, create: true } } }";

    const string Top =
        "chain: top\nsteps:\n  fill: { kind: call, chain: below, inputs: { day: \"'monday'\" } }\n"
        + "  gone: { kind: load, set: { from: { csv: gone.csv }, into: { csv: out.csv } } }\n"
        + "gates: [ { from: fill, to: gone } ]";

    static async Task<long> RunAsync(Service service)
    {
        Directory.CreateDirectory(Path.Combine(service.Work, "in"));
        await File.WriteAllTextAsync(Path.Combine(service.Work, "in/monday.csv"), "id\n1\n");
        await service.Client.PushAsync(
            new Dictionary<string, byte[]>
            {
                ["connections.yaml"] = "db: { type: sqlite, path: dairy.db }"u8.ToArray(),
                ["below.chain.yaml"] = System.Text.Encoding.UTF8.GetBytes(Below),
                ["top.chain.yaml"] = System.Text.Encoding.UTF8.GetBytes(Top),
            }
        );
        var run = (await service.Client.StartAsync(new("top"))).Id;
        await service.EndAsync(run);
        return run;
    }

    [Fact]
    public async Task WhatFeedsATableIsTold()
    {
        await using var service = await Service.EmptyAsync();
        var run = await RunAsync(service);
        var (_, all, _) = await service.CliAsync("lineage");
        Assert.Contains("db:pickups", all);
        var (exit, told, _) = await service.CliAsync("lineage", "pickups");
        Assert.Equal(0, exit);
        Assert.Contains("comes from  in/${params.day}.csv, by below, step load", told);
        var (_, behind, _) = await service.CliAsync("lineage", "in/tuesday.csv");
        Assert.Contains("goes into   db:pickups, by below, step load", behind);
        // As the run had it.
        var (_, had, _) = await service.CliAsync("lineage", "--run", $"{run + 1}");
        Assert.Contains("in/monday.csv", had);
        var (missing, _, why) = await service.CliAsync("lineage", "nothing");
        Assert.Equal(1, missing);
        Assert.Contains("no chain reads or writes “nothing”", why);
    }

    // Before it is changed or retired: who calls, starts and listens to it, and reads what it writes.
    [Fact]
    public async Task WhatHangsOnAChainIsTold()
    {
        await using var service = await Service.EmptyAsync();
        await RunAsync(service);
        await service.Client.PushAsync(
            new Dictionary<string, byte[]>
            {
                ["connections.yaml"] = "db: { type: sqlite, path: dairy.db }"u8.ToArray(),
                ["reads.chain.yaml"] = System.Text.Encoding.UTF8.GetBytes(
                    "chain: reads\nsteps:\n"
                        + "  sum: { kind: sql, set: { connection: db, query: SELECT 1 FROM Pickups } }"
                ),
                ["triggers.yaml"] = "office: { chain: reads, outcome: { chains: [below], is: failed } }"u8.ToArray(),
            }
        );
        var (exit, told, error) = await service.CliAsync("uses", "below");
        Assert.True(exit == 0, told + error);
        Assert.Equal(
            """
            called by
              top, step fill
            listened to by
              trigger office
            what it writes is read by
              reads, step sum: db:pickups
            it needs the connections
              db

            """,
            told
        );
        var (_, alone, _) = await service.CliAsync("uses", "top");
        Assert.Contains("nothing calls, starts, listens to or reads what top writes", alone);
        Assert.Contains("it calls\n  below", alone);
        var (_, _, warned) = await service.CliAsync("retire", "below");
        Assert.Contains("trigger office waits for its runs in vain", warned);
        Assert.Contains("reads, step sum reads db:pickups, which it writes", warned);
        Assert.Equal(4, (await service.CliAsync("uses", "nobody")).Exit);
    }

    [Fact]
    public async Task EventsOfOpenLineageGoToAFile()
    {
        await using var service = Service.Nothing();
        var file = Path.Combine(service.Data, "..", "lineage.jsonl");
        service.Options = ["--lineage", file, "--lineage-namespace", "dairy"];
        await service.StartAsync();
        await RunAsync(service);
        // A chain and its steps begin and end: 2 chains, one step with data in each.
        var events = await LinesAsync(file, 8);
        foreach (var one in events)
            Hold(one);
        Assert.Equal(["COMPLETE", "COMPLETE", "FAIL", "FAIL"], Types(events).Where(t => t != "START").Order());
        var load = events.Single(e =>
            (string?)e["job"]!["name"] == "below.load" && (string?)e["eventType"] == "COMPLETE"
        );
        Assert.Equal(
            (Path.Combine(service.Work, "in/monday.csv"), "pickups"),
            ((string?)load["inputs"]![0]!["name"], (string?)load["outputs"]![0]!["name"])
        );
        // Up to the one that was started by hand.
        var below = Above(load);
        Assert.Equal("below", (string?)below["job"]!["name"]);
        var end = events.First(e => (string?)e["run"]!["runId"] == (string?)below["run"]!["runId"]);
        var top = Above(end);
        Assert.Equal("top", (string?)top["job"]!["name"]);
        var failed = events.Single(e =>
            (string?)e["run"]!["runId"] == (string?)top["run"]!["runId"] && (string?)e["eventType"] == "FAIL"
        );
        Assert.Contains("gone.csv", (string?)failed["run"]!["facets"]!["errorMessage"]!["message"]);
    }

    static JsonNode Above(JsonNode one) => one["run"]!["facets"]!["parent"]!;

    static IEnumerable<string> Types(IEnumerable<JsonNode> events) => events.Select(e => (string)e["eventType"]!);

    // An address that is away for a while gets what it missed, with the token that is kept as a secret.
    [Fact]
    public async Task EventsWaitForAnAddressThatIsAway()
    {
        var port = GateChain.Tests.ServerProcess.FreePort();
        await using var service = await Service.EmptyAsync("--lineage", $"http://127.0.0.1:{port}/api/v1/lineage");
        await service.Client.SetSecretAsync("lineage-token", "moo-moo-moo");
        await RunAsync(service);
        await using var receiver = new Receiver(port);
        var (headers, body) = await receiver.FirstAsync();
        Assert.Equal("Bearer moo-moo-moo", headers);
        Hold(JsonNode.Parse(body)!);
    }

    // What the open schema asks of an event of a run (OpenLineage 2-0-2).
    static void Hold(JsonNode one)
    {
        Assert.Matches("^(START|RUNNING|COMPLETE|ABORT|FAIL|OTHER)$", (string?)one["eventType"]);
        Assert.Matches(@"^\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d\.\d{3}Z$", (string?)one["eventTime"]);
        Assert.True(Uri.IsWellFormedUriString((string?)one["producer"], UriKind.Absolute));
        Assert.EndsWith("OpenLineage.json#/$defs/RunEvent", (string?)one["schemaURL"]);
        Assert.True(Guid.TryParseExact((string?)one["run"]!["runId"], "D", out _));
        Assert.NotEqual("", (string?)one["job"]!["namespace"]);
        Assert.NotEqual("", (string?)one["job"]!["name"]);
        foreach (var data in one["inputs"]!.AsArray().Concat(one["outputs"]!.AsArray()))
            Assert.True((string?)data!["namespace"] is { Length: > 0 } && (string?)data["name"] is { Length: > 0 });
        foreach (var (_, facet) in one["run"]!["facets"]!.AsObject())
        {
            Assert.True(Uri.IsWellFormedUriString((string?)facet!["_producer"], UriKind.Absolute));
            Assert.True(Uri.IsWellFormedUriString((string?)facet["_schemaURL"], UriKind.Absolute));
        }
    }

    static async Task<IReadOnlyList<JsonNode>> LinesAsync(string file, int count)
    {
        for (var tries = 0; ; tries++)
        {
            var lines = File.Exists(file) ? await File.ReadAllLinesAsync(file) : [];
            if (lines.Length >= count || tries > 600)
                return [.. lines.Select(l => JsonNode.Parse(l)!)];
            await Task.Delay(50);
        }
    }

    sealed class Receiver : IAsyncDisposable
    {
        readonly System.Net.HttpListener _listener = new();
        readonly TaskCompletionSource<(string, string)> _first = new(
            TaskCreationOptions.RunContinuationsAsynchronously
        );
        readonly Task _work;

        public Receiver(int port)
        {
            _listener.Prefixes.Add($"http://127.0.0.1:{port}/");
            _listener.Start();
            _work = Task.Run(WorkAsync);
        }

        public Task<(string Authorization, string Body)> FirstAsync() =>
            _first.Task.WaitAsync(TimeSpan.FromSeconds(60));

        async Task WorkAsync()
        {
            try
            {
                while (true)
                {
                    var context = await _listener.GetContextAsync();
                    using var reader = new StreamReader(context.Request.InputStream);
                    _first.TrySetResult(
                        (context.Request.Headers["Authorization"] ?? "", await reader.ReadToEndAsync())
                    );
                    context.Response.StatusCode = 201;
                    context.Response.Close();
                }
            }
            catch (Exception e) when (e is System.Net.HttpListenerException or ObjectDisposedException) { }
        }

        public async ValueTask DisposeAsync()
        {
            _listener.Close();
            await _work;
        }
    }
}
