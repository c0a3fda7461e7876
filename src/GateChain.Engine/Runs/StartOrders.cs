using System.Text.Json.Serialization;
using GateChain.Core.Running;
using GateChain.Core.Values;
using GateChain.Engine.Basics;
using GateChain.Engine.Sharing;

namespace GateChain.Engine.Runs;

/// <summary>What somebody asks to be started, for whichever node may own it.</summary>
/// <param name="By">Who asks.</param>
[JsonDerivedType(typeof(Run), "run")]
[JsonDerivedType(typeof(Restart), "restart")]
abstract record StartOrder(FarActor By)
{
    public sealed record Run(string Chain, IReadOnlyDictionary<string, Value> Given, string? Profile, FarActor By)
        : StartOrder(By);

    public sealed record Restart(long Former, bool Latest, FarActor By) : StartOrder(By);
}

/// <summary>
/// Has runs started by a node that may own them, where this one may not: it only takes attempts, or is being drained.
/// Thread-safe.
/// </summary>
/// <param name="shared">The others.</param>
/// <param name="ownsRuns">Whether this node may own runs at the moment.</param>
sealed class StartRouter(Shared shared, Func<bool> ownsRuns)
{
    /// <summary>The name of the question.</summary>
    public const string Question = "start";

    /// <summary>Starts it here, or where it may be.</summary>
    /// <param name="order">What.</param>
    /// <param name="here">Starts it here; also when there is nobody else.</param>
    /// <exception cref="RefusedException">It is refused, or nobody knows whether it was started.</exception>
    public async Task<long> StartAsync(StartOrder order, Func<Task<long>> here)
    {
        if (ownsRuns() || await OwnerAsync().ConfigureAwait(false) is not { } node)
            return await here().ConfigureAwait(false);
        try
        {
            return await NodeAnswers
                .AskAsync<StartOrder, long>(shared.Link, node, Question, order)
                .ConfigureAwait(false);
        }
        catch (NodeSilentException)
        {
            throw new RefusedException(
                RefusalKind.Unavailable,
                $"node {node.Split('.')[0]} was to start it, and does not answer: look whether it has (gatechain runs)"
            );
        }
    }

    async Task<string?> OwnerAsync()
    {
        var living = shared.Link.Living;
        return (await shared.Store.Nodes.AllAsync().ConfigureAwait(false))
            .Where(n => n is { OwnsRuns: true, Draining: false, Left: null } && living.Contains(n.Id))
            .Where(n => n.Id != shared.Link.Id)
            .MinBy(n => (n.Silent > TimeSpan.FromSeconds(3), Random.Shared.Next()))
            ?.Id;
    }
}
