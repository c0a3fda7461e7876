using GateChain.Client;
using GateChain.Engine;
using Microsoft.AspNetCore.Builder;
using Microsoft.AspNetCore.Http;
using Microsoft.AspNetCore.Routing;

namespace GateChain.Service.Endpoints;

/// <summary>How the service fares; 503 while it can't write.</summary>
static class HealthEndpoint
{
    public static string Version { get; } = typeof(HealthEndpoint).Assembly.GetName().Version?.ToString(3) ?? "0";

    public static void Map(IEndpointRouteBuilder app) =>
        app.MapGet("/health", (ChainEngine engine) =>
            {
                var writer = engine.Journal.Writer;
                var stranded = engine.StrandedRuns;
                var health = new HealthInfo(
                    writer.Trouble is not null ? "held"
                        : stranded.Count > 0 ? "stranded"
                        : "ok",
                    Version,
                    engine.RunsInFlight,
                    writer.Trouble,
                    writer.Since,
                    [.. stranded.Select(s => new StrandedInfo(s.Run, s.Why, s.Since))],
                    "programs of command steps and plug-ins run as the service's own user ("
                        + $"{Environment.UserName}) and reach what that user may; all other kinds stay within "
                        + $"{string.Join(", ", engine.Options.Folders.Roots)}, without the service's own data"
                );
                return TypedResults.Json(health, statusCode: writer.Trouble is null ? 200 : 503);
            })
            .WithName("health")
            .WithSummary("Whether the service can write, and how many runs are going on")
            .Produces<HealthInfo>();
}
