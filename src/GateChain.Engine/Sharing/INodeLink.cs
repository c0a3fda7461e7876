using GateChain.Engine.Slots;
using GateChain.Storage;

namespace GateChain.Engine.Sharing;

/// <summary>The other nodes, as an engine sees them that shares its runs with theirs. Thread-safe.</summary>
public interface INodeLink
{
    /// <summary>This node: see <see cref="StoredNode.Id"/>.</summary>
    string Id { get; }

    /// <summary>The ids of the nodes that are there, this one among them, as far as is known at the moment.</summary>
    IReadOnlyCollection<string> Living { get; }

    /// <summary>Asks another node for something, and gives its answer.</summary>
    /// <param name="node">Its id.</param>
    /// <param name="what">The name of the question.</param>
    /// <param name="body">What it needs to know.</param>
    /// <exception cref="NodeSilentException">It did not answer; whether it did something nobody knows.</exception>
    Task<byte[]> AskAsync(string node, string what, byte[] body);
}

/// <summary>A node does not answer.</summary>
public sealed class NodeSilentException(string message, Exception? inner = null) : Exception(message, inner);

/// <summary>What an engine needs to share runs with others.</summary>
/// <param name="Store">What all of them work with.</param>
/// <param name="Link">The others.</param>
/// <param name="Slots">Makes the slots that all of them share; is given what tells a run of a grant.</param>
public sealed record Shared(ISharedStore Store, INodeLink Link, Func<Action<SlotName, Seat>, ISlots> Slots)
{
    /// <summary>Whether runs may be this node's: not when it only takes attempts, or is being drained.</summary>
    public bool OwnsRuns { get; init; } = true;

    /// <summary>What answers the others.</summary>
    public NodeAnswers Answers { get; init; } = new();
}
