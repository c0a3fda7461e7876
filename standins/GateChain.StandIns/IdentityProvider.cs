using System.Net;
using System.Security.Claims;
using Microsoft.AspNetCore;
using OpenIddict.Abstractions;
using OpenIddict.Server;
using OpenIddict.Server.AspNetCore;
using static OpenIddict.Abstractions.OpenIddictConstants;
using static OpenIddict.Server.OpenIddictServerEvents;

namespace GateChain.StandIns;

/// <summary>
/// Larkmoor's OpenID provider: a page on which one says who one is. The protocol is OpenIddict's; the people are made
/// up.
/// </summary>
static class IdentityProvider
{
    public const string Client = "gatechain",
        Secret = "made-up-provider-secret";

    sealed record Person(string Id, string Name, string FullName, string[] Groups);

    static readonly Person[] People =
    [
        new("1001", "bea", "Bea Holloway", ["tank-crew"]),
        new("1002", "carl", "Carl Quill", ["office", "tank-crew"]),
        new("1003", "dina", "Dina Marsh", ["visitors"]),
    ];

    public static void Add(IServiceCollection services) =>
        services
            .AddOpenIddict()
            .AddServer(server =>
            {
                server
                    .SetAuthorizationEndpointUris("id/authorize")
                    .SetTokenEndpointUris("id/token")
                    .SetUserInfoEndpointUris("id/me")
                    .SetEndSessionEndpointUris("id/end")
                    .AllowAuthorizationCodeFlow()
                    .RequireProofKeyForCodeExchange()
                    .RegisterScopes(Scopes.OpenId, Scopes.Profile, Scopes.Email)
                    .RegisterClaims(Claims.Name, Claims.PreferredUsername, "groups")
                    .AddEphemeralEncryptionKey()
                    .AddEphemeralSigningKey()
                    .DisableAccessTokenEncryption()
                    .EnableDegradedMode();
                server.AddEventHandler<ValidateAuthorizationRequestContext>(h =>
                    h.UseInlineHandler(context =>
                    {
                        if (context.ClientId != Client)
                            context.Reject(Errors.InvalidClient, "it does not know this client");
                        return default;
                    })
                );
                server.AddEventHandler<ValidateTokenRequestContext>(h =>
                    h.UseInlineHandler(context =>
                    {
                        if (context.ClientId != Client || context.ClientSecret != Secret)
                            context.Reject(Errors.InvalidClient, "it does not know this client");
                        return default;
                    })
                );
                server.AddEventHandler<ValidateEndSessionRequestContext>(h => h.UseInlineHandler(_ => default));
                server.AddEventHandler<HandleAuthorizationRequestContext>(h => h.UseInlineHandler(AuthorizeAsync));
                server.AddEventHandler<HandleUserInfoRequestContext>(h =>
                    h.UseInlineHandler(context =>
                    {
                        foreach (var claim in (string[])[Claims.Name, Claims.PreferredUsername])
                            context.Claims[claim] = context.AccessTokenPrincipal!.GetClaim(claim);
                        context.Claims["groups"] = new([.. context.AccessTokenPrincipal!.GetClaims("groups")]);
                        return default;
                    })
                );
                server.AddEventHandler<HandleEndSessionRequestContext>(h =>
                    h.UseInlineHandler(context =>
                    {
                        context.SignOut();
                        return default;
                    })
                );
                server.UseAspNetCore().DisableTransportSecurityRequirement();
            });

    static async ValueTask AuthorizeAsync(HandleAuthorizationRequestContext context)
    {
        var http = context.Transaction.GetHttpRequest()!.HttpContext;
        var chosen = People.FirstOrDefault(p => p.Name == (string?)context.Request["person"]);
        if (chosen is null)
        {
            var here = WebUtility.HtmlEncode($"{http.Request.Path}{http.Request.QueryString}");
            http.Response.ContentType = "text/html; charset=utf-8";
            await http.Response.WriteAsync(
                "<!doctype html><title>Larkmoor</title><h1>Larkmoor: who are you?</h1><ul>"
                    + string.Concat(
                        People.Select(p =>
                            $"<li><a href=\"{here}&amp;person={p.Name}\">{p.FullName}</a> "
                            + $"({string.Join(", ", p.Groups)})"
                        )
                    )
                    + "</ul>"
            );
            context.HandleRequest();
            return;
        }
        var identity = new ClaimsIdentity("standin", Claims.Name, Claims.Role);
        identity.SetClaim(Claims.Subject, chosen.Id);
        identity.SetClaim(Claims.Name, chosen.FullName);
        identity.SetClaim(Claims.PreferredUsername, chosen.Name);
        identity.SetClaims("groups", [.. chosen.Groups]);
        identity.SetScopes(context.Request.GetScopes());
        identity.SetDestinations(_ => [Destinations.AccessToken, Destinations.IdentityToken]);
        context.SignIn(new ClaimsPrincipal(identity));
    }
}
