namespace GateChain.Engine;

/// <summary>Where the engine works.</summary>
/// <param name="DataFolder">The service's own data: database, logs. Created when absent, for the owner only.</param>
/// <param name="WorkFolder">Where relative paths of chains start from.</param>
public sealed record EngineOptions(string DataFolder, string WorkFolder)
{
    public string Database { get; } = Path.Combine(DataFolder, "gatechain.db");
    public string Logs { get; } = Path.Combine(DataFolder, "logs");
    public string Steps { get; } = Path.Combine(DataFolder, "steps");

    /// <summary>How long attempts get to end by themselves when the service is shut down. Default 5 s.</summary>
    public TimeSpan ShutdownPatience { get; init; } = TimeSpan.FromSeconds(5);
}
