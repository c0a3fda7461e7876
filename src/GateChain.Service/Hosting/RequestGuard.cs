using System.Net;
using Microsoft.AspNetCore.Mvc;

namespace GateChain.Service.Hosting;

/// <summary>
/// Keeps other web sites out: requests must name an address of the service as their host (a page elsewhere can't, even
/// when it makes a name of its own point here), and browsers must say that the request comes from our own pages. A
/// service without accounts answers to this machine only.
/// </summary>
sealed class RequestGuard(RequestDelegate next, GuardOptions options)
{
    public async Task InvokeAsync(HttpContext http)
    {
        Protect(http);
        var request = http.Request;
        // What the connection really is counts, whatever the request says.
        var (local, remote) = (http.Connection.LocalIpAddress, http.Connection.RemoteIpAddress);
        if (options.LoopbackOnly && local is not null && remote is not null && !(IsLocal(local) && IsLocal(remote)))
        {
            await RefuseAsync(http, 403, "this service answers only to this machine");
            return;
        }
        if (!IsOurs(request.Host.Host, local))
        {
            await RefuseAsync(http, 403, "this service is not called so: it answers to requests for its own address");
            return;
        }
        var origin = request.Headers.Origin.FirstOrDefault();
        var foreign =
            origin is not null
            && !(
                Uri.TryCreate(origin, UriKind.Absolute, out var uri)
                && uri.Authority == request.Host.Value
                && uri.Scheme == request.Scheme
            );
        if (
            foreign
            || request.Headers["Sec-Fetch-Site"].FirstOrDefault() is "cross-site" or "same-site"
                && request.Path.StartsWithSegments("/api")
                // Coming back from the provider is a way from one site to another.
                && !request.Path.StartsWithSegments(ProviderScheme.Path)
        )
        {
            await RefuseAsync(http, 403, "this service does not take requests from other web sites");
            return;
        }
        // Addresses stand in logs, histories and what is sent on.
        if (request.QueryString.Value?.Contains("gct_", StringComparison.Ordinal) == true)
        {
            await RefuseAsync(
                http,
                400,
                "a token is shown in the header Authorization, never in an address: revoke it"
            );
            return;
        }
        await next(http);
    }

    static bool IsLocal(IPAddress address) => IPAddress.IsLoopback(address);

    bool IsOurs(string host, IPAddress? local) =>
        options.Hosts.Contains(host)
        || (options.LoopbackOnly || local is null || IsLocal(local)) && IsLoopback(host)
        || IPAddress.TryParse(host.Trim('[', ']'), out var address)
            && (address.Equals(local) || local?.IsIPv4MappedToIPv6 == true && address.Equals(local.MapToIPv4()));

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
            headers.XFrameOptions = "DENY";
            headers["Referrer-Policy"] = "no-referrer";
            headers["Cross-Origin-Resource-Policy"] = "same-origin";
            headers["Cross-Origin-Opener-Policy"] = "same-origin";
            if (http.Request.IsHttps)
                headers.StrictTransportSecurity = "max-age=31536000";
            if (http.Request.Path.StartsWithSegments("/api") && headers.CacheControl.Count == 0)
                headers.CacheControl = "no-store";
            return Task.CompletedTask;
        });

    public static bool IsLoopback(string host) =>
        host == "localhost"
        || (IPAddress.TryParse(host.Trim('[', ']'), out var address) && IPAddress.IsLoopback(address));

    static Task RefuseAsync(HttpContext http, int status, string why)
    {
        http.Response.StatusCode = status;
        return http.Response.WriteAsJsonAsync(
            new ProblemDetails
            {
                Status = status,
                Title = "Refused",
                Detail = why,
            },
            options: null,
            contentType: "application/problem+json"
        );
    }
}

/// <summary>What requests must be like.</summary>
/// <param name="LoopbackOnly">Whether only this machine is answered.</param>
/// <param name="Hosts">Names of the service beside its addresses.</param>
sealed record GuardOptions(bool LoopbackOnly, IReadOnlySet<string> Hosts);
