namespace GateChain.Client;

public sealed partial class GateChainClient
{
    /// <summary>The data that all chains read and write, as they are declared.</summary>
    public Task<IReadOnlyList<DatasetUsesInfo>> DataAsync(CancellationToken cancel = default) =>
        GetAsync<IReadOnlyList<DatasetUsesInfo>>("api/lineage", cancel);

    /// <summary>Where data come from and where they go: of each that a name may mean.</summary>
    /// <param name="name">A name, <c>connection:name</c>, or a pattern.</param>
    /// <param name="cancel">Gives up.</param>
    public Task<IReadOnlyList<LineageInfo>> LineageAsync(string name, CancellationToken cancel = default) =>
        GetAsync<IReadOnlyList<LineageInfo>>($"api/lineage/of?name={Uri.EscapeDataString(name)}", cancel);

    /// <summary>Plays past runs of a chain again under another content.</summary>
    public Task<ReplayInfo> ReplayAsync(string chain, ReplayRequest request, CancellationToken cancel = default) =>
        PostAsync<ReplayInfo>($"api/chains/{Uri.EscapeDataString(chain)}/replay", request, cancel);

    /// <summary>The data that the latest leg of a run has read and written.</summary>
    public Task<IReadOnlyList<StepDataInfo>> DataOfRunAsync(long run, CancellationToken cancel = default) =>
        GetAsync<IReadOnlyList<StepDataInfo>>($"api/runs/{run}/data", cancel);
}
