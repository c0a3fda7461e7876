using GateChain.Cluster.Calls;
using GateChain.Engine.Sharing;

namespace GateChain.Cluster.Hosting;

/// <summary>The other nodes, found by what the silos have agreed on. Thread-safe.</summary>
sealed class NodeLink(string id, NodeAnswers answers) : INodeLink
{
    IClusterMembershipService? _membership;
    NodeCallsClient? _calls;

    /// <summary>The silo is there.</summary>
    public void Begin(IClusterMembershipService membership, NodeCallsClient calls) =>
        (_membership, _calls) = (membership, calls);

    public string Id => id;

    static bool IsLiving(SiloStatus status) =>
        status is SiloStatus.Joining or SiloStatus.Active or SiloStatus.ShuttingDown;

    public IReadOnlyCollection<string> Living =>
        [
            .. (_membership?.CurrentSnapshot.Members.Values ?? [])
                .Where(m => IsLiving(m.Status))
                .Select(m => m.Name)
                .Append(id)
                .Distinct(),
        ];

    public async Task<byte[]> AskAsync(string node, string what, byte[] body)
    {
        if (node == id)
            return await answers.AnswerAsync(what, body).ConfigureAwait(false);
        var silo = _membership?.CurrentSnapshot.Members.Values.FirstOrDefault(m => m.Name == node && IsLiving(m.Status))
            ?? throw new NodeSilentException($"the node {node} is not there");
        try
        {
            return await _calls!.At(silo.SiloAddress).AskAsync(what, body).ConfigureAwait(false);
        }
        catch (Exception e) when (e is OrleansException or TimeoutException or IOException)
        {
            throw new NodeSilentException($"the node {node} does not answer: {e.Message}", e);
        }
    }
}
