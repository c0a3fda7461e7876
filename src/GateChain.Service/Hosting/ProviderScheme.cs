using GateChain.Access;
using GateChain.Access.Basics;
using GateChain.Core.Identity;
using GateChain.Engine.Secrets;
using GateChain.Service.Access;
using GateChain.Service.Endpoints;
using Microsoft.AspNetCore.Authentication;
using Microsoft.AspNetCore.Authentication.OpenIdConnect;
using Microsoft.Extensions.Options;
using Microsoft.IdentityModel.Protocols.OpenIdConnect;

namespace GateChain.Service.Hosting;

/// <summary>
/// Signing in at an OpenID provider: code flow with PKCE, by ASP.NET Core's own handler. It is there while the settings
/// name a provider, and follows their changes.
/// </summary>
/// <remarks>Source: OpenID Connect Core 1.0; RFC 7636.</remarks>
sealed class ProviderScheme(
    AccessServices access,
    SecretVault secrets,
    IAuthenticationSchemeProvider schemes,
    IOptionsMonitorCache<OpenIdConnectOptions> cache
) : IConfigureNamedOptions<OpenIdConnectOptions>
{
    public const string Name = "provider";

    /// <summary>Under which all of it happens.</summary>
    public const string Path = "/api/session/provider";

    readonly Lock _changing = new();

    /// <summary>Follows the settings from now on.</summary>
    public void Start()
    {
        access.Settings.Changed += Follow;
        Follow();
    }

    void Follow()
    {
        lock (_changing)
        {
            schemes.RemoveScheme(Name);
            cache.TryRemove(Name);
            if (access.Settings.SignIn.Provider is not null)
                schemes.AddScheme(new(Name, null, typeof(OpenIdConnectHandler)));
        }
    }

    public void Configure(OpenIdConnectOptions options) { }

    public void Configure(string? name, OpenIdConnectOptions options)
    {
        if (name != Name || access.Settings.SignIn.Provider is not { } provider)
            return;
        options.Authority = provider.Issuer;
        options.RequireHttpsMetadata = !provider.Issuer.StartsWith("http:", StringComparison.Ordinal);
        options.ClientId = provider.ClientId;
        options.ClientSecret = provider.ClientSecret is { } secret ? secrets.In(Area.Root).Find(secret) : null;
        options.ResponseType = OpenIdConnectResponseType.Code;
        options.ResponseMode = OpenIdConnectResponseMode.Query;
        options.UsePkce = true;
        options.MapInboundClaims = false;
        options.SaveTokens = false;
        options.GetClaimsFromUserInfoEndpoint = true;
        options.CallbackPath = $"{Path}/callback";
        options.SignedOutCallbackPath = $"{Path}/signed-out";
        options.RemoteSignOutPath = $"{Path}/remote-sign-out";
        options.SignedOutRedirectUri = "/sign-in";
        options.Scope.Clear();
        foreach (var scope in (string[])["openid", "profile", "email"])
            options.Scope.Add(scope);
        options.ClaimActions.MapAll();
        foreach (var cookie in (CookieBuilder[])[options.CorrelationCookie, options.NonceCookie])
        {
            // The way back from the provider is a plain visit of this address.
            cookie.SameSite = SameSiteMode.Lax;
            cookie.SecurePolicy = CookieSecurePolicy.SameAsRequest;
        }
        options.Events.OnTicketReceived = ReceiveAsync;
        options.Events.OnRemoteFailure = context =>
        {
            context
                .HttpContext.RequestServices.GetRequiredService<ILogger<ProviderScheme>>()
                .LogWarning("Signing in at the provider failed: {Reason}", context.Failure?.Message);
            context.Response.Redirect("/sign-in?refused=provider");
            context.HandleResponse();
            return Task.CompletedTask;
        };
    }

    async Task ReceiveAsync(TicketReceivedContext context)
    {
        var http = context.HttpContext;
        var principal = context.Principal!;
        string? Claim(string type) => principal.FindFirst(type)?.Value;
        context.HandleResponse();
        try
        {
            var provider = access.Settings.SignIn.Provider!;
            var account = await access.SignIn.ByProviderAsync(
                Claim("sub")!,
                Claim("preferred_username") ?? Claim("email") ?? Claim("name") ?? "somebody",
                Claim("name"),
                [.. principal.FindAll(provider.Claim).Select(c => c.Value).Distinct()],
                VisitorAuthentication.SourceOf(http)
            );
            await SessionEndpoints.BeginAsync(
                account,
                provider.Name,
                access,
                http.RequestServices.GetRequiredService<OpenDoor>(),
                http
            );
            http.Response.Redirect(LocalAddress(context.ReturnUri));
        }
        catch (AccessException)
        {
            http.Response.Redirect("/sign-in?refused=role");
        }
    }

    /// <summary>An address within the console: one that leads elsewhere becomes its home.</summary>
    public static string LocalAddress(string? wanted) =>
        wanted is ['/', ..]
        && wanted is not ['/', '/' or '\\', ..]
        && !wanted.Any(c => char.IsControl(c) || c == '\\')
        && Uri.TryCreate(wanted, UriKind.Relative, out _)
            ? wanted
            : "/";

    public static void Map(RouteGroupBuilder api)
    {
        api.MapGet("/session/provider", (AccessServices access, string? back = null) =>
                access.Settings.SignIn.Provider is null
                    ? Results.Redirect("/sign-in")
                    : Results.Challenge(new() { RedirectUri = LocalAddress(back) }, [Name])
            )
            .ForAnyone("it is how one signs in")
            .RequireRateLimiting(SessionEndpoints.Limit)
            .WithName("signInAtProvider")
            .WithSummary("Goes to the OpenID provider to sign in, and comes back")
            .Produces(302);
        api.MapGet("/session/provider/sign-out", (AccessServices access) =>
                access.Settings.SignIn.Provider is null
                    ? Results.Redirect("/sign-in")
                    : Results.SignOut(new() { RedirectUri = "/sign-in" }, [Name])
            )
            .ForAnyone("signs out at the provider; who is signed in here stays so")
            .RequireRateLimiting(SessionEndpoints.Limit)
            .WithName("signOutAtProvider")
            .WithSummary("Goes to the OpenID provider to sign out, and comes back")
            .Produces(302);
    }
}
