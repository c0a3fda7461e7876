using GateChain.Core.Access;
using Microsoft.AspNetCore.Authorization;

namespace GateChain.Service.Access;

/// <summary>Where somebody needs a permission to use an endpoint.</summary>
enum Where
{
    /// <summary>In some area: the endpoint shows what lies in those areas, or holds what the body names against them.
    /// </summary>
    Somewhere,

    /// <summary>In the whole workspace.</summary>
    Everywhere,

    /// <summary>In the area of the chain that the address names.</summary>
    Chain,

    /// <summary>The same; a chain that is not there may come to be there.</summary>
    NewChain,

    /// <summary>In the area of the run that the address names.</summary>
    Run,

    /// <summary>In the area of the trigger that the address names.</summary>
    Trigger,

    /// <summary>In the area of the trigger of the backfill that the address names.</summary>
    Backfill,

    /// <summary>In the folder of the file that the query names.</summary>
    File,
}

/// <summary>What an endpoint needs; declared beside its route. The role table of the docs is made from it.</summary>
/// <param name="Permission">The permission; null for being signed in.</param>
/// <param name="Where">Where.</param>
sealed record Permit(Permission? Permission, Where Where) : IAuthorizationRequirement;

/// <summary>An endpoint that is open to who has not signed in.</summary>
/// <param name="Why">Why it is.</param>
sealed record OpenTo(string Why);

/// <summary>Declares what endpoints need.</summary>
static class Permits
{
    /// <summary>A permission is needed.</summary>
    public static RouteHandlerBuilder Needs(
        this RouteHandlerBuilder route,
        Permission permission,
        Where where = Where.Somewhere
    ) => Needs(route, new(permission, where)).ProducesProblem(403);

    /// <summary>A permission is needed, for a route that somebody else has made.</summary>
    public static void Needs(this IEndpointConventionBuilder route, Permission permission, Where where)
    {
        var permit = new Permit(permission, where);
        route.RequireAuthorization(policy => policy.AddRequirements(permit)).WithMetadata(permit);
    }

    /// <summary>Who has signed in may use it, whatever their roles.</summary>
    public static RouteHandlerBuilder NeedsSignIn(this RouteHandlerBuilder route) =>
        Needs(route, new(null, Where.Somewhere));

    static RouteHandlerBuilder Needs(RouteHandlerBuilder route, Permit permit) =>
        route.RequireAuthorization(policy => policy.AddRequirements(permit)).WithMetadata(permit).ProducesProblem(401);

    /// <summary>Anybody may use it.</summary>
    /// <param name="route">The route.</param>
    /// <param name="why">Why it is open.</param>
    public static TBuilder ForAnyone<TBuilder>(this TBuilder route, string why)
        where TBuilder : IEndpointConventionBuilder => route.AllowAnonymous().WithMetadata(new OpenTo(why));
}
