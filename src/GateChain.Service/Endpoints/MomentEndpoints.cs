using GateChain.Client;
using GateChain.Core.Access;
using GateChain.Core.Running;
using GateChain.Core.Running.State;
using GateChain.Engine.Basics;
using GateChain.Engine.Reading;
using GateChain.Engine.Workspaces;
using GateChain.Service.Access;
using GateChain.Service.Views;

namespace GateChain.Service.Endpoints;

/// <summary>Runs as they are, and as they were when a leg ended or behind any of their decisions.</summary>
static class MomentEndpoints
{
    const int Most = 1_000;

    public static void Map(RouteGroupBuilder api)
    {
        api.MapGet("/runs/{id:long}", Get)
            .WithName("getRun")
            .Needs(Permission.See, Where.Run)
            .WithSummary("A run in full, now, as it was when a leg ended, or as it was behind a decision")
            .ProducesProblem(404);
        api.MapGet("/runs/{id:long}/step", Step)
            .WithName("getStep")
            .Needs(Permission.See, Where.Run)
            .WithSummary("One step of a run: why, inputs, outputs, attempts")
            .ProducesProblem(404);
        api.MapGet("/runs/{id:long}/moments", List)
            .WithName("listMoments")
            .Needs(Permission.See, Where.Run)
            .WithSummary(
                "The decisions of a run, in order; a run is shown as it was behind each with getRun and moment"
            )
            .ProducesProblem(404)
            .ProducesProblem(422);
    }

    static async Task<RunDetail> Get(
        long id,
        RunReader runs,
        WorkspaceService workspace,
        RunMoments moments,
        AreaLocator areas,
        Visitor visitor,
        int? leg = null,
        long? moment = null
    ) =>
        await areas.SeenAsync(
            moment is { } at
                ? await RunViews.DetailAsync(read => moments.ReadAsync(id, at, read), workspace)
                : await RunViews.DetailAsync(id, leg, runs, workspace),
            visitor
        );

    static Task<StepDetail> Step(
        long id,
        string path,
        RunReader runs,
        RunMoments moments,
        int? leg = null,
        long? moment = null
    )
    {
        StepDetail Read(RunState run, long seq) => RunViews.StepDetail(run, RunEndpoints.Find(run, path));

        return moment is { } at ? moments.ReadAsync(id, at, Read) : runs.ReadAsync(id, leg, Read);
    }

    static async Task<IReadOnlyList<MomentInfo>> List(long id, RunMoments moments, long after = 0, int limit = 200) =>
        limit is < 1 or > Most
            ? throw new RefusedException(RefusalKind.Invalid, $"limit is 1 to {Most:N0}")
            :
            [
                .. (await moments.ListAsync(id, after, limit)).Select(m => new MomentInfo(
                    m.Seq,
                    m.At,
                    m.Leg,
                    [.. m.Lines.Select(l => new TraceInfo(l.What, l.Path, l.Text, l.Outcome))]
                )),
            ];
}
