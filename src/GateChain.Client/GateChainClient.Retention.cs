namespace GateChain.Client;

public sealed partial class GateChainClient
{
    const string Retention = "api/retention";

    /// <summary>What is kept for how long, and what would go now.</summary>
    public Task<RetentionInfo> RetentionAsync(CancellationToken cancel = default) =>
        GetAsync<RetentionInfo>(Retention, cancel);

    /// <summary>Says how long runs of a chain or folder are kept.</summary>
    public Task SetRetentionAsync(KeepRuleInfo rule, CancellationToken cancel = default) =>
        PutAsync($"{Retention}/rules", rule, cancel);

    /// <summary>Lets the rule around it hold again.</summary>
    /// <param name="chain">The chain; null for a folder.</param>
    /// <param name="folder">The folder.</param>
    /// <param name="cancel">Gives up.</param>
    public Task RemoveRetentionAsync(string? chain, string? folder, CancellationToken cancel = default) =>
        DeleteAsync(
            $"{Retention}/rules?"
                + (
                    chain is null
                        ? $"folder={Uri.EscapeDataString(folder ?? "")}"
                        : $"chain={Uri.EscapeDataString(chain)}"
                ),
            null,
            cancel
        );

    /// <summary>Removes now what is not kept any more.</summary>
    public Task<IReadOnlyList<ChainKeepingInfo>> RemoveOldAsync(CancellationToken cancel = default) =>
        PostAsync<IReadOnlyList<ChainKeepingInfo>>($"{Retention}/passes", new { }, cancel);

    /// <summary>Keeps a run whatever the rules say.</summary>
    public Task PinAsync(long run, string? why, CancellationToken cancel = default) =>
        PutAsync($"api/runs/{run}/pin", new PinRequest(why), cancel);

    /// <summary>Keeps a run no longer than others.</summary>
    public Task UnpinAsync(long run, CancellationToken cancel = default) =>
        DeleteAsync($"api/runs/{run}/pin", null, cancel);

    /// <summary>What takes room, the most first.</summary>
    public Task<IReadOnlyList<UsageInfo>> UsageAsync(CancellationToken cancel = default) =>
        GetAsync<IReadOnlyList<UsageInfo>>("api/usage", cancel);
}
