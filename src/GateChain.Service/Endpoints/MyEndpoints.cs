using GateChain.Access;
using GateChain.Access.Basics;
using GateChain.Access.People;
using GateChain.Client;
using GateChain.Core.Running;
using GateChain.Service.Access;
using GateChain.Service.Views;
using GateChain.Storage;

namespace GateChain.Service.Endpoints;

/// <summary>One's own account: password, one-time codes, sessions, tokens. A token can't change it.</summary>
static class MyEndpoints
{
    public static void Map(RouteGroupBuilder api)
    {
        var mine = api.MapGroup("/me");
        mine.MapPut("/password", SetPassword)
            .NeedsSignIn()
            .RequireRateLimiting(SessionEndpoints.Limit)
            .WithName("setMyPassword")
            .WithSummary("Sets one's password; all one's sessions end")
            .ProducesProblem(422);
        mine.MapPost("/codes", (Visitor visitor) => Begun(Mine(visitor)))
            .NeedsSignIn()
            .WithName("beginCodes")
            .WithSummary("What an authenticator needs to make one-time codes; nothing is stored");
        mine.MapPut("/codes", async (CodesRequest request, AccountService people, Visitor visitor) =>
                new RecoveryCodes(
                    await people.SetCodesAsync(Mine(visitor), request.Secret, request.Code, visitor.Actor)
                )
            )
            .NeedsSignIn()
            .RequireRateLimiting(SessionEndpoints.Limit)
            .WithName("setCodes")
            .WithSummary("Turns one-time codes on; the answer tells recovery codes, once")
            .ProducesProblem(422);
        mine.MapPost("/codes/removal", RemoveCodes)
            .NeedsSignIn()
            .RequireRateLimiting(SessionEndpoints.Limit)
            .WithName("removeCodes")
            .WithSummary("Turns one-time codes off")
            .ProducesProblem(422);
        mine.MapGet("/sessions", (AccessServices access, Visitor visitor) =>
                access.Sessions.Of(Mine(visitor)).Select(s => AccessViews.Of(s, visitor.Session))
            )
            .NeedsSignIn()
            .WithName("listMySessions")
            .WithSummary("One's sessions, the latest used first");
        mine.MapDelete("/sessions/{id}", (string id, AccessServices access, Visitor visitor) =>
                access.Sessions.EndAsync(Mine(visitor), s => AccessViews.IdOf(s) == id, visitor.Actor)
            )
            .NeedsSignIn()
            .WithName("endMySession")
            .WithSummary("Ends a session of one's own");
        mine.MapGet("/tokens", (AccessServices access, Visitor visitor) =>
                access
                    .Tokens.All.Where(t => t.Owner.Id == Mine(visitor).Id)
                    .Select(t => AccessViews.Of(t.Token, t.Owner))
            )
            .NeedsSignIn()
            .WithName("listMyTokens")
            .WithSummary("One's tokens, the newest first");
        mine.MapPost("/tokens", AddToken)
            .NeedsSignIn()
            .WithName("addMyToken")
            .WithSummary("Makes a token; what it is is told once")
            .ProducesProblem(409)
            .ProducesProblem(422);
        mine.MapDelete("/tokens/{id}", RevokeToken)
            .NeedsSignIn()
            .WithName("revokeMyToken")
            .WithSummary("Revokes a token of one's own, at once")
            .ProducesProblem(404);
    }

    // Who has got hold of a token must not be able to keep the door open with it.
    static Account Mine(Visitor visitor) =>
        visitor switch
        {
            { Account: null } => throw new AccessException(
                RefusalKind.Conflict,
                "there are no accounts: add the first one (gatechain user add NAME --role admin)"
            ),
            { Session: null } => throw new AccessException(
                RefusalKind.Conflict,
                "a token can't change an account: sign in with a browser"
            ),
            { Account: { } account } => account,
        };

    static CodesBegun Begun(Account account)
    {
        var (secret, address) = AccountService.BeginCodes(account);
        return new(secret, address);
    }

    static async Task<IResult> SetPassword(
        PasswordRequest request,
        AccountService people,
        Visitor visitor,
        HttpContext http
    )
    {
        await people.SetPasswordAsync(Mine(visitor), request.Old, request.New, visitor.Actor);
        SessionCookie.Remove(http);
        return Results.NoContent();
    }

    static async Task<IResult> RemoveCodes(ConfirmRequest request, AccountService people, Visitor visitor)
    {
        await people.RemoveOwnCodesAsync(Mine(visitor), request.Password, visitor.Actor);
        return Results.NoContent();
    }

    static Task<NewToken> AddToken(TokenRequest request, AccessServices access, Visitor visitor) =>
        AddTokenAsync(Mine(visitor), request.Name, request.Roles, request.Days, access, visitor);

    /// <summary>Makes a token of somebody's.</summary>
    internal static async Task<NewToken> AddTokenAsync(
        Account owner,
        string name,
        IReadOnlyList<string> roles,
        int? days,
        AccessServices access,
        Visitor visitor
    )
    {
        if (days is < 1 or > 3650)
            throw new AccessException(RefusalKind.Invalid, "a token holds 1 to 3650 days, or until it is revoked");
        var (token, secret) = await access.Tokens.AddAsync(
            owner,
            name,
            AccessViews.Grants(roles),
            days is { } some ? TimeSpan.FromDays(some) : null,
            visitor.Actor
        );
        return new(secret, AccessViews.Of(token, owner));
    }

    // A token may end itself: that is how the command line signs out.
    static async Task<IResult> RevokeToken(string id, AccessServices access, Visitor visitor)
    {
        var own = visitor.Account ?? Mine(visitor);
        var token = access.Tokens.WithId(id == "this" ? visitor.Actor.Id : id);
        if (token.Account != own.Id || (visitor.Session is null && token.Id != visitor.Actor.Id))
            throw new AccessException(RefusalKind.NotFound, $"there is no token {id}");
        await access.Tokens.RevokeAsync(token, visitor.Actor);
        return Results.NoContent();
    }
}
