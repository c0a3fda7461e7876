using System.Threading.RateLimiting;
using GateChain.Access;
using GateChain.Engine.Basics;
using GateChain.Service.Access;
using GateChain.Service.Endpoints;
using GateChain.Storage;
using Microsoft.AspNetCore.Authentication;
using Microsoft.AspNetCore.Authentication.OpenIdConnect;
using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.DataProtection;
using Microsoft.AspNetCore.HttpOverrides;
using Microsoft.AspNetCore.RateLimiting;
using Microsoft.Extensions.Options;

namespace GateChain.Service.Hosting;

/// <summary>Who is let in: puts ASP.NET Core's authentication, authorization and rate limits together.</summary>
static class AccessHosting
{
    public static void Add(
        IServiceCollection services,
        ServiceOptions options,
        EngineOptions folders,
        IStore store,
        ISecretCipher cipher
    )
    {
        services
            .AddSingleton(s => new AccessServices(
                store.Access,
                store.Audit,
                cipher,
                s.GetRequiredService<TimeProvider>(),
                s.GetRequiredService<ILogger<AccessServices>>()
            ))
            .AddSingleton(s => s.GetRequiredService<AccessServices>().People)
            .AddSingleton(s => s.GetRequiredService<AccessServices>().Devices)
            .AddSingleton(store.Audit)
            .AddSingleton(store.Backfills)
            .AddSingleton(new OpenDoor(options.IsLoopback && options.BehindProxy.Count == 0))
            .AddSingleton<AreaLocator>()
            .AddSingleton<PushPermits>()
            .AddSingleton<RefusalLog>()
            .AddSingleton<ProviderScheme>()
            .AddSingleton<IConfigureOptions<OpenIdConnectOptions>>(s => s.GetRequiredService<ProviderScheme>())
            .AddSingleton<IAuthorizationHandler, PermitHandler>()
            .AddSingleton<IAuthorizationMiddlewareResultHandler, Refusals>()
            .AddSingleton(
                new GuardOptions(
                    options.IsLoopback && options.BehindProxy.Count == 0,
                    new[] { options.Listen, options.Home }
                        .OfType<string>()
                        .Select(a => new Uri(a).Host)
                        .ToHashSet(StringComparer.OrdinalIgnoreCase)
                )
            );
        var protection = services.AddDataProtection().SetApplicationName("gatechain");
        // What one node hands a browser another one has to read.
        if (options.Join is null)
            protection.PersistKeysToFileSystem(new(Path.Combine(folders.DataFolder, "keys")));
        else
            protection.AddKeyManagementOptions(keys => keys.XmlRepository = new SharedKeys(store.Access, cipher));
        services
            .AddAuthentication(VisitorAuthentication.Name)
            .AddScheme<AuthenticationSchemeOptions, VisitorAuthentication>(VisitorAuthentication.Name, null)
            // What the handler needs; the scheme comes and goes with the settings.
            .AddOpenIdConnect(ProviderScheme.Name, _ => { });
        services.AddAuthorization();
        services.AddRateLimiter(limits => Limit(limits, options));
        services.Configure<ForwardedHeadersOptions>(forwarded =>
        {
            forwarded.ForwardedHeaders =
                ForwardedHeaders.XForwardedFor | ForwardedHeaders.XForwardedProto | ForwardedHeaders.XForwardedHost;
            // From who is named, and nobody else.
            forwarded.KnownProxies.Clear();
            forwarded.KnownIPNetworks.Clear();
            foreach (var proxy in options.BehindProxy)
                forwarded.KnownProxies.Add(System.Net.IPAddress.Parse(proxy));
            forwarded.ForwardLimit = 1;
        });
    }

    /// <summary>
    /// An endpoint that neither says what it needs nor why it is open is a mistake: it answers nobody.
    /// </summary>
    /// <exception cref="InvalidOperationException">It is one.</exception>
    public static Task Hold(HttpContext http, RequestDelegate next)
    {
        // What routing answers by itself, as that there is no such method, is no endpoint of ours.
        if (
            http.GetEndpoint() is RouteEndpoint { Metadata: var metadata } endpoint
            && metadata.GetMetadata<Permit>() is null == metadata.GetMetadata<OpenTo>() is null
        )
        {
            throw new InvalidOperationException($"{endpoint.DisplayName} does not say who may use it");
        }
        return next(http);
    }

    static void Limit(RateLimiterOptions limits, ServiceOptions options)
    {
        limits.RejectionStatusCode = 429;
        limits.OnRejected = (context, _) =>
        {
            context.HttpContext.Response.Headers.RetryAfter = "1";
            return ValueTask.CompletedTask;
        };
        static RateLimitPartition<string> Bucket(string who, int burst, int perSecond) =>
            RateLimitPartition.GetTokenBucketLimiter(who, _ => new()
                {
                    TokenLimit = burst,
                    TokensPerPeriod = perSecond,
                    ReplenishmentPeriod = TimeSpan.FromSeconds(1),
                    QueueLimit = 0,
                });
        // Each address of a hook by itself: who calls one too often keeps nobody from another.
        limits.AddPolicy(HookEndpoints.Limit, http =>
            Bucket(http.Request.Path.Value ?? "", options.HookBurst, options.HookBurst)
        );
        // What costs a hash or a guess, by the address that it comes from.
        limits.AddPolicy(SessionEndpoints.Limit, http =>
            Bucket(VisitorAuthentication.SourceOf(http), burst: 60, perSecond: 5)
        );
        limits.GlobalLimiter = PartitionedRateLimiter.Create<HttpContext, string>(http =>
            Visitor.Of(http) switch
            {
                { Account: { } account } => Bucket(account.Id, options.RequestBurst, options.RequestBurst / 2),
                // This machine's own user, and calls of hooks, which have their own bound.
                _ when OpenDoor.IsOpen(http)
                        && !http.RequestServices.GetRequiredService<AccessServices>().People.AreThere
                        || http.Request.Path.StartsWithSegments("/hooks") => RateLimitPartition.GetNoLimiter(""),
                _ => Bucket(
                    $"at {VisitorAuthentication.SourceOf(http)}",
                    options.RequestBurst / 2,
                    options.RequestBurst / 4
                ),
            }
        );
    }
}
