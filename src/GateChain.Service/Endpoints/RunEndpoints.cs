using GateChain.Client;
using GateChain.Core.Access;
using GateChain.Core.Chains;
using GateChain.Core.Running;
using GateChain.Core.Running.Events;
using GateChain.Core.Running.State;
using GateChain.Core.Values;
using GateChain.Engine.Basics;
using GateChain.Engine.Live;
using GateChain.Engine.Reading;
using GateChain.Engine.Runs;
using GateChain.Engine.Slots;
using GateChain.Engine.Workspaces;
using GateChain.Service.Access;
using GateChain.Service.Views;
using GateChain.Storage;
using Microsoft.AspNetCore.Http.HttpResults;

namespace GateChain.Service.Endpoints;

/// <summary>Runs: start, look at, pause, decide, stop, resume, restart.</summary>
static class RunEndpoints
{
    public static void Map(RouteGroupBuilder api)
    {
        api.MapGet("/runs", List)
            .Needs(Permission.See)
            .WithName("listRuns")
            .WithSummary("Runs, newest first; page with before");
        api.MapPost("/runs", Start)
            .WithName("startRun")
            .Needs(Permission.Operate)
            .WithSummary("Starts a run")
            .ProducesProblem(404)
            .ProducesProblem(422);
        api.MapGet("/runs/{id:long}/trail", Trail)
            .WithName("getTrail")
            .Needs(Permission.See, Where.Run)
            .WithSummary("The calls that lead to a run, outermost first; none for a run that is no child")
            .ProducesProblem(404);
        api.MapGet("/runs/{id:long}/iterations", Iterations)
            .WithName("listIterations")
            .Needs(Permission.See, Where.Run)
            .WithSummary("A page of an each's iterations or a repeat's rounds, of a name or state; with counts")
            .ProducesProblem(404);
        api.MapGet("/runs/{id:long}/progress", async (long id, ProgressReader progress) =>
                (await progress.OfAsync(id)).ToDictionary(
                    p => p.Key,
                    p => new ProgressInfo(p.Value.Rows, p.Value.Bytes, p.Value.Share, Math.Round(p.Value.PerSecond, 1))
                )
            )
            .WithName("getProgress")
            .Needs(Permission.See, Where.Run)
            .WithSummary("How far the steps have got that are at work, by path; those that tell nothing are left out");
        api.MapPost("/runs/{id:long}/plan", Plan)
            .WithName("planResume")
            .Needs(Permission.Operate, Where.Run)
            .WithSummary("What a resume would run again, continue and keep; nothing is started")
            .ProducesProblem(404)
            .ProducesProblem(409)
            .ProducesProblem(422);
        api.MapPost("/runs/{id:long}/recover", Recover)
            .WithName("recoverRun")
            .Needs(Permission.Operate, Where.Run)
            .WithSummary("Tries again to continue a run that is stranded")
            .ProducesProblem(404)
            .ProducesProblem(409)
            .ProducesProblem(503);
        api.MapPost("/runs/{id:long}/gone", Gone)
            .WithName("confirmGone")
            .Needs(Permission.Operate, Where.Run)
            .WithSummary("Says that what a lost attempt of a step had started is gone, so that the step continues")
            .ProducesProblem(404)
            .ProducesProblem(409);
        api.MapPost("/runs/{id:long}/hold", AnswerHold)
            .WithName("answerHold")
            .Needs(Permission.Operate, Where.Run)
            .WithSummary("Lets a step through that its guard holds, or asks the guard to look now")
            .ProducesProblem(404)
            .ProducesProblem(409)
            .ProducesProblem(422);
        api.MapPost("/runs/{id:long}/pause", Pause)
            .WithName("pauseRun")
            .Needs(Permission.Operate, Where.Run)
            .WithSummary("Pauses a run: what runs, runs to its end; nothing new starts")
            .ProducesProblem(404)
            .ProducesProblem(409);
        api.MapPost("/runs/{id:long}/answer", Answer)
            .WithName("answerRun")
            .Needs(Permission.Operate, Where.Run)
            .WithSummary("Decides about a step that paused its run")
            .ProducesProblem(404)
            .ProducesProblem(409)
            .ProducesProblem(422);
        api.MapPost("/runs/{id:long}/cancel", Cancel)
            .WithName("cancelStep")
            .Needs(Permission.Operate, Where.Run)
            .WithSummary("Ends one step, or one iteration of a loop; the rest of the run goes on")
            .ProducesProblem(404)
            .ProducesProblem(409)
            .ProducesProblem(422);
        api.MapPost("/runs/{id:long}/restart", Restart)
            .WithName("restartRun")
            .Needs(Permission.Operate, Where.Run)
            .WithSummary("Starts a new run with the same parameters")
            .ProducesProblem(404)
            .ProducesProblem(409)
            .ProducesProblem(422);
        api.MapGet("/lanes", Lanes)
            .Needs(Permission.See)
            .WithName("listLanes")
            .WithSummary("Lanes: who is in them, and who waits");
        api.MapPost("/runs/{id:long}/stop", Stop)
            .WithName("stopRun")
            .Needs(Permission.Operate, Where.Run)
            .WithSummary("Stops a run")
            .ProducesProblem(404)
            .ProducesProblem(409);
        api.MapPost("/runs/{id:long}/resume", Resume)
            .WithName("resumeRun")
            .Needs(Permission.Operate, Where.Run)
            .WithSummary("Resumes from the checkpoint in a new leg")
            .ProducesProblem(404)
            .ProducesProblem(409)
            .ProducesProblem(422);
    }

    static async Task<IReadOnlyList<RunSummary>> List(
        IRunStore store,
        Visitor visitor,
        string? chain = null,
        string? state = null,
        long? before = null,
        int limit = 50,
        long? parent = null,
        string? trigger = null,
        DateTimeOffset? from = null,
        DateTimeOffset? to = null,
        string? text = null
    ) =>
        state is null or "queued" or "running" or "paused" or "succeeded" or "failed" or "stopped"
            ?
            [
                .. (
                    await store.ListAsync(
                        new(chain, state, before, limit, parent, trigger, from, to, text) { Areas = visitor.Seen }
                    )
                ).Select(JsonViews.Summary),
            ]
            : throw new RefusedException(
                RefusalKind.Invalid,
                $"“{state}” is no state of a run; states are queued, running, paused, succeeded, failed and stopped"
            );

    static async Task<Created<RunSummary>> Start(
        StartRequest request,
        RunStarter runs,
        IRunStore store,
        AreaLocator areas,
        Visitor visitor
    )
    {
        visitor.Must(Permission.Operate, await areas.OfChainAsync(request.Chain), () =>
            AreaLocator.NoChain(request.Chain)
        );
        var id = await runs.StartAsync(request.Chain, JsonViews.Values(request.Params), request.Profile, visitor.Actor);
        return TypedResults.Created($"/api/runs/{id}", await store.SummaryAsync(id));
    }

    static async Task<IReadOnlyList<TrailInfo>> Trail(long id, IRunStore store, Visitor visitor)
    {
        var run = await store.FindAsync(id) ?? throw RefusedException.NoRun(id);
        var calls = new List<TrailInfo>();
        while (run?.Parent is { } parent)
        {
            run = await store.FindAsync(parent.Run);
            // What calls from elsewhere does not exist for them.
            if (run is not null && !visitor.Sees(run.Area))
                break;
            calls.Insert(0, new(parent.Run, run?.Chain, parent.Step));
        }
        return calls;
    }

    internal static StepState Find(RunState run, string path) =>
        run.Find(path) ?? throw RefusedException.NoStep(run, path);

    static async Task<RunSummary> Stop(long id, StopRequest request, RunCommands runs, IRunStore store, Visitor visitor)
    {
        await runs.StopAsync(id, visitor.Actor, request.Message);
        return await store.SummaryAsync(id);
    }

    static async Task<RunSummary> Resume(
        long id,
        ResumeRequest request,
        RunCommands runs,
        IRunStore store,
        Visitor visitor
    )
    {
        await runs.ResumeAsync(id, visitor.Actor, Order(request));
        return await store.SummaryAsync(id);
    }

    static async Task<PlanInfo> Plan(long id, ResumeRequest request, RunCommands runs)
    {
        var (plan, leg, kept) = await runs.PlanAsync(id, Order(request));
        return new(leg, plan.Reset, plan.Reopened, plan.Redo, kept);
    }

    static async Task<RunSummary> Recover(long id, RunRecovery recovery, IRunStore store)
    {
        await recovery.RecoverAsync(id);
        return await store.SummaryAsync(id);
    }

    static async Task<RunSummary> Gone(long id, GoneRequest request, RunCommands runs, IRunStore store, Visitor visitor)
    {
        await runs.ConfirmGoneAsync(id, request.Step, visitor.Actor);
        return await store.SummaryAsync(id);
    }

    static async Task<RunSummary> AnswerHold(
        long id,
        HoldRequest request,
        RunCommands runs,
        IRunStore store,
        Visitor visitor
    )
    {
        var answer = request.Answer switch
        {
            "let-through" => HoldAnswer.LetThrough,
            "look" => HoldAnswer.Look,
            var other => throw new RefusedException(
                RefusalKind.Invalid,
                $"“answer” is one of let-through, look, and this is “{other}”"
            ),
        };
        await runs.AnswerHoldAsync(id, request.Step, answer, request.Message, visitor.Actor);
        return await store.SummaryAsync(id);
    }

    static ResumeOptions Order(ResumeRequest request) =>
        new()
        {
            Set = JsonViews.Values(request.Set),
            From = request.From ?? [],
            Skip = request.Skip ?? [],
            Settle = JsonViews.Values(request.Settle),
            Release = request.Release,
        };

    static async Task<RunSummary> Pause(
        long id,
        PauseRequest request,
        RunCommands runs,
        IRunStore store,
        Visitor visitor
    )
    {
        await runs.PauseAsync(id, visitor.Actor, request.Message);
        return await store.SummaryAsync(id);
    }

    static async Task<RunSummary> Answer(
        long id,
        AnswerRequest request,
        RunCommands runs,
        IRunStore store,
        Visitor visitor
    )
    {
        if (
            !Enum.TryParse<PauseAnswer>(request.Answer, ignoreCase: true, out var answer)
            || !request.Answer.All(char.IsAsciiLetter)
        )
        {
            throw new RefusedException(
                RefusalKind.Invalid,
                $"“{request.Answer}” is no answer; answers are retry, anew, skip, settle, fail and stop"
            );
        }

        var outputs = Value.Map(DictionaryMap.Of(JsonViews.Values(request.Outputs)));
        await runs.AnswerAsync(id, request.Step, answer, outputs, request.Message, visitor.Actor);
        return await store.SummaryAsync(id);
    }

    static async Task<RunSummary> Cancel(
        long id,
        CancelRequest request,
        RunCommands runs,
        IRunStore store,
        Visitor visitor
    )
    {
        var outcome = request.As switch
        {
            "failed" => Outcome.Failed,
            "skipped" => Outcome.Skipped,
            "succeeded" => Outcome.Succeeded,
            var other => throw new RefusedException(
                RefusalKind.Invalid,
                $"“as” is one of failed, skipped, succeeded, and this is “{other}”"
            ),
        };
        var outputs = Value.Map(DictionaryMap.Of(JsonViews.Values(request.Outputs)));
        await runs.CancelAsync(id, request.Step, outcome, outputs, request.Message, visitor.Actor);
        return await store.SummaryAsync(id);
    }

    static async Task<Created<RunSummary>> Restart(
        long id,
        RestartRequest request,
        RunStarter runs,
        IRunStore store,
        AreaLocator areas,
        Visitor visitor
    )
    {
        // The new run lies where its chain lies by now.
        var chain = (await store.FindAsync(id))?.Chain ?? "";
        visitor.Must(Permission.Operate, await areas.OfChainAsync(chain), () => AreaLocator.NoChain(chain));
        var run = await runs.RestartAsync(id, request.Latest, visitor.Actor);
        return TypedResults.Created($"/api/runs/{run}", await store.SummaryAsync(run));
    }

    static Task<IterationPage> Iterations(
        long id,
        string path,
        RunReader runs,
        string? text = null,
        string? state = null,
        int from = 0,
        int limit = 100
    ) =>
        runs.ReadAsync(id, (run, _) =>
            RunViews.Iterations(Find(run, path), text, state, Math.Max(0, from), Math.Clamp(limit, 1, 500))
        );

    static async Task<IReadOnlyList<LaneInfo>> Lanes(
        ISlots slots,
        WorkspaceService workspace,
        IRunStore store,
        Visitor visitor
    )
    {
        var lanes = await slots.LanesAsync();
        var runs = await store.FindAsync([
            .. lanes.SelectMany(l => l.Holders.Concat(l.Waiting)).Select(s => s.Run).Distinct(),
        ]);
        IReadOnlyList<LaneSeatInfo> Shown(IEnumerable<Seat> seats) =>
            [.. seats.Where(s => runs.TryGetValue(s.Run, out var run) && visitor.Sees(run.Area)).Select(Seat)];
        // Of lanes that are for others only, not even the name is told.
        var names = visitor.Seen?.SelectMany(a => workspace.In(a).Lanes).ToHashSet();
        return
        [
            .. lanes
                .Where(l => names is null || names.Contains(l.Slot.Name))
                .Select(l => new LaneInfo(l.Slot.Name, l.Width, Shown(l.Holders), Shown(l.Waiting))),
        ];
    }

    static LaneSeatInfo Seat(Seat seat) => new(seat.Run, seat.Step!);
}
