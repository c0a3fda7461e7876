using GateChain.Client;
using GateChain.Core.Access;
using GateChain.Engine.Reading;
using GateChain.Engine.Workspaces;
using GateChain.Service.Access;
using GateChain.Service.Views;
using GateChain.Storage;

namespace GateChain.Service.Endpoints;

/// <summary>Home, the history of chains, and runs beside those before them.</summary>
static class HistoryEndpoints
{
    public static void Map(RouteGroupBuilder api)
    {
        api.MapGet("/home", (HomeViews home, Visitor visitor) => home.OfAsync(visitor))
            .WithName("getHome")
            .Needs(Permission.See)
            .WithSummary("What needs a person, what runs, what comes next, and how it went lately");
        api.MapGet("/chains/{name}/history", History)
            .WithName("getHistory")
            .Needs(Permission.See, Where.Chain)
            .WithSummary("The latest legs of a chain's runs with what their steps took, the newest first");
        api.MapGet("/runs/{id:long}/difference", Difference)
            .WithName("getDifference")
            .Needs(Permission.See, Where.Run)
            .WithSummary("What a run had differently from another; from the last one that succeeded when none is named")
            .ProducesProblem(404)
            .ProducesProblem(422);
        api.MapGet("/runs/{id:long}/expected", Expected)
            .WithName("getExpected")
            .Needs(Permission.See, Where.Run)
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
        Visitor visitor,
        AreaLocator areas,
        long? with = null
    )
    {
        if (with is { } other)
            await areas.MustSeeRunAsync(other, visitor);
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
