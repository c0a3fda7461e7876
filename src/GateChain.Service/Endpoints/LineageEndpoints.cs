using GateChain.Client;
using GateChain.Core.Access;
using GateChain.Core.Datasets;
using GateChain.Core.Lineage;
using GateChain.Engine.Lineage;
using GateChain.Service.Access;

namespace GateChain.Service.Endpoints;

/// <summary>Which data chains read and write.</summary>
static class LineageEndpoints
{
    public static void Map(RouteGroupBuilder api)
    {
        api.MapGet("/lineage", async (DataFlows data, Visitor visitor) =>
                (await data.MapAsync(visitor.Sees)).All.Select(Of)
            )
            .WithName("listData")
            .Needs(Permission.See)
            .WithSummary("The data that the latest releases of all chains read and write, as they are declared");
        api.MapGet("/lineage/of", async (string name, DataFlows data, Visitor visitor) =>
            {
                var map = await data.MapAsync(visitor.Sees);
                return map.Find(name)
                    .Select(d => new LineageInfo(
                        Of(map.Of(d)),
                        [.. map.Before(d).Select(Of)],
                        [.. map.After(d).Select(Of)]
                    ));
            })
            .WithName("getLineage")
            .Needs(Permission.See)
            .WithSummary("What feeds some data and what comes of it: of each that a name or pattern may mean");
        api.MapGet("/runs/{id}/data", async (long id, DataFlows data) =>
                (await data.OfRunAsync(id)).Select(s => new StepDataInfo(
                    s.Step,
                    s.Use.Direction == DataDirection.Reads ? "reads" : "writes",
                    Of(s.Use.Data)
                ))
            )
            .WithName("listDataOfRun")
            .Needs(Permission.See, Where.Run)
            .WithSummary("The data that the latest leg of a run has read and written")
            .ProducesProblem(404);
    }

    static DatasetInfo Of(Dataset data) => new(data.Form.ToString().ToLowerInvariant(), data.Connection, data.Name);

    static DataStepInfo Of(DataStep step) => new(step.Chain, step.Step);

    static DatasetUsesInfo Of(DatasetUses uses) =>
        new(Of(uses.Data), [.. uses.Writers.Select(Of)], [.. uses.Readers.Select(Of)]);

    static DataFlowInfo Of(DataFlow flow) => new(Of(flow.From), Of(flow.Through), Of(flow.To), flow.Steps);
}
