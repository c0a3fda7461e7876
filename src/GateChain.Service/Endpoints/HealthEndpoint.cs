using GateChain.Client;
using GateChain.Engine.Basics;
using GateChain.Engine.Runs;
using GateChain.Engine.Triggers;
using GateChain.Service.Access;
using GateChain.Storage;

namespace GateChain.Service.Endpoints;

/// <summary>How the service fares; 503 while it can't write.</summary>
static class HealthEndpoint
{
    public static string Version { get; } = typeof(HealthEndpoint).Assembly.GetName().Version?.ToString(3) ?? "0";

    public static void Map(IEndpointRouteBuilder app)
    {
        app.MapGet("/health/live", () => TypedResults.Text("live\n"))
            .ForAnyone("probes ask whether the process answers")
            .DisableRateLimiting()
            .WithName("live")
            .WithSummary("Whether the process answers: 200 as long as it does");
        app.MapGet("/health/ready", (IJournal journal) =>
                journal.Writer.Trouble is null
                    ? TypedResults.Text("ready\n")
                    : TypedResults.Text("nothing can be written\n", statusCode: 503)
            )
            .ForAnyone("probes ask whether requests may be sent here")
            .DisableRateLimiting()
            .WithName("ready")
            .WithSummary("Whether it takes work: 503 while nothing can be written");
        app.MapGet(
                "/health",
                async (
                    IJournal journal,
                    RunRecovery recovery,
                    ActiveRuns runs,
                    EngineOptions options,
                    TriggerIndex triggers,
                    ITriggerStore fires,
                    TimeProvider time,
                    Visitor visitor
                ) =>
                {
                    // Who does not see everything is told how the service fares, and nothing of what it does.
                    if (visitor.Seen is not null)
                    {
                        return TypedResults.Json(
                            new HealthInfo(
                                journal.Writer.Trouble is null ? "ok" : "held",
                                Version,
                                0,
                                null,
                                null,
                                [],
                                "",
                                null,
                                0
                            ),
                            statusCode: journal.Writer.Trouble is null ? 200 : 503
                        );
                    }
                    var since = time.GetUtcNow().AddDays(-1);
                    var refused = await fires.ListAsync(new(Fate: FireFate.Refused, Since: since, Limit: 100));
                    var late = await fires.ListAsync(new(Fate: FireFate.Late, Since: since, Limit: 100));
                    var hold = triggers.Holds.FirstOrDefault(h => h.Area.Length == 0);
                    var writer = journal.Writer;
                    var stranded = recovery.Stranded;
                    var health = new HealthInfo(
                        writer.Trouble is not null ? "held"
                            : stranded.Count > 0 ? "stranded"
                            : "ok",
                        Version,
                        runs.Count,
                        writer.Trouble,
                        writer.Since,
                        [.. stranded.Select(s => new StrandedInfo(s.Run, s.Why, s.Since))],
                        "programs of command steps and plug-ins run as "
                            + (
                                options.ProgramsAs is { } user
                                    ? $"{user.Name}"
                                    : $"the service's own user ({Environment.UserName})"
                            )
                            + " and reach what that user may; all other kinds stay within "
                            + $"{string.Join(", ", options.Folders.Roots)}, without the service's own data",
                        hold is null ? null : $"held by {hold.By}{(hold.Why is null ? "" : $": {hold.Why}")}",
                        refused.Count + late.Count,
                        options.Node?.Split('.')[0]
                    );
                    return TypedResults.Json(health, statusCode: writer.Trouble is null ? 200 : 503);
                }
            )
            .ForAnyone("probes ask whether the service is well")
            // Also while others ask too much: a probe that is refused would have the service ended.
            .DisableRateLimiting()
            .WithName("health")
            .WithSummary("Whether the service can write, and how many runs are running")
            .Produces<HealthInfo>();
    }
}
