using GateChain.Access;
using GateChain.Access.People;
using GateChain.Client;
using GateChain.Core.Access;
using GateChain.Service.Access;

namespace GateChain.Service.Endpoints;

/// <summary>Signing in and out: by password, by a one-time link.</summary>
static class SessionEndpoints
{
    /// <summary>The policy that bounds how often somebody who is not known may ask.</summary>
    public const string Limit = "strangers";

    public static void Map(RouteGroupBuilder api)
    {
        api.MapGet("/session", (AccessServices access, OpenDoor door, Visitor visitor) => Of(access, door, visitor))
            .ForAnyone("the sign-in page asks how one signs in")
            .WithName("getSession")
            .WithSummary("Who asks, what they may do, and how one signs in");
        api.MapPost("/session", SignIn)
            .ForAnyone("it is how one signs in")
            .RequireRateLimiting(Limit)
            .WithName("signIn")
            .WithSummary("Signs in by name and password; the answer sets a cookie")
            .Produces<SessionInfo>()
            .ProducesProblem(401)
            .ProducesProblem(429);
        api.MapDelete("/session", SignOut).NeedsSignIn().WithName("signOut").WithSummary("Ends one's session");
        api.MapPost("/links/look", async (LinkRequest request, AccountService people) =>
                new LinkInfo((await people.OfLinkAsync(request.Link))?.Name)
            )
            .ForAnyone("who has the link is let in by it")
            .RequireRateLimiting(Limit)
            .WithName("lookAtLink")
            .WithSummary("Whose one-time link it is")
            .ProducesProblem(404);
        api.MapPost("/links/password", SetByLink)
            .ForAnyone("who has the link is let in by it")
            .RequireRateLimiting(Limit)
            .WithName("usePasswordLink")
            .WithSummary("Sets the password of whose one-time link it is, or makes the first account")
            .ProducesProblem(404)
            .ProducesProblem(422);
    }

    static SessionInfo Of(AccessServices access, OpenDoor door, Visitor visitor)
    {
        var state = visitor.Account is { } account
            ? access.Sessions.NeedsCodes(account)
                ? "needs-codes"
                : "signed-in"
            : access.People.AreThere
                ? "signed-out"
                : door.MayBeOpen
                    ? "open"
                    : "first-start";
        return new(
            state,
            visitor.Account?.Name,
            visitor.Account?.FullName,
            [.. visitor.Rights.Grants.Select(g => g.ToString())],
            Enum.GetValues<Permission>()
                .ToDictionary(
                    p => p.ToString().ToLowerInvariant(),
                    p => (IReadOnlyList<string>)[.. visitor.Rights.Areas(p).Select(a => a.Path)]
                ),
            access.Settings.SignIn.Provider?.Name,
            visitor.Account is null ? null
                : visitor.Session is null ? "token"
                : "session",
            visitor.Account?.CodeCipher is not null
        );
    }

    static async Task<IResult> SignIn(SignInRequest request, AccessServices access, OpenDoor door, HttpContext http)
    {
        // A page of another can't send it: nobody is signed in as somebody else without knowing.
        if (http.Request.Headers[VisitorAuthentication.Header].Count == 0)
            throw new BadHttpRequestException($"signing in takes the header {VisitorAuthentication.Header}");
        var source = VisitorAuthentication.SourceOf(http);
        var found = await access.SignIn.ByPasswordAsync(request.Name, request.Password, request.Code, source);
        if (found.Account is not { } account)
        {
            if (found.Pause is { } pause)
                http.Response.Headers.RetryAfter = ((int)pause.TotalSeconds).ToString();
            return Results.Problem(
                statusCode: found.Pause is null ? 401 : 429,
                title: found.Pause is null ? "Not signed in" : "Too many tries",
                detail: found.Sentence,
                extensions: new Dictionary<string, object?> { ["needsCode"] = found.NeedsCode }
            );
        }
        return Results.Json(await BeginAsync(account, "password", access, door, http), GateChainClient.Json);
    }

    /// <summary>Begins a session under a new id; one that the browser had before is over.</summary>
    internal static async Task<SessionInfo> BeginAsync(
        Storage.Account account,
        string through,
        AccessServices access,
        OpenDoor door,
        HttpContext http
    )
    {
        var source = VisitorAuthentication.SourceOf(http);
        var name = SessionCookie.NameFor(http.Request);
        if (
            http.Request.Cookies[name] is { } old
            && access.Sessions.Find(old, isActive: false) is var (session, former, _)
        )
        {
            await access.Sessions.EndAsync(
                former,
                s => s.Hash == session.Hash,
                AccountService.ActorOf(former) with
                {
                    Source = source,
                    Through = "console",
                }
            );
        }
        var secret = await access.Sessions.BeginAsync(
            account,
            source,
            http.Request.Headers.UserAgent.ToString(),
            through
        );
        SessionCookie.Set(http, secret);
        var visitor = access.Sessions.Find(secret) is var (begun, who, rights)
            ? new Visitor(AccountService.ActorOf(who), rights, who, begun)
            : Visitor.Nobody;
        return Of(access, door, visitor);
    }

    static async Task<IResult> SignOut(AccessServices access, Visitor visitor, HttpContext http)
    {
        if (visitor is { Account: { } account, Session: { } session })
            await access.Sessions.EndAsync(account, s => s.Hash == session.Hash, visitor.Actor);
        SessionCookie.Remove(http);
        return Results.NoContent();
    }

    static async Task<IResult> SetByLink(LinkPasswordRequest request, AccessServices access, HttpContext http)
    {
        var source = VisitorAuthentication.SourceOf(http);
        if (request.Name is { } name)
            await access.People.AddFirstAsync(request.Link, name, request.Password, source);
        else
            await access.People.SetByLinkAsync(request.Link, request.Password, source);
        return Results.NoContent();
    }
}
