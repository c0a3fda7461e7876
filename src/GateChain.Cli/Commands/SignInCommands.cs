using System.CommandLine;
using GateChain.Cli.Terminal;
using GateChain.Client;

namespace GateChain.Cli.Commands;

/// <summary><c>gatechain sign-in</c>, <c>sign-out</c> and <c>who</c></summary>
static class SignInCommands
{
    static readonly Argument<string?> Address = new("URL")
    {
        Description = "The service's address; that of --service when absent",
        Arity = ArgumentArity.ZeroOrOne,
    };

    public static IEnumerable<Command> Create() => [SignIn(), SignOut(), Who()];

    static Command SignIn()
    {
        var command = new Command(
            "sign-in",
            "Signs in: shows a code that is confirmed in a browser; or keeps a token (--token)"
        )
        {
            Address,
            ServiceCommand.Service,
            ServiceCommand.Token,
        };
        command.SetAction(
            async (parsed, cancel) =>
            {
                var address = parsed.GetValue(Address) ?? parsed.GetValue(ServiceCommand.Service);
                using var client = ServiceCommand.ClientOf(address, parsed.GetValue(ServiceCommand.Token) ?? "");
                var token = parsed.GetValue(ServiceCommand.Token)
                    ?? await AskAsync(client, cancel).ConfigureAwait(false);
                if (token is null)
                    return ExitCodes.NotSignedIn;
                using var known = ServiceCommand.ClientOf(address, token);
                var session = await known.SessionAsync(cancel).ConfigureAwait(false);
                if (session.Name is null)
                {
                    Console.Error.WriteLine(
                        session.State == "open"
                            ? "this service has no accounts: everybody on its machine may use it"
                            : "this token is none of the service's, or its time is over"
                    );
                    return ExitCodes.NotSignedIn;
                }
                SignIns.Keep(known.Address, token);
                Console.WriteLine($"signed in as {session.Name}: {Roles(session)}");
                return ExitCodes.Succeeded;
            }
        );
        return command;
    }

    // Null when nobody lets it in.
    static async Task<string?> AskAsync(GateChainClient client, CancellationToken cancel)
    {
        var codes = await client
            .BeginDeviceAsync(new($"gatechain on {Environment.MachineName}"), cancel)
            .ConfigureAwait(false);
        Console.Error.WriteLine($"Open {codes.VerificationUriComplete}");
        Console.Error.WriteLine($"and confirm the code {codes.UserCode} there. Waiting …");
        var pause = codes.Interval;
        while (true)
        {
            await Task.Delay(TimeSpan.FromSeconds(pause), cancel).ConfigureAwait(false);
            var answer = await client.LookAtDeviceAsync(new(codes.DeviceCode), cancel).ConfigureAwait(false);
            switch (answer.State)
            {
                case "granted":
                    return answer.Token;
                case "slow-down":
                    // Source: RFC 8628, 3.5.
                    pause += 5;
                    break;
                case "denied":
                    Console.Error.WriteLine("it was refused");
                    return null;
                case "expired":
                    Console.Error.WriteLine("nobody confirmed it in time: begin again");
                    return null;
            }
        }
    }

    static Command SignOut() =>
        ServiceCommand.Create(
            "sign-out",
            "Signs out: the token that was kept counts no more",
            async (_, client, cancel) =>
            {
                try
                {
                    await client.RevokeThisTokenAsync(cancel);
                }
                catch (GateChainException e) when (e.Status is 401 or 404 or 409)
                {
                    // It counted no more already.
                }
                SignIns.Keep(client.Address, null);
                Console.WriteLine("signed out");
                return ExitCodes.Succeeded;
            }
        );

    static Command Who() =>
        ServiceCommand.Create(
            "who",
            "Says as whom one is signed in, and what one may do where",
            async (parsed, client, cancel) =>
            {
                var session = await client.SessionAsync(cancel);
                if (parsed.GetValue(ServiceCommand.Json))
                {
                    ServiceCommand.WriteJson(session);
                    return ExitCodes.Succeeded;
                }
                if (session.Name is null)
                {
                    Console.WriteLine(
                        session.State == "open"
                            ? "nobody signs in here: there are no accounts, and everybody on this machine may do "
                                + "everything"
                            : "not signed in: gatechain sign-in"
                    );
                    return session.State == "open" ? ExitCodes.Succeeded : ExitCodes.NotSignedIn;
                }
                Console.WriteLine(
                    $"{session.Name}{(session.FullName is null ? "" : $" ({session.FullName})")}, by {session.Through}"
                );
                foreach (var (permission, folders) in session.May.Where(m => m.Value.Count > 0))
                    Console.WriteLine($"  {permission, -11} {string.Join(", ", folders.Select(Words.Folder))}");
                return ExitCodes.Succeeded;
            }
        );

    static string Roles(SessionInfo session) =>
        session.Roles.Count == 0 ? "no role yet" : string.Join(", ", session.Roles);
}
