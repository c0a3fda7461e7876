using GateChain.Client;
using GateChain.Core.Access;
using GateChain.Core.Chains;
using GateChain.Core.Identity;
using GateChain.Core.Problems;
using GateChain.Core.Running.State;
using GateChain.Core.Values;
using GateChain.Engine.Basics;
using GateChain.Engine.Drafts;
using GateChain.Engine.Lineage;
using GateChain.Engine.Reading;
using GateChain.Engine.Rehearsals;
using GateChain.Engine.Releases;
using GateChain.Engine.Runs;
using GateChain.Engine.Workspaces;
using GateChain.Service.Access;
using GateChain.Service.Views;
using GateChain.Storage;
using Microsoft.AspNetCore.Http.HttpResults;

namespace GateChain.Service.Endpoints;

/// <summary>Chains and workspaces.</summary>
static class ChainEndpoints
{
    public static void Map(RouteGroupBuilder api)
    {
        api.MapGet("/chains", List)
            .Needs(Permission.See)
            .WithName("listChains")
            .WithSummary("All chains with their latest runs");
        api.MapGet("/chains/{name}", Get)
            .WithName("getChain")
            .Needs(Permission.See, Where.Chain)
            .WithSummary("A chain: source, parameters, steps and gates")
            .ProducesProblem(404);
        api.MapGet("/chains/{name}/uses", (string name, ChainUses uses, Visitor visitor, AreaLocator areas) =>
                UsesAsync(name, null, uses, visitor, areas)
            )
            .WithName("listUses")
            .Needs(Permission.See, Where.Chain)
            .WithSummary("The steps that call a chain, and the triggers that start it");
        api.MapGet("/chains/{name}/consequences", ConsequencesAsync)
            .WithName("getConsequences")
            .Needs(Permission.See, Where.Chain)
            .WithSummary(
                "What hangs on a chain: who calls, starts and listens to it, reads what it writes; what it needs"
            )
            .ProducesProblem(404);
        api.MapPost(
                "/chains/{name}/uses",
                (string name, UsesRequest request, ChainUses uses, Visitor visitor, AreaLocator areas) =>
                    UsesAsync(name, request.Source, uses, visitor, areas)
            )
            .WithName("checkUses")
            .Needs(Permission.Design, Where.Chain)
            .WithSummary("The same, with what a version that is not released yet would break there")
            .ProducesProblem(422);
        api.MapPut("/chains/{name}/retirement", Retire)
            .WithName("retireChain")
            .Needs(Permission.Design, Where.Chain)
            .WithSummary("Takes a chain out of use: nothing starts it until it is brought back; its runs continue")
            .ProducesProblem(404)
            .ProducesProblem(409);
        api.MapDelete("/chains/{name}/retirement", (string name, ChainRetirement retirement, Visitor visitor) =>
                retirement.BringBackAsync(name, visitor.Actor)
            )
            .WithName("bringBackChain")
            .Needs(Permission.Design, Where.Chain)
            .WithSummary("Brings a retired chain back into use")
            .ProducesProblem(404)
            .ProducesProblem(409);
        api.MapPost("/chains/{name}/rehearsal", Rehearse)
            .WithName("rehearseChain")
            .Needs(Permission.Design, Where.NewChain)
            .WithSummary("Plays a chain with made-up outcomes; nothing of it is done")
            .Produces<RehearsalResult>()
            .ProducesProblem(404)
            .ProducesProblem(422);
        api.MapPost("/workspace", Push)
            .WithName("pushWorkspace")
            .Needs(Permission.See)
            .WithSummary(
                "Checks and stores a workspace; with errors, or when it would overwrite what was changed in the "
                    + "service, nothing is stored"
            )
            .ProducesProblem(409)
            .ProducesProblem(422);
        api.MapPost("/check", Check)
            .Needs(Permission.Design)
            .WithName("checkWorkspace")
            .WithSummary("Checks a workspace and stores nothing");
    }

    static async Task<IReadOnlyList<ChainSummary>> List(
        DraftService service,
        ICatalogue catalogue,
        IRunStore store,
        ReleasedChains read,
        Visitor visitor
    )
    {
        var drafts = (await service.AllAsync()).Where(d => visitor.Sees(d.Area)).ToDictionary(d => d.Chain);
        var numbers = await catalogue.LatestReleasesAsync();
        var released = (await catalogue.ChainsAsync()).Where(r => visitor.Sees(r.Area)).ToDictionary(r => r.Chain);
        var names = released.Keys.Union(drafts.Keys).Order(StringComparer.Ordinal).ToList();
        var runs = await store.NewestAsync(names, 10);
        var chains = new List<ChainSummary>();
        foreach (var name in names)
        {
            var draft = drafts.GetValueOrDefault(name);
            var release = released.GetValueOrDefault(name);
            var chain = release is null
                ? (await service.CheckAsync(name, draft!.Source)).Chain
                : await read.ReadableOfAsync(release.Hash);
            chains.Add(
                new(
                    name,
                    release is null ? chain?.Title : release.Title,
                    release?.Hash,
                    numbers.GetValueOrDefault(name)?.Number,
                    release?.Pushed,
                    chain?.AllSteps.Count() ?? 0,
                    Head(draft),
                    [.. runs[name].Where(r => visitor.Sees(r.Area)).Select(JsonViews.Summary)],
                    (release?.Area ?? draft!.Area).Path
                )
                {
                    Retired = ChainViews.Of(release?.Retired),
                }
            );
        }
        return chains;
    }

    static DraftHead? Head(Draft? draft) => draft is null ? null : new(draft.Version, draft.Author, draft.Saved);

    static async Task<ConsequencesInfo> ConsequencesAsync(
        string name,
        Consequences consequences,
        Visitor visitor,
        AreaLocator areas
    )
    {
        var found = await consequences.OfAsync(name, visitor.Sees);
        return new(
            await SeenAsync(found.Uses, visitor, areas),
            [.. found.Listeners.Where(t => visitor.Sees(areas.OfTrigger(t) ?? Area.Root))],
            [.. found.Readers.Select(r => new DataReaderInfo(r.Data, r.Reader.Chain, r.Reader.Step))],
            found.Connections,
            found.Calls,
            found.Lanes
        );
    }

    static async Task<IReadOnlyList<ChainUseInfo>> UsesAsync(
        string name,
        string? source,
        ChainUses uses,
        Visitor visitor,
        AreaLocator areas
    ) => await SeenAsync(await uses.OfAsync(name, source), visitor, areas);

    static async Task<IReadOnlyList<ChainUseInfo>> SeenAsync(
        IReadOnlyList<ChainUse> uses,
        Visitor visitor,
        AreaLocator areas
    )
    {
        var seen = new List<ChainUseInfo>();
        foreach (var use in uses)
        {
            var area = use.Trigger is { } trigger ? areas.OfTrigger(trigger) : await areas.OfChainAsync(use.Chain!);
            if (visitor.Sees(area ?? Area.Root))
                seen.Add(new(use.Chain, use.Step, use.Trigger, use.Breaks));
        }
        return seen;
    }

    static async Task<RetirementInfo> Retire(
        string name,
        RetireRequest request,
        ChainRetirement retirement,
        Visitor visitor
    ) => ChainViews.Of(await retirement.RetireAsync(name, request.Why, visitor.Actor))!;

    static async Task<ChainDetail> Get(
        string name,
        DraftService drafts,
        ReleasedChains chains,
        WorkspaceService workspace
    )
    {
        var (number, release) = await drafts.NumberedAsync(name, null);
        var chain = await chains.OfAsync(release.Hash);
        return ChainViews.Detail(chain, release, number.Number, [.. workspace.In(release.Area).Profiles.Names]);
    }

    static async Task<IResult> Rehearse(
        string name,
        RehearsalRequest request,
        DraftService drafts,
        WorkspaceService workspace,
        KeptValueService kept,
        RunReader runs,
        EngineOptions options,
        TimeProvider time,
        Visitor visitor,
        AreaLocator areas,
        CancellationToken cancel
    )
    {
        IReadOnlyList<KnownStep> known = [];
        if (request.Known is { } run)
        {
            await areas.MustSeeRunAsync(run, visitor);
            (request, known) = await runs.ReadAsync(run, (state, _) => AsInRun(request, state));
        }
        var chain = request.Source is { } source
            ? await DraftAsync(name, source, drafts)
            : await workspace.LatestChainAsync(name);
        var called = await workspace.CalledByAsync(chain);
        var profiles = await workspace.ProfilesOfAsync(name, called.Keys.Select(c => c.Name));
        using var limit = CancellationTokenSource.CreateLinkedTokenSource(cancel);
        limit.CancelAfter(options.Bounds.CheckTime);
        var result = RehearsalViews.Rehearse(
            chain,
            child => child == new CalledChain(name, null) ? chain : called.GetValueOrDefault(child),
            request,
            profiles,
            await kept.ValuesAsync(name, request.Profile),
            time.GetUtcNow(),
            known,
            limit.Token
        );
        return BoundedJson.Of(result, options.Bounds.AnswerSize, "the rehearsal");
    }

    // Only steps that work by themselves: what a container gives follows from what is in it.
    static (RehearsalRequest, IReadOnlyList<KnownStep>) AsInRun(RehearsalRequest request, RunState state) =>
        (
            request with
            {
                Params = request.Params is { Count: > 0 }
                    ? request.Params
                    : state.Params.Entries.ToDictionary(
                        p => ValueText.ToPlainString(p.Key),
                        p => JsonViews.Json(p.Value)
                    ),
            },
            [
                .. state
                    .AllSteps.Where(s => s.IsSettled && s.Step.Inner is null && s.Started is not null)
                    .Where(s => s.Outcome is Outcome.Succeeded or Outcome.Failed)
                    .Select(s => new KnownStep(s.Path, s.Outcome == Outcome.Failed, s.Outputs)),
            ]
        );

    static async Task<Chain> DraftAsync(string name, string source, DraftService drafts)
    {
        var draft = await drafts.CheckAsync(name, source);
        return draft.HasErrors ? throw new InvalidDraftException(draft.Problems) : draft.Chain!;
    }

    static async Task<Ok<PushResult>> Push(
        PushRequest request,
        WorkspaceService service,
        BrokenChains broken,
        ICatalogue catalogue,
        Visitor visitor
    )
    {
        var workspace = await service.PushAsync(
            Base64.Read(request.Files),
            visitor.Actor,
            request.Note,
            new(request.Known, request.Over, broken, PushPermits.For(visitor))
        );
        if (workspace.HasErrors)
            throw new InvalidWorkspaceException(workspace.Problems);
        var latest = await catalogue.LatestReleasesAsync();
        var pushed = workspace.Chains.Select(c => new PushedChain(c.Name, latest[c.Name].Hash));
        return TypedResults.Ok(new PushResult([.. pushed], [.. workspace.Problems.Select(ProblemViews.Of)]));
    }

    static async Task<IReadOnlyList<ProblemInfo>> Check(PushRequest request, WorkspaceService service) =>
        [.. (await service.ReadAsync(Base64.Read(request.Files))).Problems.Select(ProblemViews.Of)];
}

/// <summary>A workspace with errors was pushed.</summary>
sealed class InvalidWorkspaceException(IReadOnlyList<Problem> problems) : Exception("the workspace has errors")
{
    public IReadOnlyList<Problem> Problems { get; } = problems;
}
