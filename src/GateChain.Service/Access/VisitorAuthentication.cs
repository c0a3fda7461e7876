using System.Security.Claims;
using System.Text.Encodings.Web;
using GateChain.Access;
using GateChain.Access.People;
using GateChain.Access.Tokens;
using GateChain.Core.Access;
using GateChain.Core.Identity;
using Microsoft.AspNetCore.Authentication;
using Microsoft.Extensions.Options;

namespace GateChain.Service.Access;

/// <summary>
/// Finds out who makes a request: by a token, by a session, or, while there are no accounts, the one who uses this
/// machine.
/// </summary>
sealed class VisitorAuthentication(
    IOptionsMonitor<AuthenticationSchemeOptions> options,
    ILoggerFactory logger,
    UrlEncoder encoder,
    AccessServices access
) : AuthenticationHandler<AuthenticationSchemeOptions>(options, logger, encoder)
{
    /// <summary>The name of the scheme.</summary>
    public const string Name = "visitor";

    /// <summary>
    /// What requests that change something carry when a browser makes them for somebody who has signed in: pages of
    /// others can't. <c>active</c> while somebody is at the keyboard, <c>idle</c> for what a page does by itself.
    /// </summary>
    public const string Header = "X-Gatechain";

    const string Bearer = "Bearer ";

    protected override Task<AuthenticateResult> HandleAuthenticateAsync()
    {
        if (Find() is not { } visitor)
            return Task.FromResult(AuthenticateResult.NoResult());
        Context.Features.Set(visitor);
        var identity = new ClaimsIdentity([new(ClaimTypes.NameIdentifier, visitor.Actor.Id)], Name);
        return Task.FromResult(AuthenticateResult.Success(new(new(identity), Name)));
    }

    Visitor? Find()
    {
        var source = SourceOf(Context);
        if (!access.People.AreThere)
        {
            // A service that waits for its first account lets nobody else in.
            return OpenDoor.IsOpen(Context)
                ? new(
                    LocalCaller.Of(Context) with
                    {
                        Source = source,
                        Through = "this machine",
                    },
                    Rights.All,
                    null,
                    null
                )
                : null;
        }
        // What is shown counts, and nothing else is tried beside it.
        if (Request.Headers.Authorization.ToString() is { Length: > 0 } shown)
        {
            return
                shown.StartsWith(Bearer, StringComparison.Ordinal)
                && access.Tokens.Find(shown[Bearer.Length..].Trim()) is var (token, owner, rights)
                ? new(
                    TokenService.ActorOf(token, owner) with
                    {
                        Source = source,
                        Through = $"token {token.Name}",
                    },
                    rights,
                    owner,
                    null
                )
                {
                    Stands = () =>
                        access.Tokens.Find(shown[Bearer.Length..].Trim()) is var (_, _, now) && Same(now, rights),
                }
                : null;
        }
        if (Request.Cookies[SessionCookie.NameFor(Request)] is not { } cookie)
            return null;
        var state = Request.Headers[Header].ToString();
        if (state.Length == 0 && !IsSafe(Request.Method))
            return null;
        return access.Sessions.Find(cookie, isActive: state == "active") is var (session, account, may)
            ? new(AccountService.ActorOf(account) with { Source = source, Through = "console" }, may, account, session)
            {
                Stands = () => access.Sessions.Find(cookie, isActive: false) is var (_, _, now) && Same(now, may),
            }
            : null;
    }

    static bool Same(Rights now, Rights then) => now.Grants.SequenceEqual(then.Grants);

    static bool IsSafe(string method) => HttpMethods.IsGet(method) || HttpMethods.IsHead(method);

    /// <summary>The address that a request comes from, as the audit log writes it.</summary>
    public static string SourceOf(HttpContext http) =>
        http.Connection.RemoteIpAddress is { } address
            ? (address.IsIPv4MappedToIPv6 ? address.MapToIPv4() : address).ToString()
            : "";
}

/// <summary>Whether a service without accounts may be used by who reaches it.</summary>
/// <param name="MayBeOpen">Yes on this machine's loopback; no where it listens to others, or behind a proxy.</param>
sealed record OpenDoor(bool MayBeOpen)
{
    public static bool IsOpen(HttpContext http) => http.RequestServices.GetRequiredService<OpenDoor>().MayBeOpen;
}

/// <summary>Who uses a service without accounts, as they say.</summary>
static class LocalCaller
{
    public static Actor Of(HttpContext http) =>
        Actor.Person(
            http.Request.Headers["X-Gatechain-By"].FirstOrDefault() is { Length: > 0 and <= 300 } by
                ? Plain(Uri.UnescapeDataString(by))
                : "somebody"
        );

    // What would begin another line, or turn the reading of one around, is no part of a name.
    static string Plain(string name) =>
        new string([
            .. name.Where(c =>
                !char.IsControl(c)
                && char.GetUnicodeCategory(c)
                    is not (
                        System.Globalization.UnicodeCategory.Format
                        or System.Globalization.UnicodeCategory.LineSeparator
                        or System.Globalization.UnicodeCategory.ParagraphSeparator
                    )
            ),
        ]).Trim()
            is { Length: > 0 } plain
            ? plain
            : "somebody";
}

/// <summary>The cookie that names a session.</summary>
static class SessionCookie
{
    /// <summary>Its name: browsers hold one that begins so to https, to this host and to the whole of it.</summary>
    public static string NameFor(HttpRequest request) => request.IsHttps ? "__Host-gatechain" : "gatechain";

    public static void Set(HttpContext http, string secret) =>
        http.Response.Cookies.Append(NameFor(http.Request), secret, OptionsFor(http.Request));

    public static void Remove(HttpContext http) =>
        http.Response.Cookies.Delete(NameFor(http.Request), OptionsFor(http.Request));

    static CookieOptions OptionsFor(HttpRequest request) =>
        new()
        {
            HttpOnly = true,
            Secure = request.IsHttps,
            SameSite = SameSiteMode.Strict,
            Path = "/",
            IsEssential = true,
        };
}
