namespace GateChain.Client;

public sealed partial class GateChainClient
{
    /// <summary>The nodes that share the service's database.</summary>
    public Task<NodesInfo> NodesAsync(CancellationToken cancel = default) => GetAsync<NodesInfo>("api/nodes", cancel);

    /// <summary>Has a node hand over what it has, and end.</summary>
    /// <exception cref="GateChainException">There is no such node.</exception>
    public Task<NodesInfo> DrainAsync(string node, CancellationToken cancel = default) =>
        SendJsonAsync<NodesInfo>(HttpMethod.Put, Drain(node), new { }, null, cancel);

    /// <summary>Has a node go on that was to be drained.</summary>
    /// <exception cref="GateChainException">There is no such node.</exception>
    public Task UndrainAsync(string node, CancellationToken cancel = default) => DeleteAsync(Drain(node), null, cancel);

    static string Drain(string node) => $"api/nodes/{Uri.EscapeDataString(node)}/drain";
}
