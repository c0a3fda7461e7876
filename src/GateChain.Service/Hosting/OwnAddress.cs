namespace GateChain.Service.Hosting;

/// <summary>Where the service listens, once it does.</summary>
sealed class OwnAddress
{
    /// <summary>The port; null before.</summary>
    public int? Port { get; set; }
}
