using GateChain.Client;
using GateChain.Core.Chains;
using GateChain.Core.Problems;
using GateChain.Engine.Basics;
using GateChain.Engine.Drafts;
using GateChain.Engine.Releases;
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
        api.MapGet("/chains/{name}", Get)
            .WithName("getChain")
            .WithSummary("A chain: source, parameters, steps and gates")
            .ProducesProblem(404);
        api.MapPost("/chains/{name}/rehearsal", Rehearse)
            .WithName("rehearseChain")
            .WithSummary("Plays a chain with made-up outcomes; nothing of it is done")
            .Produces<RehearsalResult>()
            .ProducesProblem(404)
            .ProducesProblem(422);
        api.MapPost("/workspace", Push)
            .WithName("pushWorkspace")
            .WithSummary("Checks and stores a workspace; with errors nothing is stored")
            .ProducesProblem(422);
        api.MapPost("/check", Check).WithName("checkWorkspace").WithSummary("Checks a workspace and stores nothing");
    }

    static IReadOnlyList<ChainSummary> List(
        DraftDesk desk,
        ICatalogue catalogue,
        IRunRegister register,
        ReleasedChains read
    )
    {
        var drafts = desk.All().ToDictionary(d => d.Chain);
        var numbers = catalogue.LatestReleases();
        var released = catalogue.Chains();
        var runs = register.Newest(released.Select(r => r.Chain).Concat(drafts.Keys), 10);
        var chains = released.Select(r => new ChainSummary(
            r.Chain,
            r.Title,
            r.Hash,
            numbers.GetValueOrDefault(r.Chain)?.Number,
            r.Pushed,
            read.ReadableOf(r.Hash)?.AllSteps.Count() ?? 0,
            Head(drafts.GetValueOrDefault(r.Chain)),
            LastRuns(r.Chain)
        ));
        var known = released.Select(r => r.Chain).ToHashSet();
        var onlyDrafts = drafts
            .Values.Where(d => !known.Contains(d.Chain))
            .Select(d =>
                desk.Check(d.Chain, d.Source).Chain is var chain
                    ? new ChainSummary(
                        d.Chain,
                        chain?.Title,
                        null,
                        null,
                        null,
                        chain?.AllSteps.Count() ?? 0,
                        Head(d),
                        LastRuns(d.Chain)
                    )
                    : null!
            );
        return [.. chains.Concat(onlyDrafts).OrderBy(c => c.Name, StringComparer.Ordinal)];

        IReadOnlyList<RunSummary> LastRuns(string chain) => [.. runs[chain].Select(JsonViews.Summary)];
    }

    static DraftHead? Head(Draft? draft) => draft is null ? null : new(draft.Version, draft.Author, draft.Saved);

    static ChainDetail Get(string name, DraftDesk drafts, ReleasedChains chains, WorkspaceBook workspace)
    {
        var (number, release) = drafts.Numbered(name, null);
        return ChainViews.Detail(chains.Of(release.Hash), release, number.Number, [.. workspace.ProfileNames]);
    }

    static IResult Rehearse(
        string name,
        RehearsalRequest request,
        DraftDesk drafts,
        WorkspaceBook workspace,
        EngineOptions options,
        TimeProvider time,
        CancellationToken cancel
    )
    {
        var chain = request.Source is { } source ? Draft(name, source, drafts) : workspace.LatestChain(name);
        using var limit = CancellationTokenSource.CreateLinkedTokenSource(cancel);
        limit.CancelAfter(options.Bounds.CheckTime);
        var result = RehearsalViews.Rehearse(
            chain,
            called => called == new CalledChain(name, null) ? chain : workspace.FindChain(called),
            request,
            workspace.ProfileValues(request.Profile),
            time.GetUtcNow(),
            limit.Token
        );
        return BoundedJson.Of(result, options.Bounds.AnswerSize, "the rehearsal");
    }

    static Core.Chains.Chain Draft(string name, string source, DraftDesk drafts)
    {
        var draft = drafts.Check(name, source);
        return draft.HasErrors ? throw new InvalidDraftException(draft.Problems) : draft.Chain!;
    }

    static async Task<Ok<PushResult>> Push(
        PushRequest request,
        WorkspaceBook book,
        ICatalogue catalogue,
        HttpContext http
    )
    {
        var workspace = await book.PushAsync(Base64.Read(request.Files), Caller.Of(http).Name, request.Note);
        if (workspace.HasErrors)
            throw new InvalidWorkspaceException(workspace.Problems);
        var pushed = workspace.Chains.Select(c => new PushedChain(c.Name, catalogue.Latest(c.Name)!.Hash)).ToList();
        return TypedResults.Ok(new PushResult(pushed, [.. workspace.Problems.Select(ProblemViews.Of)]));
    }

    static IReadOnlyList<ProblemInfo> Check(PushRequest request, WorkspaceBook book) =>
        [.. book.Read(Base64.Read(request.Files)).Problems.Select(ProblemViews.Of)];
}

/// <summary>A workspace with errors was pushed.</summary>
sealed class InvalidWorkspaceException(IReadOnlyList<Problem> problems) : Exception("the workspace has errors")
{
    public IReadOnlyList<Problem> Problems { get; } = problems;
}
