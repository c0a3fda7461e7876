using System.Net;
using System.Net.NetworkInformation;
using System.Net.Sockets;

namespace GateChain.Kinds.Connections;

/// <summary>Where steps may go in the network. Immutable; thread-safe.</summary>
/// <param name="Allows">Whether a host may be gone to, by its name or address as it is written.</param>
/// <param name="Names">Whether a host is named by itself among those that are allowed: then it may be gone to wherever
/// it lies.</param>
/// <param name="OwnPort">The port that the service itself listens at, on this machine; null when nothing is kept from
/// steps.</param>
public sealed record NetworkRules(Func<string, bool> Allows, Func<string, bool> Names, int? OwnPort)
{
    /// <summary>Everywhere.</summary>
    public static NetworkRules Open { get; } = new(_ => true, _ => true, null);

    /// <summary>Whether anything is kept from steps.</summary>
    public bool IsOpen => ReferenceEquals(this, Open);

    /// <summary>Why a host may not be gone to; null when it may.</summary>
    public string? Refusal(string host) =>
        Allows(host) ? null : $"steps of this folder may not go to “{host}”: an admin allows it (gatechain allow)";

    /// <summary>Why an address that a name was found to have may not be gone to; null when it may.</summary>
    /// <param name="host">The name.</param>
    /// <param name="address">Its address.</param>
    /// <param name="port">The port.</param>
    public string? Refusal(string host, IPAddress address, int port)
    {
        if (IsOpen || Names(host))
            return null;
        var plain = address.IsIPv4MappedToIPv6 ? address.MapToIPv4() : address;
        // What a machine keeps for itself, such as the keys of a cloud, is found there.
        if (IsLinkLocal(plain) || plain.Equals(IPAddress.Any) || plain.Equals(IPAddress.IPv6Any))
            return $"“{host}” is {plain}, an address of this machine's own network: an admin allows it by name";
        return port == OwnPort && IsOwn(plain) ? $"“{host}” is this service itself: an admin allows it by name" : null;
    }

    static bool IsLinkLocal(IPAddress address) =>
        address.IsIPv6LinkLocal
        || (address.AddressFamily == AddressFamily.InterNetwork && address.GetAddressBytes() is [169, 254, ..]);

    static bool IsOwn(IPAddress address) =>
        IPAddress.IsLoopback(address)
        || NetworkInterface
            .GetAllNetworkInterfaces()
            .Any(n => n.GetIPProperties().UnicastAddresses.Any(a => a.Address.Equals(address)));

    /// <summary>Connects to a host, when it may be gone to; what is looked at is what is connected to.</summary>
    /// <exception cref="HttpRequestException">It may not.</exception>
    internal async ValueTask<Stream> ConnectAsync(DnsEndPoint to, CancellationToken cancel)
    {
        if (Refusal(to.Host) is { } refusal)
            throw new HttpRequestException(refusal);
        var addresses = await Dns.GetHostAddressesAsync(to.Host, cancel).ConfigureAwait(false);
        foreach (var address in addresses)
        {
            if (Refusal(to.Host, address, to.Port) is { } why)
                throw new HttpRequestException(why);
        }
        var socket = new Socket(SocketType.Stream, ProtocolType.Tcp) { NoDelay = true };
        try
        {
            await socket.ConnectAsync(addresses, to.Port, cancel).ConfigureAwait(false);
            return new NetworkStream(socket, ownsSocket: true);
        }
        catch
        {
            socket.Dispose();
            throw;
        }
    }
}
