using GateChain.Core.Identity;
using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.Authorization.Policy;

namespace GateChain.Service.Access;

/// <summary>The one gate: holds what an endpoint needs against what somebody may do. Thread-safe.</summary>
sealed class PermitHandler(AreaLocator areas) : AuthorizationHandler<Permit>
{
    protected override async Task HandleRequirementAsync(AuthorizationHandlerContext context, Permit requirement)
    {
        var http = (HttpContext)context.Resource!;
        var visitor = Visitor.Of(http);
        if (visitor == Visitor.Nobody)
            return;
        if (await RefusalAsync(http, visitor, requirement) is { } refusal)
            http.Items[typeof(PermitHandler)] = refusal;
        else
            context.Succeed(requirement);
    }

    async ValueTask<Exception?> RefusalAsync(HttpContext http, Visitor visitor, Permit permit)
    {
        if (permit.Permission is not { } permission)
            return null;
        switch (permit.Where)
        {
            case Where.Somewhere:
                return visitor.Rights.AllowSomewhere(permission) ? null : new NotAllowedException(permission, null);
            case Where.Everywhere:
                return visitor.Rights.AllowEverywhere(permission)
                    ? null
                    : new NotAllowedException(permission, Area.Root);
        }
        // Who may everything needs no look at where it is.
        if (visitor.Rights.AllowEverywhere(permission))
            return null;
        var (area, missing) = await areas.OfRequestAsync(permit.Where, http);
        if (area is null && permit.Where == Where.NewChain)
            return visitor.Rights.AllowSomewhere(permission) ? null : new NotAllowedException(permission, null);
        if (area is not { } there || !visitor.Sees(there))
            return missing();
        return visitor.May(permission, there) ? null : new NotAllowedException(permission, there);
    }
}

/// <summary>Tells who is not let through why: as not there, as not allowed, or to sign in first.</summary>
sealed class Refusals(RefusalLog log) : IAuthorizationMiddlewareResultHandler
{
    public async Task HandleAsync(
        RequestDelegate next,
        HttpContext context,
        AuthorizationPolicy policy,
        PolicyAuthorizationResult authorizeResult
    )
    {
        if (authorizeResult.Succeeded)
        {
            await next(context);
            return;
        }
        if (context.Items[typeof(PermitHandler)] is Exception refusal)
        {
            await log.TellAsync(context, refusal is NotAllowedException no ? no.Sentence : refusal.Message);
            // Told as the endpoints tell it.
            throw refusal;
        }
        throw new NotSignedInException();
    }
}

/// <summary>Nobody knows who asks.</summary>
sealed class NotSignedInException() : Exception("sign in first: nobody is let in here who is not known");
