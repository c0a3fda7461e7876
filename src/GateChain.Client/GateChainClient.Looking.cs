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

    /// <summary>What hangs on a chain, and on what it hangs itself.</summary>
    public Task<ConsequencesInfo> ConsequencesAsync(string chain, CancellationToken cancel = default) =>
        GetAsync<ConsequencesInfo>($"api/chains/{Uri.EscapeDataString(chain)}/consequences", cancel);

    /// <summary>The decisions of a run behind one, in order.</summary>
    /// <param name="run">The run.</param>
    /// <param name="after">The number of the decision; 0 for all.</param>
    /// <param name="limit">At most so many, 1 to 1,000.</param>
    /// <param name="cancel">Gives up.</param>
    public Task<IReadOnlyList<MomentInfo>> MomentsAsync(
        long run,
        long after = 0,
        int limit = 200,
        CancellationToken cancel = default
    ) => GetAsync<IReadOnlyList<MomentInfo>>($"api/runs/{run}/moments?after={after}&limit={limit}", cancel);

    /// <summary>A run as it was behind a decision.</summary>
    public Task<RunDetail> RunAtAsync(long run, long moment, CancellationToken cancel = default) =>
        GetAsync<RunDetail>($"api/runs/{run}?moment={moment}", cancel);

    /// <summary>Plays past runs of a chain again under another content.</summary>
    public Task<ReplayInfo> ReplayAsync(string chain, ReplayRequest request, CancellationToken cancel = default) =>
        PostAsync<ReplayInfo>($"api/chains/{Uri.EscapeDataString(chain)}/replay", request, cancel);

    /// <summary>The data that the latest leg of a run has read and written.</summary>
    public Task<IReadOnlyList<StepDataInfo>> DataOfRunAsync(long run, CancellationToken cancel = default) =>
        GetAsync<IReadOnlyList<StepDataInfo>>($"api/runs/{run}/data", cancel);
}
