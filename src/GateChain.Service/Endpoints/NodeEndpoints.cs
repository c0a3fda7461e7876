using GateChain.Client;
using GateChain.Core.Access;
using GateChain.Engine.Nodes;
using GateChain.Service.Access;

namespace GateChain.Service.Endpoints;

/// <summary>The services that share a database.</summary>
static class NodeEndpoints
{
    public static void Map(RouteGroupBuilder api)
    {
        api.MapGet("/nodes", List)
            .WithName("listNodes")
            .Needs(Permission.See, Where.Everywhere)
            .WithSummary("The nodes that share the database: how they are, and what they are at");
        api.MapPut("/nodes/{name}/drain", Drain)
            .WithName("drainNode")
            .Needs(Permission.Administer, Where.Everywhere)
            .WithSummary("Has a node hand over what only waits, take nothing new, and end when the rest is through")
            .ProducesProblem(404);
        api.MapDelete("/nodes/{name}/drain", Undrain)
            .WithName("undrainNode")
            .Needs(Permission.Administer, Where.Everywhere)
            .WithSummary("Has a node go on that was to be drained")
            .ProducesProblem(404);
    }

    static async Task<NodesInfo> List(NodeList nodes) => new(nodes.IsShared, [.. (await nodes.ListAsync()).Select(Of)]);

    static NodeInfo Of(ShownNode shown) =>
        new(
            shown.Node.Name,
            shown.State.ToString().ToLowerInvariant(),
            shown.Node.Address,
            shown.Node.Labels,
            shown.Node.Version,
            shown.Node.Started,
            shown.Node.Seen,
            shown.IsThis,
            shown.Leads,
            shown.Node.OwnsRuns,
            shown.Runs,
            shown.Work?.Attempts,
            [.. (shown.Work?.Some ?? []).Select(w => new NodeWorkInfo(w.Run, w.Step, w.ForOther))]
        );

    static async Task<NodesInfo> Drain(string name, NodeList nodes, Visitor visitor)
    {
        await nodes.DrainAsync(name, on: true, visitor.Actor);
        return await List(nodes);
    }

    static async Task<IResult> Undrain(string name, NodeList nodes, Visitor visitor)
    {
        await nodes.DrainAsync(name, on: false, visitor.Actor);
        return TypedResults.NoContent();
    }
}
