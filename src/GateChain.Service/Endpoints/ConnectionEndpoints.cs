using GateChain.Client;
using GateChain.Core.Identity;
using GateChain.Engine.Connections;
using GateChain.Engine.Secrets;
using GateChain.Engine.Workspaces;
using GateChain.Service.Views;

namespace GateChain.Service.Endpoints;

/// <summary>Connections, secrets and profiles. Values of secrets come in here and never go out.</summary>
static class ConnectionEndpoints
{
    public static void Map(RouteGroupBuilder api)
    {
        api.MapGet("/connections", (ConnectionService connections) => ConnectionViews.ConnectionsAsync(connections))
            .WithName("listConnections")
            .WithSummary("The connections, and where they are used");
        api.MapPost("/connections/{name}/check", Check)
            .WithName("checkConnection")
            .WithSummary("Goes there once and says what is found, or why nothing is")
            .ProducesProblem(404)
            .ProducesProblem(422);
        api.MapPost("/connections/{name}/tidy", Tidy)
            .WithName("tidyConnection")
            .WithSummary("Clears stages of loads that no run needs, or tells what would be cleared")
            .ProducesProblem(404)
            .ProducesProblem(422)
            .ProducesProblem(503);
        api.MapGet("/secrets", (SecretVault secrets, ConnectionService connections) =>
                ConnectionViews.Secrets(secrets, connections)
            )
            .WithName("listSecrets")
            .WithSummary("The secrets that are set or asked for, without their values");
        api.MapPut("/secrets/{name}", Set)
            .WithName("setSecret")
            .WithSummary("Sets a secret; nobody can read it afterwards")
            .Produces(204)
            .ProducesProblem(422)
            .ProducesProblem(507);
        api.MapDelete("/secrets/{name}", Remove)
            .WithName("removeSecret")
            .WithSummary("Takes a secret away")
            .Produces(204)
            .ProducesProblem(404)
            .ProducesProblem(507);
        api.MapGet("/profiles", (WorkspaceService workspace) => ConnectionViews.Profiles(workspace))
            .WithName("listProfiles")
            .WithSummary("The profiles and their values");
    }

    static async Task<ConnectionCheckInfo> Check(
        string name,
        string? area,
        ConnectionService connections,
        CancellationToken cancel
    )
    {
        var check = await connections.CheckAsync(name, AreaOf(area), cancel);
        return new(check.Works, check.Found, Math.Round(check.Took.TotalMilliseconds, 1));
    }

    static Area? AreaOf(string? path) => path is null ? null : new(path);

    static async Task<IReadOnlyList<StageInfo>> Tidy(
        string name,
        string? area,
        TidyRequest request,
        ConnectionService connections,
        CancellationToken cancel
    ) =>
        [
            .. (
                await connections.TidyAsync(
                    name,
                    AreaOf(area),
                    new(request.DryRun, request.Failed, request.Unknown),
                    cancel
                )
            ).Select(s => new StageInfo(s.Stage, s.Run, s.Step, s.State, s.Cleared, s.Why)),
        ];

    static async Task<IResult> Set(string name, SecretRequest request, SecretVault secrets, HttpContext http)
    {
        await secrets.SetAsync(name, request.Value ?? "", Caller.Of(http));
        return Results.NoContent();
    }

    static async Task<IResult> Remove(string name, SecretVault secrets, HttpContext http)
    {
        await secrets.RemoveAsync(name, Caller.Of(http));
        return Results.NoContent();
    }
}
