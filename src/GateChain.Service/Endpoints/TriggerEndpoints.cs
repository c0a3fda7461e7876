using System.Text.Json;
using GateChain.Client;
using GateChain.Core.Identity;
using GateChain.Core.Running;
using GateChain.Core.Values;
using GateChain.Engine.Basics;
using GateChain.Engine.Runs;
using GateChain.Engine.Triggers;
using GateChain.Engine.Workspaces;
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
            .WithSummary("Triggers: on or off, when they fire next, and what became of their latest fires");
        api.MapPost(
                "/triggers/{name}/on",
                (string name, SwitchRequest? request, TriggerIndex index, HttpContext http) =>
                    index.SwitchAsync(name, on: true, request?.Missed ?? false, Caller.Of(http))
            )
            .WithName("switchOn")
            .WithSummary("Switches a trigger on")
            .ProducesProblem(404);
        api.MapPost("/triggers/{name}/off", (string name, TriggerIndex index, HttpContext http) =>
                index.SwitchAsync(name, on: false, missed: false, Caller.Of(http))
            )
            .WithName("switchOff")
            .WithSummary("Switches a trigger off; due times that pass meanwhile are passed over")
            .ProducesProblem(404);
        api.MapPost("/triggers/{name}/fire", Fire)
            .WithName("fire")
            .WithSummary("Fires a trigger by hand, also one that is off")
            .ProducesProblem(404)
            .ProducesProblem(422);
        api.MapGet("/triggers/{name}/next", Next)
            .WithName("nextTimes")
            .WithSummary("The next due times of a schedule")
            .ProducesProblem(404)
            .ProducesProblem(422);
        api.MapGet("/triggers/files", Files).WithName("triggerFiles").WithSummary("The files that declare triggers");
        api.MapPut("/triggers/files", Save)
            .WithName("saveTriggers")
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
                    DateOnly? from = null
                ) =>
                    WeekViews.OfAsync(
                        from ?? DateOnly.FromDateTime(time.GetUtcNow().UtcDateTime),
                        time.GetUtcNow(),
                        index,
                        workspace,
                        store,
                        runs
                    )
            )
            .WithName("weekOfStarts")
            .WithSummary("Seven days of starts: those that were, those that are planned, and days off");
        api.MapGet("/fires", Fires).WithName("listFires").WithSummary("Fires, newest first; page with before");
        api.MapGet("/holds", (TriggerIndex index) =>
                index.Holds.Select(h => new StartHoldInfo(h.Area, h.By, h.At, h.Why))
            )
            .WithName("listHolds")
            .WithSummary("Folders in which nothing starts by itself");
        api.MapPut("/holds", (StartHoldRequest request, TriggerIndex index, HttpContext http) =>
                index.HoldAsync(new Area(request.Folder), request.On, request.Why, Caller.Of(http))
            )
            .WithName("setHold")
            .WithSummary("Says that nothing starts by itself in a folder, or that it does again");
        api.MapPost("/triggers/{name}/backfill", Backfill)
            .WithName("backfill")
            .WithSummary("Fires for the due times of a span that have no run yet; preview tells them only")
            .ProducesProblem(404)
            .ProducesProblem(409)
            .ProducesProblem(422);
        api.MapGet("/backfills", async (BackfillService service) =>
                (IReadOnlyList<BackfillInfo>)[.. (await service.ListAsync()).Select(TriggerViews.Of)]
            )
            .WithName("listBackfills")
            .WithSummary("Backfills and how far they have got, newest first");
        api.MapGet("/backfills/{number:long}", async (long number, BackfillService service) =>
                TriggerViews.Of(await service.ProgressAsync(number))
            )
            .WithName("getBackfill")
            .WithSummary("A backfill and how far it has got")
            .ProducesProblem(404);
        api.MapPost("/backfills/{number:long}/{action:regex(^(pause|resume|stop)$)}", Change)
            .WithName("changeBackfill")
            .WithSummary("Pauses, resumes or stops a backfill; runs that have started continue")
            .ProducesProblem(404)
            .ProducesProblem(409);
        api.MapGet("/chains/{name}/kept", Kept)
            .ProducesProblem(404)
            .WithName("listKept")
            .WithSummary("What a chain keeps from run to run, by profile");
        api.MapPut("/chains/{name}/kept", Keep)
            .WithName("setKept")
            .WithSummary("Sets or resets what a chain keeps")
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

    static async Task<IReadOnlyList<TriggerInfo>> List(
        TriggerService service,
        ITriggerStore store,
        IRunStore runs,
        string? chain = null
    )
    {
        var shown = new List<TriggerInfo>();
        foreach (var trigger in await service.ListAsync())
        {
            if (chain is not null && trigger.Trigger.Definition.Chain != chain)
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
            await store.ListAsync(new(trigger, wanted, since, run, backfill, before, limit)),
            runs
        );
    }

    static async Task<BackfillInfo> Backfill(
        string name,
        BackfillRequest request,
        BackfillService service,
        TimeProvider time,
        HttpContext http
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
                await service.ProgressAsync((await service.BeginAsync(name, order, Caller.Of(http))).Number)
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
            Caller.Of(http).Name,
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

    static async Task<BackfillInfo> Change(long number, string action, BackfillService service, HttpContext http)
    {
        var state = action switch
        {
            "pause" => BackfillState.Paused,
            "resume" => BackfillState.Running,
            _ => BackfillState.Stopped,
        };
        await service.SetStateAsync(number, state, Caller.Of(http));
        return TriggerViews.Of(await service.ProgressAsync(number));
    }

    static async Task Keep(
        string name,
        KeptRequest request,
        KeptValueService kept,
        WorkspaceService workspace,
        HttpContext http
    ) =>
        await kept.SetAsync(
            await workspace.LatestChainAsync(name),
            request.Profile,
            JsonViews.Values(request.Set),
            request.Reset ?? [],
            Caller.Of(http)
        );

    static async Task<IReadOnlyList<TriggerFile>> Files(IFileStore files)
    {
        var found = (await files.AllAsync())
            .Where(f => Path.GetFileName(f.Path) == "triggers.yaml")
            .Select(f => new TriggerFile(f.Path, f.Version, f.Content!))
            .ToList();
        return found.Count > 0 ? found : [new("triggers.yaml", 0, "")];
    }

    static async Task<TriggerFileAnswer> Save(
        TriggerFileRequest request,
        TriggerFileService service,
        TimeProvider time,
        HttpContext http
    )
    {
        var (problems, triggers, version) = await service.SaveAsync(
            request.Path,
            request.Content,
            request.Seen,
            Caller.Of(http)
        );
        return new(
            [.. problems.Select(ProblemViews.Of)],
            [.. triggers.Select(t => TriggerViews.Sketch(t, time.GetUtcNow()))],
            version
        );
    }
}
