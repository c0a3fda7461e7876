using System.Text.Json;
using GateChain.Access;
using GateChain.Access.Audit;
using GateChain.Client;
using GateChain.Core.Access;
using GateChain.Engine.Basics;
using GateChain.Service.Access;
using GateChain.Service.Views;
using GateChain.Storage;

namespace GateChain.Service.Endpoints;

/// <summary>Who has changed what.</summary>
static class AuditEndpoints
{
    const int Together = 1_000;

    static readonly byte[] LineEnd = "\n"u8.ToArray();

    public static void Map(RouteGroupBuilder api)
    {
        api.MapGet("/audit", List)
            .Needs(Permission.Administer, Where.Everywhere)
            .WithName("listAudit")
            .WithSummary("Lines of the audit log, newest first; page with before");
        api.MapGet("/audit/export", Export)
            .Needs(Permission.Administer, Where.Everywhere)
            .WithName("exportAudit")
            .WithSummary("The audit log as JSON Lines, oldest first")
            .Produces(200, contentType: "application/jsonl");
        api.MapGet("/audit/verdict", Verify)
            .Needs(Permission.Administer, Where.Everywhere)
            .WithName("verifyAudit")
            .WithSummary("Whether the audit log is as it was written");
    }

    static async Task<IEnumerable<AuditInfo>> List(
        IAuditLog audit,
        long? before = null,
        string? by = null,
        string? action = null,
        string? @object = null,
        DateTimeOffset? from = null,
        DateTimeOffset? to = null,
        string? text = null,
        int limit = 100
    ) => (await audit.ListAsync(new(before, by, action, @object, from, to, text, limit))).Select(AccessViews.Of);

    static IResult Export(IAuditLog audit, DateTimeOffset? from = null, DateTimeOffset? to = null) =>
        Results.Stream(
            async stream =>
            {
                var after = 0L;
                while (await audit.AfterAsync(after, Together) is { Count: > 0 } lines)
                {
                    foreach (var line in lines.Where(l => !(l.Line.At < from || l.Line.At >= to)))
                    {
                        await JsonSerializer.SerializeAsync(stream, AccessViews.Of(line), GateChainClient.Json);
                        await stream.WriteAsync(LineEnd);
                    }
                    after = lines[^1].Number;
                }
            },
            "application/jsonl",
            "audit.jsonl"
        );

    static async Task<AuditVerdict> Verify(
        IAuditLog audit,
        AccessServices access,
        EngineOptions options,
        CancellationToken cancel
    )
    {
        await access.Sealer.SealAsync();
        return AccessViews.Of(await AuditCheck.VerifyAsync(audit, AnchorFiles.Read(options.DataFolder), cancel));
    }
}
