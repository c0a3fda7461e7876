using System.Net;

namespace GateChain.Kinds.Connections;

/// <summary>Tells this machine from others.</summary>
static class Hosts
{
    /// <summary>Whether a name or address is this machine's loopback, so that nobody else can listen in.</summary>
    public static bool IsLoopback(string host) =>
        host is "localhost" || (IPAddress.TryParse(host, out var address) && IPAddress.IsLoopback(address));
}
