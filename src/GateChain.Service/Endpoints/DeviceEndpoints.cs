using GateChain.Access;
using GateChain.Access.Basics;
using GateChain.Access.Tokens;
using GateChain.Client;
using GateChain.Core.Running;
using GateChain.Engine.Runs;
using GateChain.Service.Access;
using GateChain.Service.Views;

namespace GateChain.Service.Endpoints;

/// <summary>Lets the command line in: it shows a code, which somebody who has signed in confirms.</summary>
/// <remarks>Source: RFC 8628.</remarks>
static class DeviceEndpoints
{
    public static void Map(RouteGroupBuilder api)
    {
        api.MapPost("/device", Begin)
            .ForAnyone("a program asks to be let in")
            .RequireRateLimiting(SessionEndpoints.Limit)
            .WithName("beginDevice")
            .WithSummary("Begins to let a program in: gives the code that it shows")
            .ProducesProblem(409);
        api.MapPost("/device/look", (DeviceLook request, DeviceSignIn devices) =>
            {
                var (state, token) = devices.Look(request.DeviceCode);
                return new DeviceAnswer(
                    state switch
                    {
                        DeviceState.Pending => "pending",
                        DeviceState.SlowDown => "slow-down",
                        DeviceState.Denied => "denied",
                        DeviceState.Granted => "granted",
                        _ => "expired",
                    },
                    token
                );
            })
            .ForAnyone("the program that asked looks whether it is let in")
            .RequireRateLimiting(SessionEndpoints.Limit)
            .WithName("lookAtDevice")
            .WithSummary("Whether the program is let in; its token is told once");
        api.MapGet("/device/{code}", (string code, DeviceSignIn devices) =>
            {
                var found = devices.OfCode(code);
                return new DeviceInfo(found.UserCode, found.Client, found.Source, found.Expires);
            })
            .NeedsSignIn()
            .RequireRateLimiting(SessionEndpoints.Limit)
            .WithName("getDevice")
            .WithSummary("The program that shows a code")
            .ProducesProblem(404);
        api.MapPost("/device/{code}", Decide)
            .NeedsSignIn()
            .RequireRateLimiting(SessionEndpoints.Limit)
            .WithName("decideDevice")
            .WithSummary("Lets the program that shows a code in as oneself, or keeps it out")
            .ProducesProblem(404)
            .ProducesProblem(409);
    }

    static DeviceCodes Begin(DeviceStart request, AccessServices access, RunStarter starter, HttpContext http)
    {
        if (!access.People.AreThere)
            throw new AccessException(RefusalKind.Conflict, "there are no accounts: nobody signs in here");
        var (code, waits) = access.Devices.Begin(request.Client, VisitorAuthentication.SourceOf(http));
        var page = $"{starter.Home?.TrimEnd('/')}/device";
        return new(
            code,
            waits.UserCode,
            page,
            $"{page}?code={waits.UserCode}",
            (int)DeviceSignIn.Waits.TotalSeconds,
            (int)DeviceSignIn.Interval.TotalSeconds
        );
    }

    static async Task<IResult> Decide(string code, DeviceDecision request, DeviceSignIn devices, Visitor visitor)
    {
        if (visitor is not { Account: { } account, Session: not null })
            throw new AccessException(RefusalKind.Conflict, "this is decided in a browser, by who has signed in there");
        if (request.Allow)
        {
            await devices.GrantAsync(
                code,
                account,
                request.Roles is { } roles ? AccessViews.Grants(roles) : visitor.Rights.Grants,
                visitor.Actor
            );
        }
        else
        {
            devices.Deny(code);
        }
        return Results.NoContent();
    }
}
