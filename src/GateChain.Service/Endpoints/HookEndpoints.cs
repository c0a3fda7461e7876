using GateChain.Client;
using GateChain.Engine.Runs;
using GateChain.Engine.Triggers;
using GateChain.Service.Access;
using GateChain.Service.Views;

namespace GateChain.Service.Endpoints;

/// <summary>Calls of other systems: <c>/hooks/…</c>, apart from the API.</summary>
static class HookEndpoints
{
    /// <summary>The policy that bounds how often a hook is called.</summary>
    public const string Limit = "hooks";

    public static void Map(WebApplication app)
    {
        app.MapPost("/hooks/{**path}", TakeAsync)
            .WithName("callHook")
            .WithSummary("Calls a hook: starts the chain of its trigger")
            .RequireRateLimiting(Limit)
            .ForAnyone("hooks have keys of their own")
            .ExcludeFromDescription();
        // The same for a hook that is there and one that is not.
        app.MapMethods("/hooks/{**path}", ["GET", "HEAD", "PUT", "PATCH", "DELETE"], (HttpContext http) =>
            {
                http.Response.Headers.Allow = "POST";
                return Problem(405, "hooks are called with POST", []);
            })
            .ForAnyone("tells how hooks are called")
            .ExcludeFromDescription();
    }

    static async Task<IResult> TakeAsync(string path, HookService service, RunStarter starter, HttpContext http)
    {
        var body = await ReadAsync(http.Request);
        if (body is null)
            return Problem(413, $"a body has {HookService.MostBody >> 20} MiB at most", []);
        var answer = await service.TakeAsync(
            new(
                path,
                http.Request.Headers.ToDictionary(h => h.Key.ToLowerInvariant(), h => h.Value.ToString()),
                http.Request.Query.ToDictionary(q => q.Key, q => q.Value.ToString()),
                http.Request.ContentType?.Split(';')[0].Trim().ToLowerInvariant(),
                body
            ),
            http.RequestAborted
        );
        if (answer.Status is >= 400 and not 409)
            return Problem(answer.Status, answer.Sentence, answer.Details);
        var url = answer.Run is { } run ? $"{starter.Home?.TrimEnd('/')}/runs/{run}" : null;
        if (answer.Status == 202)
            http.Response.Headers.Location = url;
        return Results.Json(
            new HookReply(
                answer.Run,
                url,
                answer.Outcome,
                answer.Outputs is { } outputs ? JsonViews.Json(outputs) : null,
                answer.Sentence
            ),
            GateChainClient.Json,
            statusCode: answer.Status
        );
    }

    static IResult Problem(int status, string? detail, IReadOnlyList<string> details) =>
        Results.Problem(
            statusCode: status,
            detail: detail,
            extensions: details.Count > 0 ? new Dictionary<string, object?> { ["details"] = details } : null
        );

    // Null for one that is too large: what is behind the bound is not read.
    static async Task<byte[]?> ReadAsync(HttpRequest request)
    {
        if (request.ContentLength > HookService.MostBody)
            return null;
        using var body = new MemoryStream();
        var piece = new byte[16 * 1024];
        int read;
        while ((read = await request.Body.ReadAsync(piece, request.HttpContext.RequestAborted)) > 0)
        {
            if (body.Length + read > HookService.MostBody)
                return null;
            body.Write(piece, 0, read);
        }
        return body.ToArray();
    }
}
