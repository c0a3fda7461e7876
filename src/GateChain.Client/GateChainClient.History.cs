namespace GateChain.Client;

public sealed partial class GateChainClient
{
    /// <summary>What needs a person, what runs, what comes next.</summary>
    public Task<HomeInfo> HomeAsync(CancellationToken cancel = default) => GetAsync<HomeInfo>("api/home", cancel);

    /// <summary>The latest legs of a chain's runs, the newest first.</summary>
    /// <param name="chain">The chain.</param>
    /// <param name="most">How many, 1 to 500.</param>
    /// <param name="before">Only runs with a smaller number; null for all.</param>
    /// <param name="cancel">Gives up.</param>
    public Task<HistoryInfo> HistoryAsync(
        string chain,
        int most = 50,
        long? before = null,
        CancellationToken cancel = default
    ) => GetAsync<HistoryInfo>($"{Of(chain)}/history?most={most}{(before is null ? "" : $"&before={before}")}", cancel);

    /// <summary>What a run had differently from another.</summary>
    /// <param name="run">The run.</param>
    /// <param name="with">The run it is compared with; the last one before it that succeeded when absent.</param>
    /// <param name="cancel">Gives up.</param>
    public Task<DifferenceInfo> DifferenceAsync(long run, long? with = null, CancellationToken cancel = default) =>
        GetAsync<DifferenceInfo>($"api/runs/{run}/difference{(with is null ? "" : $"?with={with}")}", cancel);

    /// <summary>When a run will end, as earlier ones did; null when too few tell it, or it has ended.</summary>
    public Task<ExpectedInfo?> ExpectedAsync(long run, CancellationToken cancel = default) =>
        GetAsync<ExpectedInfo?>($"api/runs/{run}/expected", cancel);
}
