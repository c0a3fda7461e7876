using GateChain.Core.Access;
using GateChain.Kinds.Connections;
using GateChain.Kinds.Contract;

namespace GateChain.Engine.Connections;

/// <summary>The connections of an area, as far as its rules let steps go. Immutable.</summary>
sealed class GuardedConnections(IConnections all, NetworkRules network, bool tried) : IConnections
{
    /// <param name="all">Those of the area.</param>
    /// <param name="rules">Its rules.</param>
    /// <param name="ownPort">The port of the service itself.</param>
    /// <param name="tried">Whether they are for the try of a draft.</param>
    public static IConnections Of(IConnections all, AreaRules rules, int? ownPort, bool tried = false) =>
        NetworkOf(rules, ownPort) is var network && network.IsOpen && !tried
            ? all
            : new GuardedConnections(all, network, tried);

    /// <summary>Where steps of an area may go.</summary>
    /// <param name="rules">Its rules.</param>
    /// <param name="ownPort">The port of the service itself.</param>
    public static NetworkRules NetworkOf(AreaRules rules, int? ownPort) =>
        ReferenceEquals(rules, AreaRules.Open)
            ? NetworkRules.Open
            : new(rules.AllowsHost, host => rules.Hosts is not null && rules.AllowsHost(host), ownPort);

    public NetworkRules Network => network;

    /// <exception cref="StepFailedException">Steps of the area, or tries, may not go there.</exception>
    public Connection? Find(string name)
    {
        var found = all.Find(name);
        if (tried && found is { ForTries: false })
        {
            throw new StepFailedException(
                "not-allowed",
                $"connection “{name}” is kept from tries of drafts (tries: false): released chains use it"
            );
        }
        // Those of HTTP are looked at when they connect: redirections too.
        return found?.Text("host") is { Length: > 0 } host && network.Refusal(host) is { } refusal
            ? throw new StepFailedException("not-allowed", $"connection “{name}”: {refusal}")
            : found;
    }
}
