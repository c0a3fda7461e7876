using System.Net;

namespace GateChain.Service.Hosting;

/// <summary>
/// Keeps other web sites out of a service that has no sign-in: requests must name this machine as their host (a page
/// elsewhere can't, even when it makes a name of its own point here), and browsers must say that the request comes from
/// our own pages.
/// </summary>
sealed class LoopbackGuard(RequestDelegate next)
{
    public async Task InvokeAsync(HttpContext http)
    {
        Protect(http);
        var request = http.Request;
        // What the connection really is counts, whatever the request says.
        var (local, remote) = (http.Connection.LocalIpAddress, http.Connection.RemoteIpAddress);
        if (local is not null && remote is not null && !(IPAddress.IsLoopback(local) && IPAddress.IsLoopback(remote)))
        {
            await RefuseAsync(http, "this service answers only to this machine: there is no sign-in yet");
            return;
        }
        if (!IsLoopback(request.Host.Host))
        {
            await RefuseAsync(http, "this service answers only to requests for this machine");
            return;
        }
        var origin = request.Headers.Origin.FirstOrDefault();
        var foreign =
            origin is not null
            && !(Uri.TryCreate(origin, UriKind.Absolute, out var uri) && uri.Authority == request.Host.Value);
        if (
            foreign
            || request.Headers["Sec-Fetch-Site"].FirstOrDefault() is "cross-site" or "same-site"
                && request.Path.StartsWithSegments("/api")
        )
        {
            await RefuseAsync(http, "this service does not take requests from other web sites");
            return;
        }
        await next(http);
    }

    // Set when the answer begins, so that answers to errors, which begin again, have them too.
    static void Protect(HttpContext http) =>
        http.Response.OnStarting(() =>
        {
            var headers = http.Response.Headers;
            headers.ContentSecurityPolicy =
                "default-src 'self'; script-src 'self'; worker-src 'self'; style-src 'self' "
                + "'unsafe-inline'; img-src 'self' data:; frame-ancestors 'none'; base-uri 'none'; "
                + "form-action 'self'";
            headers.XContentTypeOptions = "nosniff";
            headers["Referrer-Policy"] = "no-referrer";
            headers["Cross-Origin-Resource-Policy"] = "same-origin";
            if (http.Request.Path.StartsWithSegments("/api") && headers.CacheControl.Count == 0)
                headers.CacheControl = "no-store";
            return Task.CompletedTask;
        });

    public static bool IsLoopback(string host) =>
        host == "localhost"
        || (IPAddress.TryParse(host.Trim('[', ']'), out var address) && IPAddress.IsLoopback(address));

    static Task RefuseAsync(HttpContext http, string why)
    {
        http.Response.StatusCode = 403;
        return http.Response.WriteAsJsonAsync(
            new Microsoft.AspNetCore.Mvc.ProblemDetails
            {
                Status = 403,
                Title = "Refused",
                Detail = why,
            },
            options: null,
            contentType: "application/problem+json"
        );
    }
}
