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
                (settings.Parts.Count > 0, "parts"),
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
            { File: { } file } => OfFile(file, context),
            { Parts.Count: > 0 } => OfParts(settings.Parts, context),
            _ => null,
        };
        // With parts it says where they begin.
        if (body is not null and not MultipartContent && settings.ContentType is { } type)
            body.Headers.ContentType = MediaType(type);
        return body;
    }

    static StreamContent OfFile(string file, AttemptContext context) =>
        new(File.OpenRead(context.Resolve(file))) { Headers = { ContentType = new("application/octet-stream") } };

    static MediaTypeHeaderValue MediaType(string type) =>
        MediaTypeHeaderValue.TryParse(type, out var parsed)
            ? parsed
            : throw new StepFailedException("setting", $"contentType: “{type}” is no media type such as text/csv");

    static MultipartFormDataContent OfParts(IReadOnlyList<HttpPart> parts, AttemptContext context)
    {
        var form = new MultipartFormDataContent();
        foreach (var part in parts)
        {
            HttpContent content = part switch
            {
                { File: { } file, Text: null } => OfFile(file, context),
                { Text: { } text, File: null } => new StringContent(text, Encoding.UTF8, "text/plain"),
                _ => throw new StepFailedException("setting", $"the part “{part.Name}” needs either text or file"),
            };
            if (part.ContentType is { } type)
                content.Headers.ContentType = MediaType(type);
            if (part.File is { } path)
                form.Add(content, part.Name, part.FileName ?? Path.GetFileName(path));
            else
                form.Add(content, part.Name);
        }
        return form;
    }

    /// <summary>A path with what stands behind its question mark.</summary>
    public static string WithQuery(string path, IReadOnlyDictionary<string, string> query) =>
        query.Count == 0
            ? path
            : path
                + (path.Contains('?') ? '&' : '?')
                + string.Join('&', query.Select(q => $"{Uri.EscapeDataString(q.Key)}={Uri.EscapeDataString(q.Value)}"));
}
