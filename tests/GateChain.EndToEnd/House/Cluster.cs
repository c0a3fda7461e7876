using GateChain.Client;

namespace GateChain.EndToEnd.House;

/// <summary>Several nodes in processes of their own, on one PostgreSQL and one work folder.</summary>
sealed class Cluster : IAsyncDisposable
{
    readonly TempFolder _folder = new();

    /// <summary>Their database.</summary>
    public PostgreSqlServer Database { get; } = PostgreSqlServer.Start();

    /// <summary>The nodes, <c>n0</c> and so on.</summary>
    public List<Service> Nodes { get; } = [];

    /// <summary>The way of each to the database.</summary>
    public List<Wire> Wires { get; } = [];

    /// <summary>Their work folder.</summary>
    public string Work => _folder["work"];

    (string, string) Key => ("GATECHAIN_SECRET_KEY_FILE", _folder["key"]);

    /// <summary>Starts some.</summary>
    /// <param name="more">Further options of each node.</param>
    public static async Task<Cluster> StartAsync(params IReadOnlyList<IReadOnlyList<string>> more)
    {
        var cluster = new Cluster();
        Directory.CreateDirectory(cluster.Work);
        await File.WriteAllTextAsync(cluster._folder["key"], Convert.ToBase64String(new byte[32]));
        foreach (var options in more)
        {
            var wire = new Wire(cluster.Database.Port);
            var database = new Npgsql.NpgsqlConnectionStringBuilder(cluster.Database.To("larkmoor"))
            {
                Port = wire.Port,
            };
            var node = Service.Node($"n{cluster.Nodes.Count}", database.ConnectionString, cluster.Work, options);
            cluster.Wires.Add(wire);
            cluster.Nodes.Add(node);
            await node.StartAsync(cluster.Key);
        }
        await cluster.AreThereAsync(more.Count);
        return cluster;
    }

    /// <summary>Starts one again.</summary>
    public Task StartAgainAsync(Service node) => node.StartAsync(Key);

    /// <summary>Waits until so many are there, as each that answers says.</summary>
    public async Task AreThereAsync(int count)
    {
        foreach (var node in Nodes.Where(n => n.ExitCode is null))
        {
            await UntilAsync(
                async () => (await node.Client.NodesAsync()).Nodes.Count(n => n.State == "there") == count,
                $"{count} nodes are there"
            );
        }
    }

    /// <summary>The addresses of all of them, as the command line takes them; another one than the first may lead.
    /// </summary>
    public string Addresses(params IReadOnlyList<int> order) =>
        string.Join(',', order.Select(i => Nodes[i].Address.ToString()));

    /// <summary>Asks whoever answers.</summary>
    public GateChainClient Anybody() => new([.. Nodes.Where(n => n.ExitCode is null).Select(n => n.Address)], "test");

    /// <summary>A run that has ended, as a node says.</summary>
    public async Task<RunDetail> EndAsync(long run, int seconds = 60)
    {
        using var client = Anybody();
        RunDetail? last = null;
        try
        {
            await UntilAsync(
                async () =>
                {
                    try
                    {
                        last = await client.RunAsync(run);
                        return last.Ended is not null;
                    }
                    catch (GateChainException e) when (e.Status is 0 or 503)
                    {
                        return false;
                    }
                },
                $"run {run} ends",
                seconds
            );
        }
        catch (TimeoutException e)
        {
            throw new TimeoutException(
                $"{e.Message}: {last?.State}; {string.Join(", ", last?.Steps.Select(s => $"{s.Path} {s.State}") ?? [])}"
            );
        }
        return last!;
    }

    public static async Task UntilAsync(Func<Task<bool>> holds, string what, int seconds = 60)
    {
        for (var i = 0; !await holds(); i++)
        {
            if (i >= seconds * 10)
                throw new TimeoutException($"it does not come to that: {what}");
            await Task.Delay(100);
        }
    }

    public async ValueTask DisposeAsync()
    {
        foreach (var node in Nodes)
            await node.DisposeAsync();
        foreach (var wire in Wires)
            wire.Dispose();
        Database.Dispose();
        _folder.Dispose();
    }
}
