using System.Globalization;
using Microsoft.AspNetCore.Diagnostics;
using Microsoft.AspNetCore.Http.Metadata;

namespace GateChain.Service.Hosting;

/// <summary>Says in problem details what an answer without a body means.</summary>
/// <remarks>Source: RFC 9457.</remarks>
static class StatusPages
{
    public static Task Write(StatusCodeContext context)
    {
        var http = context.HttpContext;
        var status = http.Response.StatusCode;
        var detail = status switch
        {
            400 => WrongParameter(http),
            404 => "there is no such address in the API; /api/openapi.json lists them",
            405 => $"this address does not take {http.Request.Method}; it takes {http.Response.Headers.Allow}",
            415 => "the body is sent as application/json, in UTF-8",
            429 => "too many requests at once: wait a moment, as Retry-After says",
            _ => null,
        };
        return Results.Problem(statusCode: status, detail: detail, instance: http.Request.Path).ExecuteAsync(http);
    }

    // Binding tells the status only; which part of the address it was is looked up.
    static string? WrongParameter(HttpContext http) =>
        http.GetEndpoint()
            ?.Metadata.GetOrderedMetadata<IParameterBindingMetadata>()
            .Where(p => p.HasTryParse)
            .Select(p => (p.Name, Text: TextOf(http, p.Name), p.ParameterInfo.ParameterType))
            .Where(p => p.Text is { Length: > 0 } text && !Fits(p.ParameterType, text))
            .Select(p => $"“{p.Name}” can't be “{p.Text}”")
            .FirstOrDefault();

    static string? TextOf(HttpContext http, string name) =>
        http.Request.RouteValues.TryGetValue(name, out var part) ? part as string : http.Request.Query[name];

    static bool Fits(Type type, string text)
    {
        type = Nullable.GetUnderlyingType(type) ?? type;
        var culture = CultureInfo.InvariantCulture;
        return type.IsEnum ? Enum.TryParse(type, text, ignoreCase: true, out _)
            : type == typeof(bool) ? bool.TryParse(text, out _)
            : type == typeof(int) ? int.TryParse(text, culture, out _)
            : type == typeof(long) ? long.TryParse(text, culture, out _)
            : type == typeof(double) ? double.TryParse(text, culture, out _)
            : type == typeof(DateOnly) ? DateOnly.TryParse(text, culture, out _)
            : type != typeof(DateTimeOffset) || DateTimeOffset.TryParse(text, culture, out _);
    }
}
