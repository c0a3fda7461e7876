using GateChain.Client;
using GateChain.Core.Chains;
using GateChain.Core.Identity;
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
using GateChain.Service.Views;
using GateChain.Storage;
using Microsoft.AspNetCore.Http.HttpResults;

namespace GateChain.Service.Endpoints;

/// <summary>Runs: start, look at, pause, decide, stop, resume, restart.</summary>
static class RunEndpoints
{
    public static void Map(RouteGroupBuilder api)
    {
        api.MapGet("/runs", List).WithName("listRuns").WithSummary("Runs, newest first; page with before");
        api.MapPost("/runs", Start)
            .WithName("startRun")
            .WithSummary("Starts a run")
            .ProducesProblem(404)
            .ProducesProblem(422);
        api.MapGet("/runs/{id:long}", Get)
            .WithName("getRun")
            .WithSummary("A run in full, now or as it was when a leg ended")
            .ProducesProblem(404);
        api.MapGet("/runs/{id:long}/trail", Trail)
            .WithName("getTrail")
            .WithSummary("The calls that lead to a run, outermost first; none for a run that is no child")
            .ProducesProblem(404);
        api.MapGet("/runs/{id:long}/step", Step)
            .WithName("getStep")
            .WithSummary("One step of a run: why, inputs, outputs, attempts")
            .ProducesProblem(404);
        api.MapGet("/runs/{id:long}/iterations", Iterations)
            .WithName("listIterations")
            .WithSummary("A page of an each's iterations or a repeat's rounds, of a name or state; with counts")
            .ProducesProblem(404);
        api.MapGet("/runs/{id:long}/progress", (long id, ProgressBoard progress) =>
                progress
                    .Of(id)
                    .ToDictionary(
                        p => p.Key,
                        p => new ProgressInfo(
                            p.Value.Rows,
                            p.Value.Bytes,
                            p.Value.Share,
                            Math.Round(p.Value.PerSecond, 1)
                        )
                    )
            )
            .WithName("getProgress")
            .WithSummary("How far the steps have got that are at work, by path; those that tell nothing are left out");
        api.MapPost("/runs/{id:long}/plan", Plan)
            .WithName("planResume")
            .WithSummary("What a resume would run again, continue and keep; nothing is started")
            .ProducesProblem(404)
            .ProducesProblem(409)
            .ProducesProblem(422);
        api.MapPost("/runs/{id:long}/recover", Recover)
            .WithName("recoverRun")
            .WithSummary("Tries again to continue a run that is stranded")
            .ProducesProblem(404)
            .ProducesProblem(409)
            .ProducesProblem(503);
        api.MapPost("/runs/{id:long}/gone", Gone)
            .WithName("confirmGone")
            .WithSummary("Says that what a lost attempt of a step had started is gone, so that the step continues")
            .ProducesProblem(404)
            .ProducesProblem(409);
        api.MapPost("/runs/{id:long}/hold", AnswerHold)
            .WithName("answerHold")
            .WithSummary("Lets a step through that its guard holds, or asks the guard to look now")
            .ProducesProblem(404)
            .ProducesProblem(409)
            .ProducesProblem(422);
        api.MapPost("/runs/{id:long}/pause", Pause)
            .WithName("pauseRun")
            .WithSummary("Pauses a run: what runs, runs to its end; nothing new starts")
            .ProducesProblem(404)
            .ProducesProblem(409);
        api.MapPost("/runs/{id:long}/answer", Answer)
            .WithName("answerRun")
            .WithSummary("Decides about a step that paused its run")
            .ProducesProblem(404)
            .ProducesProblem(409)
            .ProducesProblem(422);
        api.MapPost("/runs/{id:long}/cancel", Cancel)
            .WithName("cancelStep")
            .WithSummary("Ends one step, or one iteration of a loop; the rest of the run goes on")
            .ProducesProblem(404)
            .ProducesProblem(409)
            .ProducesProblem(422);
        api.MapPost("/runs/{id:long}/restart", Restart)
            .WithName("restartRun")
            .WithSummary("Starts a new run with the same parameters")
            .ProducesProblem(404)
            .ProducesProblem(409)
            .ProducesProblem(422);
        api.MapGet("/lanes", Lanes).WithName("listLanes").WithSummary("Lanes: who is in them, and who waits");
        api.MapPost("/runs/{id:long}/stop", Stop)
            .WithName("stopRun")
            .WithSummary("Stops a run")
            .ProducesProblem(404)
            .ProducesProblem(409);
        api.MapPost("/runs/{id:long}/resume", Resume)
            .WithName("resumeRun")
            .WithSummary("Resumes from the checkpoint in a new leg")
            .ProducesProblem(404)
            .ProducesProblem(409)
            .ProducesProblem(422);
    }

    static async Task<IReadOnlyList<RunSummary>> List(
        IRunStore store,
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
                .. (await store.ListAsync(new(chain, state, before, limit, parent, trigger, from, to, text))).Select(
                    JsonViews.Summary
                ),
            ]
            : throw new RefusedException(
                RefusalKind.Invalid,
                $"“{state}” is no state of a run; states are queued, running, paused, succeeded, failed and stopped"
            );

    static async Task<Created<RunSummary>> Start(
        StartRequest request,
        RunStarter runs,
        IRunStore store,
        HttpContext http
    )
    {
        var id = await runs.StartAsync(
            request.Chain,
            JsonViews.Values(request.Params),
            request.Profile,
            Caller.Of(http)
        );
        return TypedResults.Created($"/api/runs/{id}", await store.SummaryAsync(id));
    }

    static Task<RunDetail> Get(long id, RunReader runs, WorkspaceService workspace, int? leg = null) =>
        RunViews.DetailAsync(id, leg, runs, workspace);

    static async Task<IReadOnlyList<TrailInfo>> Trail(long id, IRunStore store)
    {
        var run = await store.FindAsync(id) ?? throw RefusedException.NoRun(id);
        var calls = new List<TrailInfo>();
        while (run?.Parent is { } parent)
        {
            run = await store.FindAsync(parent.Run);
            calls.Insert(0, new(parent.Run, run?.Chain, parent.Step));
        }
        return calls;
    }

    static Task<StepDetail> Step(long id, string path, RunReader runs, int? leg = null) =>
        runs.ReadAsync(id, leg, (run, _) => RunViews.StepDetail(run, Find(run, path)));

    internal static StepState Find(RunState run, string path) =>
        run.Find(path) ?? throw RefusedException.NoStep(run, path);

    static async Task<RunSummary> Stop(
        long id,
        StopRequest request,
        RunCommands runs,
        IRunStore store,
        HttpContext http
    )
    {
        await runs.StopAsync(id, Caller.Of(http), request.Message);
        return await store.SummaryAsync(id);
    }

    static async Task<RunSummary> Resume(
        long id,
        ResumeRequest request,
        RunCommands runs,
        IRunStore store,
        HttpContext http
    )
    {
        await runs.ResumeAsync(id, Caller.Of(http), Order(request));
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

    static async Task<RunSummary> Gone(
        long id,
        GoneRequest request,
        RunCommands runs,
        IRunStore store,
        HttpContext http
    )
    {
        await runs.ConfirmGoneAsync(id, request.Step, Caller.Of(http));
        return await store.SummaryAsync(id);
    }

    static async Task<RunSummary> AnswerHold(
        long id,
        HoldRequest request,
        RunCommands runs,
        IRunStore store,
        HttpContext http
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
        await runs.AnswerHoldAsync(id, request.Step, answer, request.Message, Caller.Of(http));
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
        HttpContext http
    )
    {
        await runs.PauseAsync(id, Caller.Of(http), request.Message);
        return await store.SummaryAsync(id);
    }

    static async Task<RunSummary> Answer(
        long id,
        AnswerRequest request,
        RunCommands runs,
        IRunStore store,
        HttpContext http
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
        await runs.AnswerAsync(id, request.Step, answer, outputs, request.Message, Caller.Of(http));
        return await store.SummaryAsync(id);
    }

    static async Task<RunSummary> Cancel(
        long id,
        CancelRequest request,
        RunCommands runs,
        IRunStore store,
        HttpContext http
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
        await runs.CancelAsync(id, request.Step, outcome, outputs, request.Message, Caller.Of(http));
        return await store.SummaryAsync(id);
    }

    static async Task<Created<RunSummary>> Restart(
        long id,
        RestartRequest request,
        RunStarter runs,
        IRunStore store,
        HttpContext http
    )
    {
        var run = await runs.RestartAsync(id, request.Latest, Caller.Of(http));
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

    static async Task<IReadOnlyList<LaneInfo>> Lanes(ISlots slots) =>
        [
            .. (await slots.LanesAsync()).Select(l => new LaneInfo(
                l.Slot.Name,
                l.Width,
                [.. l.Holders.Select(Seat)],
                [.. l.Waiting.Select(Seat)]
            )),
        ];

    static LaneSeatInfo Seat(Seat seat) => new(seat.Run, seat.Step!);
}

/// <summary>Who asks, as they say. There is no sign-in yet; the service listens on this machine only.</summary>
static class Caller
{
    public static Actor Of(HttpContext http) => Actor.Person(Name(http));

    static string Name(HttpContext http) =>
        http.Request.Headers["X-Gatechain-By"].FirstOrDefault() is { Length: > 0 and <= 300 } by
            ? Plain(Uri.UnescapeDataString(by))
            : "somebody";

    // What would begin another line, or turn the reading of one around, is no part of a name.
    static string Plain(string name) =>
        new string([
            .. name.Where(c =>
                !char.IsControl(c)
                && char.GetUnicodeCategory(c)
                    is not (
                        System.Globalization.UnicodeCategory.Format
                        or System.Globalization.UnicodeCategory.LineSeparator
                        or System.Globalization.UnicodeCategory.ParagraphSeparator
                    )
            ),
        ]).Trim()
            is { Length: > 0 } plain
            ? plain
            : "somebody";
}
