using System.CommandLine;
using GateChain.Access.Basics;
using GateChain.Cli.Terminal;
using GateChain.Client;
using GateChain.Service.Hosting;
using GateChain.Storage;
using Spectre.Console;

namespace GateChain.Cli.Commands;

/// <summary><c>gatechain user</c>, <c>role</c> and <c>token</c></summary>
static class UserCommands
{
    static readonly Argument<string> Name = new("NAME") { Description = "The account's name" };

    static readonly Option<string[]> Role = new("--role", "-r")
    {
        Description =
            "A role: viewer, operator, designer, keeper or admin; with a folder where it holds there and below, "
            + "for example operator:sales; again for more",
    };

    public static IEnumerable<Command> Create() => [User(), RoleCommand(), Token()];

    static Command User()
    {
        var full = new Option<string?>("--full-name") { Description = "Their name in full" };
        var data = new Option<string?>("--data")
        {
            Description = "The data folder of a service that does not run: for an admin who can't sign in any more",
        };
        var command = ServiceCommand.Create("user", "Lists people; with a command, adds or changes them", ListAsync);
        command.Subcommands.Add(
            ServiceCommand.Create(
                "add",
                "Adds somebody and prints the link with which they choose a password; the first one is an admin, and "
                    + "from then on people sign in",
                async (parsed, client, cancel) =>
                {
                    var added = await client.AddPersonAsync(
                        new(parsed.GetValue(Name)!, parsed.GetValue(Role) ?? [], parsed.GetValue(full)),
                        cancel
                    );
                    return TellLink(added, parsed);
                },
                Name,
                Role,
                full
            )
        );
        command.Subcommands.Add(
            ServiceCommand.Create(
                "link",
                "Prints a new link with which somebody chooses a password; with --data also when nobody can sign in",
                async (parsed, client, cancel) =>
                    parsed.GetValue(data) is { } folder
                        ? await TellOfflineAsync(folder, parsed.GetValue(Name)!)
                        : TellLink(await client.MakeLinkAsync(parsed.GetValue(Name)!, cancel), parsed),
                Name,
                data
            )
        );
        Add(command, "disable", "Keeps somebody out, at once", "is kept out", (c, n, x) =>
            c.SetDisabledAsync(n, true, x)
        );
        Add(command, "enable", "Lets somebody in again", "is let in again", (c, n, x) =>
            c.SetDisabledAsync(n, false, x)
        );
        Add(command, "sign-out", "Ends all sessions of somebody", "is signed out", (c, n, x) =>
            c.EndSessionsAsync(n, x)
        );
        Add(
            command,
            "codes-off",
            "Turns off the one-time codes of somebody who has lost their device",
            "needs no one-time code any more",
            (c, n, x) => c.RemoveCodesAsync(n, x)
        );
        Add(
            command,
            "remove",
            "Removes somebody, with their tokens; what they did stays in the audit log",
            "is removed",
            (c, n, x) => c.RemovePersonAsync(n, x)
        );
        return command;
    }

    static void Add(
        Command to,
        string name,
        string description,
        string done,
        Func<GateChainClient, string, CancellationToken, Task> act
    ) =>
        to.Subcommands.Add(
            ServiceCommand.Create(
                name,
                description,
                async (parsed, client, cancel) =>
                {
                    await act(client, parsed.GetValue(Name)!, cancel);
                    Console.WriteLine($"{parsed.GetValue(Name)} {done}");
                    return ExitCodes.Succeeded;
                },
                Name
            )
        );

    static int TellLink(NewPerson person, ParseResult parsed)
    {
        if (parsed.GetValue(ServiceCommand.Json))
        {
            ServiceCommand.WriteJson(person);
            return ExitCodes.Succeeded;
        }
        Console.WriteLine($"{person.Person.Name}: {Roles(person.Person.Roles)}");
        Console.WriteLine("The password is chosen here, once, within 24 hours:");
        Console.WriteLine($"  {person.Link}");
        return ExitCodes.Succeeded;
    }

    static async Task<int> TellOfflineAsync(string folder, string name)
    {
        try
        {
            var link = await OfflineAccess.MakeLinkAsync(folder, name);
            Console.WriteLine($"Start the service, and open /welcome#{link} there, once, within 24 hours.");
            return ExitCodes.Succeeded;
        }
        catch (StorageException e)
        {
            throw new GateChainException(503, e.Message, null, []);
        }
        catch (AccessException e)
        {
            throw new GateChainException(404, e.Message, null, []);
        }
    }

    static string Roles(IReadOnlyList<string> roles) => roles.Count == 0 ? "no role" : string.Join(", ", roles);

    static async Task<int> ListAsync(ParseResult parsed, GateChainClient client, CancellationToken cancel)
    {
        var people = await client.PeopleAsync(cancel);
        if (parsed.GetValue(ServiceCommand.Json))
        {
            ServiceCommand.WriteJson(people);
            return ExitCodes.Succeeded;
        }
        if (people.Count == 0)
        {
            Console.WriteLine(
                "there are no accounts: everybody on this machine may use the service. The first one turns sign-in "
                    + "on:\n"
                    + "  gatechain user add NAME --role admin"
            );
            return ExitCodes.Succeeded;
        }
        var table = Tables.Create(
            new("name"),
            new("roles", IsLong: true),
            new("signs in with"),
            new("signed in last"),
            new("")
        );
        foreach (var person in people)
        {
            table.AddRow(
                Tables.Cell(person.Name),
                Tables.Cell(Roles(person.Roles)),
                Tables.Cell(
                    person.Issuer
                        ?? (
                            !person.HasPassword ? "no password yet"
                            : person.HasCodes ? "password and code"
                            : "password"
                        )
                ),
                Tables.Cell(person.SignedIn is { } at ? Words.At(at) : "never"),
                Tables.Cell(person.Disabled ? "kept out" : "")
            );
        }
        Tables.Write(table);
        return ExitCodes.Succeeded;
    }

    static Command RoleCommand()
    {
        var role = new Argument<string[]>("ROLE")
        {
            Description = "For example operator, or operator:sales for a folder and all below",
            Arity = ArgumentArity.OneOrMore,
        };
        var command = new Command("role", "Gives roles to somebody, or takes them away");
        foreach (var (name, description) in ((string, string)[])[("give", "Gives roles"), ("take", "Takes roles away")])
        {
            command.Subcommands.Add(
                ServiceCommand.Create(
                    name,
                    description,
                    async (parsed, client, cancel) =>
                    {
                        var who = parsed.GetValue(Name)!;
                        var person = (await client.PeopleAsync(cancel)).FirstOrDefault(p =>
                            p.Name.Equals(who, StringComparison.OrdinalIgnoreCase)
                        ) ?? throw new GateChainException(404, $"there is no account “{who}”", null, []);
                        var asked = parsed.GetValue(role) ?? [];
                        if (name == "take" && asked.FirstOrDefault(r => !person.Roles.Contains(r)) is { } lacking)
                        {
                            throw new GateChainException(
                                404,
                                $"{person.Name} has no role “{lacking}”; they have: {Roles(person.Roles)}",
                                null,
                                []
                            );
                        }
                        var after = name == "give" ? person.Roles.Union(asked) : person.Roles.Except(asked);
                        await client.SetRolesAsync(person.Name, new([.. after]), cancel);
                        Console.WriteLine($"{person.Name}: {Roles([.. after])}");
                        return ExitCodes.Succeeded;
                    },
                    Name,
                    role
                )
            );
        }
        return command;
    }

    static Command Token()
    {
        var of = new Option<string?>("--of") { Description = "Whose token it is; one's own when absent" };
        var days = new Option<int?>("--days")
        {
            Description = "How many days it holds; 0 for until it is revoked",
            DefaultValueFactory = _ => 90,
        };
        var name = new Argument<string>("NAME") { Description = "What it is for" };
        var id = new Argument<string>("ID") { Description = "The token's id, as gatechain token shows it" };
        var command = ServiceCommand.Create(
            "token",
            "Lists tokens of programs; with a command, makes or revokes one",
            ListTokensAsync
        );
        command.Subcommands.Add(
            ServiceCommand.Create(
                "add",
                "Makes a token and prints it, once",
                async (parsed, client, cancel) =>
                {
                    var owner = parsed.GetValue(of)
                        ?? (await client.SessionAsync(cancel)).Name
                        ?? throw new GateChainException(409, "there are no accounts, and so no tokens", null, []);
                    var made = await client.AddTokenAsync(
                        new(
                            owner,
                            parsed.GetValue(name)!,
                            parsed.GetValue(Role) ?? [],
                            parsed.GetValue(days) is > 0 and var d ? d : null
                        ),
                        cancel
                    );
                    if (parsed.GetValue(ServiceCommand.Json))
                        ServiceCommand.WriteJson(made);
                    else
                        Console.WriteLine(made.Token);
                    return ExitCodes.Succeeded;
                },
                name,
                Role,
                of,
                days
            )
        );
        command.Subcommands.Add(
            ServiceCommand.Create(
                "revoke",
                "Revokes a token, at once",
                async (parsed, client, cancel) =>
                {
                    await client.RevokeTokenAsync(parsed.GetValue(id)!, cancel);
                    Console.WriteLine($"{parsed.GetValue(id)} counts no more");
                    return ExitCodes.Succeeded;
                },
                id
            )
        );
        return command;
    }

    static async Task<int> ListTokensAsync(ParseResult parsed, GateChainClient client, CancellationToken cancel)
    {
        var tokens = await client.TokensAsync(cancel);
        if (parsed.GetValue(ServiceCommand.Json))
        {
            ServiceCommand.WriteJson(tokens);
            return ExitCodes.Succeeded;
        }
        if (tokens.Count == 0)
            Console.WriteLine("there are no tokens");
        var table = Tables.Create(
            new("id"),
            new("name", IsLong: true),
            new("of"),
            new("roles", IsLong: true),
            new("until"),
            new("used")
        );
        foreach (var token in tokens)
        {
            table.AddRow(
                Tables.Cell(token.Id),
                Tables.Cell(token.Name),
                Tables.Cell(token.Owner),
                Tables.Cell(Roles(token.Roles)),
                Tables.Cell(token.Expires is { } end ? Words.At(end) : "revoked"),
                Tables.Cell(token.Used is { } used ? Words.At(used) : "never")
            );
        }
        if (tokens.Count > 0)
            Tables.Write(table);
        return ExitCodes.Succeeded;
    }
}
