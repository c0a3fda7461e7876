using System.Net;
using System.Security.Cryptography.X509Certificates;

namespace GateChain.Cluster.Hosting;

/// <summary>How a node is among others.</summary>
/// <param name="Name">What people call it: letters, digits and -, 40 at most.</param>
/// <param name="Listen">Where other nodes reach it; port 0 takes a free one.</param>
public sealed record NodeSettings(string Name, IPEndPoint Listen)
{
    /// <summary>What it can do that others can't.</summary>
    public IReadOnlyList<string> Labels { get; init; } = [];

    /// <summary>Whether runs may be its own; else it only takes attempts of others. Default true.</summary>
    public bool OwnsRuns { get; init; } = true;

    /// <summary>What it shows other nodes.</summary>
    public required X509Certificate2 Certificate { get; init; }

    /// <summary>Who signs the certificates of nodes; null when all of them show the same.</summary>
    public X509Certificate2? Authority { get; init; }

    /// <summary>Of the program.</summary>
    public string Version { get; init; } = "";
}
