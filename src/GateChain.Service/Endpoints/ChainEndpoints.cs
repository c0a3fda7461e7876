using GateChain.Client;
using GateChain.Core.Problems;
using GateChain.Engine;
using GateChain.Engine.Workspaces;
using GateChain.Service.Views;
using GateChain.Storage;
using Microsoft.AspNetCore.Builder;
using Microsoft.AspNetCore.Http;
using Microsoft.AspNetCore.Http.HttpResults;
using Microsoft.AspNetCore.Routing;

namespace GateChain.Service.Endpoints;

/// <summary>Chains and workspaces.</summary>
static class ChainEndpoints
{
    public static void Map(RouteGroupBuilder api)
    {
        api.MapGet("/chains", List).WithName("listChains").WithSummary("All chains with their latest runs");
        api.MapGet("/chains/{name}", Get).WithName("getChain").WithSummary("A chain: source, parameters, steps and gates").ProducesProblem(404);
        api.MapPost("/chains/{name}/rehearsal", Rehearse).WithName("rehearseChain").WithSummary("Plays a chain with made-up outcomes; nothing of it is done").ProducesProblem(404).ProducesProblem(422);
        api.MapPost("/workspace", Push).WithName("pushWorkspace").WithSummary("Checks and stores a workspace; with errors nothing is stored").ProducesProblem(422);
        api.MapPost("/check", Check).WithName("checkWorkspace").WithSummary("Checks a workspace and stores nothing");
    }

    static IReadOnlyList<ChainSummary> List(ChainEngine engine) =>
        [.. engine.Catalogue.Chains().Select(r => new ChainSummary(r.Chain, r.Title, r.Hash, r.Pushed, engine.ChainOf(r.Hash).AllSteps.Count(),
            [.. engine.Register.List(new(Chain: r.Chain, Limit: 10)).Select(JsonViews.Summary)]))];

    static ChainDetail Get(string name, ChainEngine engine)
    {
        var release = engine.Catalogue.Latest(name) ?? throw new RefusedException(RefusalKind.NotFound, $"there is no chain “{name}”");
        return ChainViews.Detail(engine.ChainOf(release.Hash), release, [.. engine.ProfileNames]);
    }

    static RehearsalResult Rehearse(string name, RehearsalRequest request, ChainEngine engine) =>
        RehearsalViews.Rehearse(engine.LatestChain(name), called => engine.FindLatestChain(called), request, engine.ProfileValues(request.Profile), engine.Time.GetUtcNow());

    static async Task<Ok<PushResult>> Push(PushRequest request, ChainEngine engine)
    {
        var workspace = await engine.PushAsync(Files(request));
        if (workspace.HasErrors) { throw new InvalidWorkspaceException(workspace.Problems); }
        var pushed = workspace.Chains.Select(c => new PushedChain(c.Name, engine.Catalogue.Latest(c.Name)!.Hash)).ToList();
        return TypedResults.Ok(new PushResult(pushed, [.. workspace.Problems.Select(JsonViews.Problem)]));
    }

    static IReadOnlyList<ProblemInfo> Check(PushRequest request, ChainEngine engine) =>
        [.. new Workspace(Files(request), engine.Check.Kinds).Problems.Select(JsonViews.Problem)];

    static Dictionary<string, byte[]> Files(PushRequest request)
    {
        try { return request.Files.ToDictionary(f => f.Key, f => Convert.FromBase64String(f.Value)); }
        catch (FormatException) { throw new RefusedException(RefusalKind.Invalid, "the contents of files are written in base64"); }
    }
}

/// <summary>A workspace with errors was pushed.</summary>
sealed class InvalidWorkspaceException(IReadOnlyList<Problem> problems) : Exception("the workspace has errors")
{
    public IReadOnlyList<Problem> Problems { get; } = problems;
}
