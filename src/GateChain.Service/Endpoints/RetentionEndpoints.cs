using GateChain.Client;
using GateChain.Core.Access;
using GateChain.Core.Retention;
using GateChain.Core.Running;
using GateChain.Engine.Basics;
using GateChain.Engine.Retention;
using GateChain.Service.Access;

namespace GateChain.Service.Endpoints;

/// <summary>How long runs are kept that have ended.</summary>
static class RetentionEndpoints
{
    public static void Map(RouteGroupBuilder api)
    {
        api.MapGet("/retention", Show)
            .WithName("getRetention")
            .Needs(Permission.Administer, Where.Everywhere)
            .WithSummary("How long runs are kept that have ended, and how many would go now");
        api.MapPut("/retention/rules", (KeepRuleInfo request, RunKeeping keeping, Visitor visitor) =>
                keeping.SetRuleAsync(
                    Place(request.Chain, request.Folder),
                    new(request.Days, request.AtLeast, request.AtMost),
                    visitor.Actor
                )
            )
            .WithName("setRetention")
            .Needs(Permission.Administer, Where.Everywhere)
            .WithSummary("Says how long runs of a chain, or of a folder and below, are kept")
            .ProducesProblem(422);
        api.MapDelete("/retention/rules", (string? chain, string? folder, RunKeeping keeping, Visitor visitor) =>
                keeping.SetRuleAsync(Place(chain, folder), null, visitor.Actor)
            )
            .WithName("removeRetention")
            .Needs(Permission.Administer, Where.Everywhere)
            .WithSummary("Lets the rule around it hold again")
            .ProducesProblem(422);
        api.MapPost("/retention/passes", async (RunKeeping keeping, CancellationToken cancel) =>
                (await keeping.PassAsync(dryRun: false, cancel)).Chains.Select(Of)
            )
            .WithName("removeOldRuns")
            .Needs(Permission.Administer, Where.Everywhere)
            .WithSummary("Removes now what is not kept any more; the service does so each hour");
        api.MapPut("/runs/{id}/pin", (long id, PinRequest request, RunKeeping keeping, Visitor visitor) =>
                keeping.PinAsync(id, request.Why, visitor.Actor)
            )
            .WithName("pinRun")
            .Needs(Permission.Operate, Where.Run)
            .WithSummary("Keeps a run, and those that it has called, whatever is said about how long runs are kept")
            .ProducesProblem(404);
        api.MapDelete("/runs/{id}/pin", (long id, RunKeeping keeping, Visitor visitor) =>
                keeping.UnpinAsync(id, visitor.Actor)
            )
            .WithName("unpinRun")
            .Needs(Permission.Operate, Where.Run)
            .WithSummary("Keeps a run no longer than others")
            .ProducesProblem(404);
        api.MapGet("/usage", async (RunKeeping keeping, CancellationToken cancel) =>
                (await keeping.UseAsync(cancel))
                    .OrderByDescending(u => u.Bytes ?? 0)
                    .Select(u => new UsageInfo(u.What, u.Rows, u.Bytes, u.IsPart))
            )
            .WithName("getUsage")
            .Needs(Permission.Administer, Where.Everywhere)
            .WithSummary("What takes room: tables of the database, and the folders beside it");
    }

    static async Task<RetentionInfo> Show(RunKeeping keeping, CancellationToken cancel) =>
        new(
            [
                .. (await keeping.RulesAsync())
                    .All.OrderBy(r => r.Key.ToString(), StringComparer.Ordinal)
                    .Select(r => Of(r.Key, r.Value)),
            ],
            [.. (await keeping.PassAsync(dryRun: true, cancel)).Chains.Select(Of)],
            [.. (await keeping.PinsAsync()).Select(p => new PinInfo(p.Run, p.By, p.At, p.Why))]
        );

    static KeepPlace Place(string? chain, string? folder) =>
        (chain, folder) switch
        {
            ({ Length: > 0 } name, null) => KeepPlace.OfChain(name),
            (null, { } path) => KeepPlace.OfFolder(AreaLocator.Read(path)),
            _ => throw new RefusedException(RefusalKind.Invalid, "name a chain, or a folder, and not both"),
        };

    static ChainKeepingInfo Of(ChainKeeping chain) =>
        new(chain.Chain, chain.Place is { } place ? Of(place, chain.Rule) : null, chain.Rule.ToString(), chain.Gone);

    static KeepRuleInfo Of(KeepPlace place, KeepRule rule) =>
        new(place.Chain, place.Chain is null ? place.Folder.Path : null, rule.Days, rule.AtLeast, rule.AtMost);
}
