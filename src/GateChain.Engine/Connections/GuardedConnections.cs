using GateChain.Core.Access;
using GateChain.Kinds.Connections;
using GateChain.Kinds.Contract;

namespace GateChain.Engine.Connections;

/// <summary>The connections of an area, as far as its rules let steps go. Immutable.</summary>
sealed class GuardedConnections(IConnections all, NetworkRules network) : IConnections
{
    public static IConnections Of(IConnections all, AreaRules rules, int? ownPort) =>
        ReferenceEquals(rules, AreaRules.Open)
            ? all
            : new GuardedConnections(
                all,
                new(rules.AllowsHost, host => rules.Hosts is not null && rules.AllowsHost(host), ownPort)
            );

    public NetworkRules Network => network;

    /// <exception cref="StepFailedException">Steps of the area may not go there.</exception>
    public Connection? Find(string name)
    {
        var found = all.Find(name);
        // Those of HTTP are looked at when they connect: redirections too.
        return found?.Text("host") is { Length: > 0 } host && network.Refusal(host) is { } refusal
            ? throw new StepFailedException("not-allowed", $"connection “{name}”: {refusal}")
            : found;
    }
}
