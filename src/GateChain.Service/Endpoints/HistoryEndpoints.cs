using GateChain.Client;
using GateChain.Engine.Reading;
using GateChain.Engine.Workspaces;
using GateChain.Service.Views;
using GateChain.Storage;

namespace GateChain.Service.Endpoints;

/// <summary>Home, the history of chains, and runs beside those before them.</summary>
static class HistoryEndpoints
{
    public static void Map(RouteGroupBuilder api)
    {
        api.MapGet("/home", (HomeViews home) => home.OfAsync())
            .WithName("getHome")
            .WithSummary("What needs a person, what runs, what comes next, and how it went lately");
        api.MapGet("/chains/{name}/history", History)
            .WithName("getHistory")
            .WithSummary("The latest legs of a chain's runs with what their steps took, the newest first");
        api.MapGet("/runs/{id:long}/difference", Difference)
            .WithName("getDifference")
            .WithSummary("What a run had differently from another; from the last one that succeeded when none is named")
            .ProducesProblem(404)
            .ProducesProblem(422);
        api.MapGet("/runs/{id:long}/expected", Expected)
            .WithName("getExpected")
            .WithSummary("When a run will end, as earlier ones did; nothing when too few tell it, or it has ended")
            .ProducesProblem(404);
    }

    // A chain that is gone has a history still.
    static async Task<HistoryInfo> History(
        string name,
        IHistory history,
        int most = 60,
        long? before = null,
        bool tries = false
    ) => HistoryViews.Of(await history.OfChainAsync(name, Math.Clamp(most, 1, 500), before, tries: tries));

    static async Task<DifferenceInfo> Difference(
        long id,
        RunOutlook outlook,
        WorkspaceService workspace,
        long? with = null
    )
    {
        var (a, b, found) = await outlook.CompareAsync(id, with);
        return HistoryViews.Of(
            a,
            b,
            found,
            await workspace.NumberOfAsync(a.Chain, a.Release),
            await workspace.NumberOfAsync(b.Chain, b.Release)
        );
    }

    static async Task<ExpectedInfo?> Expected(long id, RunOutlook outlook) =>
        HistoryViews.Of((await outlook.OfAsync(id)).Expected);
}
