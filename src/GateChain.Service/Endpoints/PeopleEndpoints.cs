using GateChain.Access;
using GateChain.Access.People;
using GateChain.Client;
using GateChain.Core.Access;
using GateChain.Engine.Runs;
using GateChain.Service.Access;
using GateChain.Service.Views;

namespace GateChain.Service.Endpoints;

/// <summary>People, their roles and all tokens; how people sign in; what steps of folders may use.</summary>
static class PeopleEndpoints
{
    public static void Map(RouteGroupBuilder api)
    {
        api.MapGet("/people", (AccountService people) => people.All.Select(AccessViews.Of))
            .Needs(Permission.Administer, Where.Everywhere)
            .WithName("listPeople")
            .WithSummary("Who may sign in, with their roles");
        api.MapPost("/people", Add)
            .Needs(Permission.Administer, Where.Everywhere)
            .WithName("addPerson")
            .WithSummary("Adds somebody; the first one is an admin, and from then on people sign in")
            .ProducesProblem(409)
            .ProducesProblem(422);
        api.MapPut(
                "/people/{name}/roles",
                (string name, RolesRequest request, AccountService people, Visitor visitor) =>
                    people.SetGrantsAsync(people.Named(name), AccessViews.Grants(request.Roles), visitor.Actor)
            )
            .Needs(Permission.Administer, Where.Everywhere)
            .WithName("setRoles")
            .WithSummary("Gives somebody other roles, at once")
            .ProducesProblem(404)
            .ProducesProblem(409)
            .ProducesProblem(422);
        api.MapPut(
                "/people/{name}/disabled",
                (string name, DisabledRequest request, AccountService people, Visitor visitor) =>
                    people.SetDisabledAsync(people.Named(name), request.Disabled, visitor.Actor)
            )
            .Needs(Permission.Administer, Where.Everywhere)
            .WithName("setDisabled")
            .WithSummary("Keeps somebody out, at once, or lets them in again")
            .ProducesProblem(404)
            .ProducesProblem(409);
        api.MapPost("/people/{name}/link", Reset)
            .Needs(Permission.Administer, Where.Everywhere)
            .WithName("makeLink")
            .WithSummary("Makes a one-time link with which somebody chooses a password")
            .ProducesProblem(404)
            .ProducesProblem(409);
        api.MapDelete("/people/{name}/codes", (string name, AccountService people, Visitor visitor) =>
                people.RemoveCodesAsync(people.Named(name), visitor.Actor)
            )
            .Needs(Permission.Administer, Where.Everywhere)
            .WithName("removeCodesOf")
            .WithSummary("Turns off the one-time codes of somebody who has lost their device")
            .ProducesProblem(404);
        api.MapDelete("/people/{name}/sessions", (string name, AccessServices access, Visitor visitor) =>
                access.Sessions.EndAsync(access.People.Named(name), _ => true, visitor.Actor)
            )
            .Needs(Permission.Administer, Where.Everywhere)
            .WithName("endSessionsOf")
            .WithSummary("Ends all sessions of somebody")
            .ProducesProblem(404);
        api.MapDelete("/people/{name}", (string name, AccountService people, Visitor visitor) =>
                people.RemoveAsync(people.Named(name), visitor.Actor)
            )
            .Needs(Permission.Administer, Where.Everywhere)
            .WithName("removePerson")
            .WithSummary("Removes somebody, with their tokens and sessions; what they did stays in the audit log")
            .ProducesProblem(404)
            .ProducesProblem(409);
        api.MapGet("/tokens", (AccessServices access) =>
                access.Tokens.All.Select(t => AccessViews.Of(t.Token, t.Owner))
            )
            .Needs(Permission.Administer, Where.Everywhere)
            .WithName("listTokens")
            .WithSummary("All tokens, the newest first");
        api.MapPost("/tokens", (OwnedTokenRequest request, AccessServices access, Visitor visitor) =>
                MyEndpoints.AddTokenAsync(
                    access.People.Named(request.Owner),
                    request.Name,
                    request.Roles,
                    request.Days,
                    access,
                    visitor
                )
            )
            .Needs(Permission.Administer, Where.Everywhere)
            .WithName("addToken")
            .WithSummary("Makes a token of somebody's; what it is is told once")
            .ProducesProblem(404)
            .ProducesProblem(409)
            .ProducesProblem(422);
        api.MapDelete("/tokens/{id}", (string id, AccessServices access, Visitor visitor) =>
                access.Tokens.RevokeAsync(access.Tokens.WithId(id), visitor.Actor)
            )
            .Needs(Permission.Administer, Where.Everywhere)
            .WithName("revokeToken")
            .WithSummary("Revokes a token of anybody, at once")
            .ProducesProblem(404);
        api.MapGet("/access/sign-in", (AccessServices access) => AccessViews.Of(access.Settings.SignIn))
            .Needs(Permission.Administer, Where.Everywhere)
            .WithName("getSignIn")
            .WithSummary("How people sign in");
        api.MapPut("/access/sign-in", (SignInInfo request, AccessServices access, Visitor visitor) =>
                access.Settings.SetSignInAsync(AccessViews.Settings(request), visitor.Actor)
            )
            .Needs(Permission.Administer, Where.Everywhere)
            .WithName("setSignIn")
            .WithSummary("Says for whom one-time codes are needed, and which OpenID provider there is")
            .ProducesProblem(422);
        api.MapGet("/access/rules", (AccessServices access) =>
                access.Settings.Rules.Values.OrderBy(r => r.Area.Path, StringComparer.Ordinal).Select(AccessViews.Of)
            )
            .Needs(Permission.Administer, Where.Everywhere)
            .WithName("listRules")
            .WithSummary("What steps of folders may use; elsewhere programs and plug-ins are not allowed");
        api.MapPut("/access/rules", (AreaRulesInfo request, AccessServices access, Visitor visitor) =>
                access.Settings.SetRulesAsync(
                    AreaLocator.Read(request.Folder),
                    AccessViews.Rules(request),
                    visitor.Actor
                )
            )
            .Needs(Permission.Administer, Where.Everywhere)
            .WithName("setRules")
            .WithSummary("Says what steps of a folder and below may use")
            .ProducesProblem(422);
        api.MapDelete("/access/rules", (string folder, AccessServices access, Visitor visitor) =>
                access.Settings.SetRulesAsync(AreaLocator.Read(folder), null, visitor.Actor)
            )
            .Needs(Permission.Administer, Where.Everywhere)
            .WithName("removeRules")
            .WithSummary("Lets the rules of the folder above hold again");
    }

    static async Task<NewPerson> Add(PersonRequest request, AccountService people, RunStarter starter, Visitor visitor)
    {
        var (account, link) = await people.AddAsync(
            request.Name,
            request.FullName,
            AccessViews.Grants(request.Roles),
            visitor.Actor
        );
        return new(AccessViews.Of(account), LinkAddress(starter, link));
    }

    static async Task<NewPerson> Reset(string name, AccountService people, RunStarter starter, Visitor visitor)
    {
        var account = people.Named(name);
        return new(AccessViews.Of(account), LinkAddress(starter, await people.ResetAsync(account, visitor.Actor)));
    }

    /// <summary>The address of a one-time link: what it holds stands behind the #, which no log has.</summary>
    internal static string LinkAddress(RunStarter starter, string link) =>
        $"{starter.Home?.TrimEnd('/')}/welcome#{link}";
}
