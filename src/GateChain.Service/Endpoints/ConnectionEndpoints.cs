using GateChain.Client;
using GateChain.Core.Access;
using GateChain.Core.Identity;
using GateChain.Core.Running;
using GateChain.Engine.Basics;
using GateChain.Engine.Connections;
using GateChain.Engine.Secrets;
using GateChain.Engine.Workspaces;
using GateChain.Service.Access;
using GateChain.Service.Views;

namespace GateChain.Service.Endpoints;

/// <summary>Connections, secrets and profiles. Values of secrets come in here and never go out.</summary>
static class ConnectionEndpoints
{
    public static void Map(RouteGroupBuilder api)
    {
        api.MapGet("/connections", (ConnectionService connections, Visitor visitor) =>
                ConnectionViews.ConnectionsAsync(connections, visitor)
            )
            .WithName("listConnections")
            .Needs(Permission.See)
            .WithSummary("The connections, and where they are used");
        api.MapPost("/connections/{name}/check", Check)
            .WithName("checkConnection")
            .Needs(Permission.Design)
            .WithSummary("Goes there once and says what is found, or why nothing is")
            .ProducesProblem(404)
            .ProducesProblem(422);
        api.MapPost("/connections/{name}/tidy", Tidy)
            .WithName("tidyConnection")
            .Needs(Permission.Keep)
            .WithSummary("Clears stages of loads that no run needs, or tells what would be cleared")
            .ProducesProblem(404)
            .ProducesProblem(422)
            .ProducesProblem(503);
        api.MapGet("/secrets", (SecretVault secrets, ConnectionService connections, Visitor visitor) =>
                ConnectionViews.Secrets(secrets, connections, visitor)
            )
            .WithName("listSecrets")
            .Needs(Permission.See)
            .WithSummary("The secrets that are set or asked for, without their values");
        api.MapPut("/secrets/{name}", Set)
            .WithName("setSecret")
            .Needs(Permission.Keep)
            .WithSummary("Sets a secret for a folder and those below; nobody can read it afterwards")
            .Produces(204)
            .ProducesProblem(422)
            .ProducesProblem(507);
        api.MapDelete("/secrets/{name}", Remove)
            .WithName("removeSecret")
            .Needs(Permission.Keep)
            .WithSummary("Takes a secret away")
            .Produces(204)
            .ProducesProblem(404)
            .ProducesProblem(507);
        api.MapGet("/profiles", (WorkspaceService workspace, Visitor visitor) =>
                ConnectionViews.Profiles(workspace, visitor)
            )
            .WithName("listProfiles")
            .Needs(Permission.See)
            .WithSummary("The profiles and their values");
    }

    static async Task<ConnectionCheckInfo> Check(
        string name,
        string? area,
        ConnectionService connections,
        Visitor visitor,
        CancellationToken cancel
    )
    {
        Hold(name, area, Permission.Design, connections, visitor);
        var check = await connections.CheckAsync(name, AreaOf(area), cancel);
        return new(check.Works, check.Found, Math.Round(check.Took.TotalMilliseconds, 1));
    }

    static Area? AreaOf(string? path) => path is null ? null : new(path);

    static async Task<IReadOnlyList<StageInfo>> Tidy(
        string name,
        string? area,
        TidyRequest request,
        ConnectionService connections,
        Visitor visitor,
        CancellationToken cancel
    )
    {
        Hold(name, area, Permission.Keep, connections, visitor);
        var stages = await connections.TidyAsync(
            name,
            AreaOf(area),
            new(request.DryRun, request.Failed, request.Unknown),
            cancel
        );
        return [.. stages.Select(s => new StageInfo(s.Stage, s.Run, s.Step, s.State, s.Cleared, s.Why))];
    }

    // Where no folder is named, each that declares one of the name is meant.
    static void Hold(string name, string? area, Permission permission, ConnectionService connections, Visitor visitor)
    {
        var meant = connections.All.Where(c => c.Name == name && (area is null || c.Area.Path == area)).ToList();
        foreach (var at in meant.Count == 0 ? [null] : meant.Select(c => (Area?)c.Area))
        {
            visitor.Must(permission, at, () =>
                new RefusedException(RefusalKind.NotFound, $"there is no connection “{name}”")
            );
        }
    }

    static async Task<IResult> Set(string name, SecretRequest request, SecretVault secrets, Visitor visitor)
    {
        var there = secrets.Entry(name);
        // Where none is named, it stays where it is.
        var area = request.Area is { } path ? AreaLocator.Read(path) : there?.Area ?? Area.Root;
        if (there is not null)
        {
            // Names are the service's: who may not see it learns that it is taken, and nothing else.
            visitor.Must(Permission.Keep, there.Area, () =>
                new RefusedException(RefusalKind.Conflict, $"the name “{name}” is taken")
            );
        }
        visitor.Must(Permission.Keep, area, () =>
            new RefusedException(RefusalKind.NotFound, $"there is no folder “{area.Path}”")
        );
        await secrets.SetAsync(name, request.Value ?? "", area, visitor.Actor);
        return Results.NoContent();
    }

    static async Task<IResult> Remove(string name, SecretVault secrets, Visitor visitor)
    {
        visitor.Must(Permission.Keep, secrets.Entry(name)?.Area, () =>
            new RefusedException(RefusalKind.NotFound, $"there is no secret “{name}”")
        );
        await secrets.RemoveAsync(name, visitor.Actor);
        return Results.NoContent();
    }
}
