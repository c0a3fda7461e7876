using System.Text.Json;
using GateChain.Client;
using GateChain.Core.Access;
using GateChain.Core.Identity;
using GateChain.Core.Running;
using GateChain.Core.Values;
using GateChain.Engine.Basics;
using GateChain.Engine.Runs;
using GateChain.Engine.Triggers;
using GateChain.Engine.Workspaces;
using GateChain.Service.Access;
using GateChain.Service.Views;
using GateChain.Storage;

namespace GateChain.Service.Endpoints;

/// <summary>What starts chains by itself: triggers, fires, holds, backfills, kept values.</summary>
static class TriggerEndpoints
{
    const int FiresInList = 5;

    public static void Map(RouteGroupBuilder api)
    {
        api.MapGet("/triggers", List)
            .WithName("listTriggers")
            .Needs(Permission.See)
            .WithSummary("Triggers: on or off, when they fire next, and what became of their latest fires");
        api.MapPost("/triggers/{name}/on", (string name, SwitchRequest? request, TriggerIndex index, Visitor visitor) =>
                index.SwitchAsync(name, on: true, request?.Missed ?? false, visitor.Actor)
            )
            .WithName("switchOn")
            .Needs(Permission.Operate, Where.Trigger)
            .WithSummary("Switches a trigger on")
            .ProducesProblem(404);
        api.MapPost("/triggers/{name}/off", (string name, TriggerIndex index, Visitor visitor) =>
                index.SwitchAsync(name, on: false, missed: false, visitor.Actor)
            )
            .WithName("switchOff")
            .Needs(Permission.Operate, Where.Trigger)
            .WithSummary("Switches a trigger off; due times that pass meanwhile are passed over")
            .ProducesProblem(404);
        api.MapPost("/triggers/{name}/fire", Fire)
            .WithName("fire")
            .Needs(Permission.Operate, Where.Trigger)
            .WithSummary("Fires a trigger by hand, also one that is off")
            .ProducesProblem(404)
            .ProducesProblem(422);
        api.MapGet("/triggers/{name}/next", Next)
            .WithName("nextTimes")
            .Needs(Permission.See, Where.Trigger)
            .WithSummary("The next due times of a schedule")
            .ProducesProblem(404)
            .ProducesProblem(422);
        api.MapGet("/triggers/files", Files)
            .Needs(Permission.See)
            .WithName("triggerFiles")
            .WithSummary("The files that declare triggers");
        api.MapPut("/triggers/files", Save)
            .WithName("saveTriggers")
            .Needs(Permission.Design)
            .WithSummary(
                "Checks a file of triggers, and saves it when it has no errors and says which version it is of"
            )
            .ProducesProblem(409);
        api.MapGet(
                "/triggers/week",
                (
                    TriggerIndex index,
                    WorkspaceService workspace,
                    ITriggerStore store,
                    IRunStore runs,
                    TimeProvider time,
                    Visitor visitor,
                    DateOnly? from = null
                ) =>
                    WeekViews.OfAsync(
                        from ?? DateOnly.FromDateTime(time.GetUtcNow().UtcDateTime),
                        time.GetUtcNow(),
                        index,
                        workspace,
                        store,
                        runs,
                        visitor
                    )
            )
            .WithName("weekOfStarts")
            .Needs(Permission.See)
            .WithSummary("Seven days of starts: those that were, those that are planned, and days off");
        api.MapGet("/fires", Fires)
            .Needs(Permission.See)
            .WithName("listFires")
            .WithSummary("Fires, newest first; page with before");
        api.MapGet("/holds", (TriggerIndex index, Visitor visitor) =>
                index.Holds.Where(h => IsSeen(visitor, h)).Select(h => new StartHoldInfo(h.Area, h.By, h.At, h.Why))
            )
            .WithName("listHolds")
            .Needs(Permission.See)
            .WithSummary("Folders in which nothing starts by itself");
        api.MapPut("/holds", (StartHoldRequest request, TriggerIndex index, Visitor visitor) =>
            {
                var folder = AreaLocator.Read(request.Folder);
                visitor.Must(Permission.Operate, folder, () => NoFolder(request.Folder));
                return index.HoldAsync(folder, request.On, request.Why, visitor.Actor);
            })
            .WithName("setHold")
            .Needs(Permission.Operate)
            .WithSummary("Says that nothing starts by itself in a folder, or that it does again");
        api.MapPost("/triggers/{name}/backfill", Backfill)
            .WithName("backfill")
            .Needs(Permission.Operate, Where.Trigger)
            .WithSummary("Fires for the due times of a span that have no run yet; preview tells them only")
            .ProducesProblem(404)
            .ProducesProblem(409)
            .ProducesProblem(422);
        api.MapGet("/backfills", async (BackfillService service, AreaLocator areas, Visitor visitor) =>
                (IReadOnlyList<BackfillInfo>)
                    [
                        .. (await service.ListAsync())
                            .Select(TriggerViews.Of)
                            .Where(b => visitor.Sees(areas.OfTrigger(b.Trigger) ?? Area.Root)),
                    ]
            )
            .WithName("listBackfills")
            .Needs(Permission.See)
            .WithSummary("Backfills and how far they have got, newest first");
        api.MapGet("/backfills/{number:long}", async (long number, BackfillService service) =>
                TriggerViews.Of(await service.ProgressAsync(number))
            )
            .WithName("getBackfill")
            .Needs(Permission.See, Where.Backfill)
            .WithSummary("A backfill and how far it has got")
            .ProducesProblem(404);
        api.MapPost("/backfills/{number:long}/{action:regex(^(pause|resume|stop)$)}", Change)
            .WithName("changeBackfill")
            .Needs(Permission.Operate, Where.Backfill)
            .WithSummary("Pauses, resumes or stops a backfill; runs that have started continue")
            .ProducesProblem(404)
            .ProducesProblem(409);
        api.MapGet("/chains/{name}/kept", Kept)
            .ProducesProblem(404)
            .WithName("listKept")
            .Needs(Permission.See, Where.Chain)
            .WithSummary("What a chain keeps from run to run, by profile");
        api.MapPut("/chains/{name}/kept", Keep)
            .WithName("setKept")
            .Needs(Permission.Operate, Where.Chain)
            .WithSummary("Sets or resets what a chain keeps")
            .ProducesProblem(404)
            .ProducesProblem(422);
        api.MapGet("/chains/{name}/positions", ListPositions)
            .WithName("listPositions")
            .Needs(Permission.See, Where.Chain)
            .WithSummary("How far steps of a chain have got in what they read, by profile and name");
        api.MapPut("/chains/{name}/positions", SetPosition)
            .WithName("setPosition")
            .Needs(Permission.Operate, Where.Chain)
            .WithSummary("Sets how far a step has got, or lets it begin at the start")
            .ProducesProblem(404)
            .ProducesProblem(422);
    }

    static async Task<IReadOnlyList<KeptInfo>> Kept(string name, KeptValueService kept, WorkspaceService workspace)
    {
        var all = await kept.ListAsync(name);
        // What a chain that is gone has kept is shown; a chain that never was is told.
        if (all.Count == 0)
            await workspace.LatestChainAsync(name);
        return [.. all.Select(TriggerViews.Of)];
    }

    static async Task<IReadOnlyList<PositionInfo>> ListPositions(string name, PositionService positions) =>
        [.. (await positions.ListAsync(name)).Select(TriggerViews.Of)];

    static async Task SetPosition(
        string name,
        PositionRequest request,
        PositionService positions,
        WorkspaceService workspace,
        Visitor visitor
    )
    {
        var chain = await workspace.LatestChainAsync(name);
        await positions.SetAsync(
            chain.Name,
            request.Profile,
            request.Name,
            request.Value is { } value ? ValueJson.Read(value) : Value.Null,
            visitor.Actor
        );
    }

    static async Task<IReadOnlyList<TriggerInfo>> List(
        TriggerService service,
        ITriggerStore store,
        IRunStore runs,
        Visitor visitor,
        string? chain = null
    )
    {
        var shown = new List<TriggerInfo>();
        foreach (var trigger in await service.ListAsync())
        {
            var definition = trigger.Trigger.Definition;
            if (!visitor.Sees(definition.Area) || (chain is not null && definition.Chain != chain))
                continue;
            var fires = await store.ListAsync(new(trigger.Trigger.Name, Limit: FiresInList));
            shown.Add(TriggerViews.Of(trigger, await TriggerViews.OfAsync(fires, runs)));
        }
        return shown;
    }

    static async Task<FireAnswer> Fire(string name, FireRequest request, TriggerService service)
    {
        var result = await service.FireAsync(
            name,
            request.Event is { ValueKind: not JsonValueKind.Null } given ? ValueJson.Read(given) : null,
            request.Again
        );
        return new(TriggerViews.Word(result.Fate), result.Run, result.Why);
    }

    static IEnumerable<DueInfo> Next(
        string name,
        TriggerService service,
        int count = 5,
        DateTimeOffset? after = null
    ) => service.Next(name, count, after).Select(n => new DueInfo(n.Due, n.At));

    static async Task<IReadOnlyList<FireInfo>> Fires(
        ITriggerStore store,
        IRunStore runs,
        TriggerIndex index,
        Visitor visitor,
        string? trigger = null,
        string? fate = null,
        DateTimeOffset? since = null,
        long? run = null,
        long? backfill = null,
        long? before = null,
        int limit = 50
    )
    {
        FireFate? wanted = fate switch
        {
            null => null,
            "started" => FireFate.Started,
            "passed-over" => FireFate.PassedOver,
            "refused" => FireFate.Refused,
            "late" => FireFate.Late,
            _ => throw new RefusedException(
                RefusalKind.Invalid,
                $"“{fate}” becomes of no fire: started, passed-over, refused or late"
            ),
        };
        return await TriggerViews.OfAsync(
            await store.ListAsync(
                new(trigger, wanted, since, run, backfill, before, limit)
                {
                    Triggers = TriggerViews.SeenNames(index, visitor),
                }
            ),
            runs
        );
    }

    static async Task<BackfillInfo> Backfill(
        string name,
        BackfillRequest request,
        BackfillService service,
        TimeProvider time,
        Visitor visitor
    )
    {
        var order = new BackfillOptions(
            request.From,
            request.To,
            request.Parallel,
            request.NewestFirst,
            request.Again switch
            {
                "none" => BackfillAgain.None,
                "failed" => BackfillAgain.Failed,
                "all" => BackfillAgain.All,
                var other => throw new RefusedException(
                    RefusalKind.Invalid,
                    $"again is none, failed or all, and not “{other}”"
                ),
            },
            request.Keep
        );
        if (!request.Preview)
        {
            return TriggerViews.Of(
                await service.ProgressAsync((await service.BeginAsync(name, order, visitor.Actor)).Number)
            );
        }
        var times = await service.PreviewAsync(name, order);
        return new(
            0,
            name,
            request.From,
            request.To,
            request.Parallel,
            "preview",
            visitor.Actor.Name,
            time.GetUtcNow(),
            times.Count,
            0,
            0,
            0,
            0,
            [],
            [.. times.Take(1000).Select(t => t.Due)]
        );
    }

    static async Task<BackfillInfo> Change(long number, string action, BackfillService service, Visitor visitor)
    {
        var state = action switch
        {
            "pause" => BackfillState.Paused,
            "resume" => BackfillState.Running,
            _ => BackfillState.Stopped,
        };
        await service.SetStateAsync(number, state, visitor.Actor);
        return TriggerViews.Of(await service.ProgressAsync(number));
    }

    static async Task Keep(
        string name,
        KeptRequest request,
        KeptValueService kept,
        WorkspaceService workspace,
        Visitor visitor
    ) =>
        await kept.SetAsync(
            await workspace.LatestChainAsync(name),
            request.Profile,
            JsonViews.Values(request.Set),
            request.Reset ?? [],
            visitor.Actor
        );

    static async Task<IReadOnlyList<TriggerFile>> Files(IFileStore files, Visitor visitor)
    {
        var found = (await files.AllAsync())
            .Where(f => Path.GetFileName(f.Path) == "triggers.yaml" && visitor.Sees(Area.OfFile(f.Path)))
            .Select(f => new TriggerFile(f.Path, f.Version, f.Content!))
            .ToList();
        return found.Count > 0 ? found : [new((visitor.Seen?[0] ?? Area.Root).File("triggers.yaml"), 0, "")];
    }

    // A hold around one's folder holds what lies in it.
    static bool IsSeen(Visitor visitor, Hold hold) =>
        visitor.Sees(new(hold.Area)) || visitor.Seen?.Any(a => new Area(hold.Area).Holds(a)) == true;

    static RefusedException NoFolder(string folder) => new(RefusalKind.NotFound, $"there is no folder “{folder}”");

    static async Task<TriggerFileAnswer> Save(
        TriggerFileRequest request,
        TriggerFileService service,
        PushPermits permits,
        TimeProvider time,
        Visitor visitor
    )
    {
        await permits.HoldFileAsync(request.Path, visitor);
        var (problems, triggers, version) = await service.SaveAsync(
            request.Path,
            request.Content,
            request.Seen,
            visitor.Actor
        );
        return new(
            [.. problems.Select(ProblemViews.Of)],
            [.. triggers.Select(t => TriggerViews.Sketch(t, time.GetUtcNow()))],
            version
        );
    }
}
