using System.Text.RegularExpressions;
using GateChain.Access.Basics;
using GateChain.Core.Access;
using GateChain.Core.Running;
using GateChain.Engine.Basics;
using GateChain.Engine.Drafts;
using GateChain.Service.Access;
using GateChain.Service.Endpoints;
using GateChain.Service.Views;
using GateChain.Storage;
using Microsoft.AspNetCore.Diagnostics;
using Microsoft.AspNetCore.Mvc;

namespace GateChain.Service.Hosting;

/// <summary>Turns everything that goes wrong into problem details; no stack trace leaves the service.</summary>
/// <remarks>Source: RFC 9457.</remarks>
sealed partial class Problems(ILogger<Problems> logger, DraftService drafts, ICatalogue catalogue) : IExceptionHandler
{
    public async ValueTask<bool> TryHandleAsync(
        HttpContext http,
        Exception exception,
        CancellationToken cancellationToken
    )
    {
        var problem = await DescribeAsync(exception);
        if (problem.Status == 500)
            logger.LogError(exception, "Internal error at {Path}", http.Request.Path);
        problem.Instance = http.Request.Path;
        http.Response.StatusCode = problem.Status!.Value;
        await http.Response.WriteAsJsonAsync(
            problem,
            options: null,
            contentType: "application/problem+json",
            cancellationToken
        );
        return true;
    }

    async Task<ProblemDetails> DescribeAsync(Exception exception)
    {
        switch (exception)
        {
            case RefusedException refused:
                var problem = Refused(refused.Kind, refused.Message);
                if (refused.Details.Count > 0)
                    problem.Extensions["details"] = refused.Details;
                return problem;
            case InvalidWorkspaceException invalid:
                var workspace = New(
                    422,
                    "Not accepted",
                    $"the workspace has {Count(invalid.Problems.Count(p => p.IsError), "error")}; nothing was stored"
                );
                workspace.Extensions["problems"] = invalid.Problems.Select(ProblemViews.Of).ToList();
                return workspace;
            case InvalidDraftException invalid:
                var broken = New(
                    422,
                    "Not accepted",
                    $"the draft has {Count(invalid.Problems.Count(p => p.IsError), "error")}; "
                        + $"fix {(invalid.Problems.Count(p => p.IsError) == 1 ? "it" : "them")} first"
                );
                broken.Extensions["problems"] = invalid.Problems.Select(ProblemViews.Of).ToList();
                return broken;
            case DraftChangedException changed:
                var conflict = New(412, "Changed by somebody else", changed.Message + "; nothing of yours was stored");
                // Somebody may have discarded it.
                try
                {
                    conflict.Extensions["current"] = await DraftViews.DraftAsync(
                        await drafts.GetAsync(changed.Chain),
                        drafts,
                        catalogue
                    );
                }
                catch (RefusedException)
                {
                    conflict.Detail = $"there is no draft of “{changed.Chain}” any more; nothing of yours was stored";
                }
                return conflict;
            case AccessException access:
                return Refused(access.Kind, access.Message);
            case NotAllowedException no:
                var forbidden = New(403, "Not allowed", no.Sentence);
                forbidden.Extensions["role"] = no.Role.Word();
                return forbidden;
            case NotSignedInException:
                return New(401, "Not signed in", exception.Message);
            case PreconditionRequiredException required:
                return New(428, "Version required", required.Message);
            case DamagedRunException damaged:
                return New(500, "Damaged", damaged.Message);
            case NotReadException unread:
                return New(503, "Unavailable", unread.Message);
            case StorageException storage:
                return New(507, "Could not be stored", storage.Message + "; nothing was changed");
            case BadHttpRequestException bad:
                return New(bad.StatusCode, "Bad request", Sentence(bad));
            default:
                return New(500, "Internal error", "something went wrong inside the service; its log has more");
        }
    }

    static ProblemDetails Refused(RefusalKind kind, string message)
    {
        var (status, title) = kind switch
        {
            RefusalKind.NotFound => (404, "Not found"),
            RefusalKind.Conflict => (409, "Conflict"),
            RefusalKind.Unavailable => (503, "Unavailable"),
            _ => (422, "Not accepted"),
        };
        return New(status, title, message);
    }

    static string Count(int number, string what) => number == 1 ? $"1 {what}" : $"{number} {what}s";

    static string Sentence(BadHttpRequestException bad) =>
        bad.InnerException is System.Text.Json.JsonException json
            ? json.Message.IndexOf("missing required properties including: ", StringComparison.Ordinal)
                is >= 0
                    and var at
                ? "the body needs "
                    + json.Message[(at + 39)..]
                        .Split(". ", 2)[0]
                        .TrimEnd('.')
                        .Replace("'", "“", StringComparison.Ordinal)
                        .Replace("“,", "”,", StringComparison.Ordinal)
                        .TrimEnd('“')
                    + "”"
                : $"the body is not the JSON that is expected{(json.Path is null or "$" ? "" : $", at {json.Path}")}"
            : Parameter().Match(bad.Message) is { Success: true } wrong
                ? $"“{wrong.Groups[1].Value}” can't be “{wrong.Groups[2].Value}”"
                : bad.Message.StartsWith("Implicit body inferred", StringComparison.Ordinal)
                    ? "the body is missing: it is JSON"
                    : bad.Message.TrimEnd('.');

    // Failed to bind parameter "Nullable<DateTimeOffset> since" from "bad".
    [GeneratedRegex("^Failed to bind parameter \".* (\\w+)\" from \"(.*)\"\\.?$", RegexOptions.Singleline)]
    private static partial Regex Parameter();

    static ProblemDetails New(int status, string title, string detail) =>
        new()
        {
            Status = status,
            Title = title,
            Detail = detail,
            Type = "about:blank",
        };
}
