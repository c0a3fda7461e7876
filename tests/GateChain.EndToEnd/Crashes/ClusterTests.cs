using GateChain.Client;
using GateChain.EndToEnd.House;

namespace GateChain.EndToEnd.Crashes;

/// <summary>Several nodes on one database, as their users meet them.</summary>
public sealed class ClusterTests
{
    static string Step(string name, string seconds, string more = "") =>
        $"  {name}:\n    kind: command\n{more}    set: {{ shell: \"{Ledger.Program(name, seconds)}\" }}\n";

    static readonly string Levels =
        "chain: top\nsteps:\n  down: { kind: call, chain: middle }\n"
        + Step("after_all", "0")
        + "gates:\n  - { from: down, to: after_all }\n";

    static readonly Dictionary<string, string> Workspace = new()
    {
        ["top.chain.yaml"] = Levels,
        ["middle.chain.yaml"] = "chain: middle\nsteps:\n  down: { kind: call, chain: bottom }\n",
        ["bottom.chain.yaml"] = "chain: bottom\nsteps:\n" + Step("slow", "5"),
        ["pressed.chain.yaml"] = "chain: pressed\nsteps:\n" + Step("press", "0.3", "    lane: press\n"),
        ["placed.chain.yaml"] = "chain: placed\nsteps:\n" + Step("there", "4", "    place: warehouse\n"),
        ["waits.chain.yaml"] =
            "chain: waits\nsteps:\n  long: { kind: wait, set: { for: 15s } }\n"
            + Step("then", "0")
            + "gates:\n  - { from: long, to: then }\n",
        ["lanes.yaml"] = "press: { width: 1 }\n",
    };

    [Fact]
    public async Task RunsLanesPlacesAndFollowersOutliveTheirNode()
    {
        await using var cluster = await Cluster.StartAsync([], [], ["--label", "warehouse", "--worker"]);
        var (one, two, worker) = (cluster.Nodes[0], cluster.Nodes[1], cluster.Nodes[2]);
        var ledger = new Ledger(cluster.Work);
        await one.Client.PushAsync(
            Workspace.ToDictionary(f => f.Key, f => System.Text.Encoding.UTF8.GetBytes(f.Value)),
            over: true
        );
        // What was pushed to one is there for the other.
        await Cluster.UntilAsync(
            async () => (await two.Client.ChainsAsync()).Count == Workspace.Count - 1,
            "the other node has the chains"
        );

        var top = (await one.Client.StartAsync(new("top", new Dictionary<string, System.Text.Json.JsonElement>()))).Id;
        var placed = (await one.Client.StartAsync(new("placed", Nothing))).Id;
        var pressed = new List<long>();
        for (var i = 0; i < 6; i++)
            pressed.Add((await cluster.Nodes[i % 2].Client.StartAsync(new("pressed", Nothing))).Id);
        await Cluster.UntilAsync(
            () => Task.FromResult(ledger.Count(top + 3, "slow", "begin") + ledger.Count(placed, "there", "begin") > 0),
            "the worker is at it"
        );
        var slow = (await two.Client.RunsAsync(new RunFilter())).First(r => r.Chain == "bottom").Id;
        await Cluster.UntilAsync(
            () => Task.FromResult(ledger.Count(slow, "slow", "begin") * ledger.Count(placed, "there", "begin") > 0),
            "both are at work"
        );
        // Followed through the node that is about to go.
        var followed = Place.RunAsync(
            Place.Program,
            cluster.Work,
            new Dictionary<string, string> { ["GATECHAIN_SERVICE"] = cluster.Addresses(0, 1) },
            "show",
            $"{top}",
            "--follow"
        );
        // A run of one node, stopped through the other one.
        var stopped = (await one.Client.StartAsync(new("waits", Nothing))).Id;
        await two.Client.StopAsync(stopped, new("not needed"));
        Assert.Equal("stopped", (await cluster.EndAsync(stopped)).State);

        await one.KillAsync();
        Assert.Equal("succeeded", (await cluster.EndAsync(top)).State);
        Assert.Equal("succeeded", (await cluster.EndAsync(placed)).State);
        foreach (var run in pressed)
            Assert.Equal("succeeded", (await cluster.EndAsync(run)).State);
        ledger.NobodyWorkedBesideAnother();
        ledger.OneAtATime("press");
        Assert.Equal(1, ledger.Count(slow, "slow", "end"));
        Assert.Equal(2, ledger.Count(slow, "slow", "begin"));
        Assert.Equal(1, ledger.Count(top, "after_all", "end"));
        // The worker went on with what it was at, whoever owned the run.
        Assert.Equal(1, ledger.Count(placed, "there", "begin"));
        var (exit, said, err) = await followed;
        Assert.True(exit == 0, said + err);
        Assert.Contains($"run {top} succeeded", said, StringComparison.Ordinal);

        // Its log is on the worker.
        var log = await two.Client.LogAsync(placed, "there");
        Assert.Contains("for its place warehouse", log.Text, StringComparison.Ordinal);

        // The one that is drained hands over what waits, and ends.
        await cluster.StartAgainAsync(one);
        await cluster.AreThereAsync(3);
        var waiting = (await two.Client.StartAsync(new("waits", Nothing))).Id;
        (exit, said, err) = await one.CliAsync("drain", "n1");
        Assert.True(exit == 0, err);
        await Cluster.UntilAsync(() => Task.FromResult(two.ExitCode is not null), "the drained node ends", 30);
        Assert.Equal(0, two.ExitCode);
        Assert.Equal("succeeded", (await cluster.EndAsync(waiting)).State);
        var nodes = (await one.Client.NodesAsync()).Nodes;
        Assert.Equal(["n0 there", "n1 gone", "n2 there"], nodes.Select(n => $"{n.Name} {n.State}"));
        Assert.Equal([true, false, false], nodes.Select(n => n.Leads));
        Assert.Equal(["warehouse"], nodes[2].Labels);
        Assert.False(nodes[2].OwnsRuns);
        Assert.Null(worker.ExitCode);
    }

    static readonly Dictionary<string, System.Text.Json.JsonElement> Nothing = [];
}
