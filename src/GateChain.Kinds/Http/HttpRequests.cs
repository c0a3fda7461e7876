using System.Net.Http.Headers;
using System.Text;
using GateChain.Core.Values;
using GateChain.Kinds.Contract;

namespace GateChain.Kinds.Http;

/// <summary>What is sent: requests as the settings of a step say.</summary>
static class HttpRequests
{
    /// <summary>The request that settings ask for.</summary>
    public static HttpRequestMessage Of(HttpSettings settings, Uri address, AttemptContext context)
    {
        var request = new HttpRequestMessage(new HttpMethod(settings.Method.ToString().ToUpperInvariant()), address)
        {
            Content = Body(settings, context),
        };
        // One name for one piece of work: a server that knows it does not do it twice after a crash.
        if (settings.Method is not (HttpVerb.Get or HttpVerb.Head))
            request.Headers.TryAddWithoutValidation("Idempotency-Key", context.WorkKey.ToString());
        foreach (var (name, value) in settings.Headers)
        {
            var text = context.WithSecret("headers", name, value);
            HttpConnection.CheckHeader(name, text);
            if (!request.Headers.TryAddWithoutValidation(name, text))
                request.Content?.Headers.TryAddWithoutValidation(name, text);
        }
        return request;
    }

    static HttpContent? Body(HttpSettings settings, AttemptContext context)
    {
        string[] named =
        [
            .. new[]
            {
                (settings.Json.Kind != ValueKind.Null, "json"),
                (settings.Form.Count > 0, "form"),
                (settings.Text is not null, "text"),
                (settings.File is not null, "file"),
            }
                .Where(b => b.Item1)
                .Select(b => b.Item2),
        ];
        if (named.Length > 1)
        {
            throw new StepFailedException(
                "setting",
                $"a request has one body, and {string.Join(" and ", named)} are given",
                "Nothing was sent. Keep one of them."
            );
        }
        HttpContent? body = settings switch
        {
            { Json.Kind: not ValueKind.Null } => new StringContent(
                ValueJson.ToText(settings.Json),
                Encoding.UTF8,
                "application/json"
            ),
            { Form.Count: > 0 } => new FormUrlEncodedContent(settings.Form),
            { Text: { } text } => new StringContent(text, Encoding.UTF8, "text/plain"),
            { File: { } file } => new StreamContent(File.OpenRead(context.Resolve(file)))
            {
                Headers = { ContentType = new("application/octet-stream") },
            },
            _ => null,
        };
        if (body is not null && settings.ContentType is { } type)
        {
            body.Headers.ContentType = MediaTypeHeaderValue.TryParse(type, out var parsed)
                ? parsed
                : throw new StepFailedException("setting", $"contentType: “{type}” is no media type such as text/csv");
        }
        return body;
    }

    /// <summary>A path with what stands behind its question mark.</summary>
    public static string WithQuery(string path, IReadOnlyDictionary<string, string> query) =>
        query.Count == 0
            ? path
            : path
                + (path.Contains('?') ? '&' : '?')
                + string.Join('&', query.Select(q => $"{Uri.EscapeDataString(q.Key)}={Uri.EscapeDataString(q.Value)}"));
}
