using GateChain.Engine.Sharing;
using Microsoft.Extensions.Logging;
using Orleans.Concurrency;
using Orleans.Runtime.Services;
using Orleans.Services;

namespace GateChain.Cluster.Calls;

/// <summary>What each node is to the others: it answers questions about what it has.</summary>
[Alias("gatechain.node")]
public interface INodeCalls : IGrainService
{
    /// <summary>Answers a question.</summary>
    /// <param name="what">Its name.</param>
    /// <param name="body">What it needs to know.</param>
    [Alias("ask")]
    Task<byte[]> AskAsync(string what, byte[] body);
}

/// <summary>Answers with what the engine of this node says. Several questions at once.</summary>
[Reentrant]
public sealed class NodeCalls(GrainId id, Silo silo, ILoggerFactory logs, NodeAnswers answers)
    : GrainService(id, silo, logs),
        INodeCalls
{
    /// <inheritdoc/>
    public Task<byte[]> AskAsync(string what, byte[] body) => answers.AnswerAsync(what, body);
}

/// <summary>Asks other nodes.</summary>
public sealed class NodeCallsClient(IServiceProvider services) : GrainServiceClient<INodeCalls>(services)
{
    /// <summary>The node at an address.</summary>
    public INodeCalls At(SiloAddress silo) => GetGrainService(silo);
}
