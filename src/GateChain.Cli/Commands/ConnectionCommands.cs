using System.CommandLine;
using System.Globalization;
using GateChain.Cli.Terminal;
using GateChain.Client;

namespace GateChain.Cli.Commands;

/// <summary><c>gatechain connections</c> and <c>gatechain secret</c></summary>
static class ConnectionCommands
{
    static readonly Argument<string?> Which = new("NAME")
    {
        Description = "Only this one",
        Arity = ArgumentArity.ZeroOrOne,
    };
    static readonly Option<bool> Check = new("--check") { Description = "Go there and say what is found" };
    static readonly Argument<string> Name = new("NAME")
    {
        Description = "The secret's name; connections name it as secret:NAME",
    };

    public static Command Connections() =>
        ServiceCommand.Create(
            "connections",
            "Shows the connections; with --check, whether they work",
            async (parsed, client, cancel) =>
            {
                var all = (await client.ConnectionsAsync(cancel))
                    .Where(c => parsed.GetValue(Which) is not { } name || c.Name == name)
                    .ToList();
                if (all.Count == 0 && parsed.GetValue(Which) is { } missing)
                    throw new GateChainException(404, $"there is no connection “{missing}”", null, []);
                var checks = new Dictionary<ConnectionInfo, ConnectionCheckInfo>();
                if (parsed.GetValue(Check))
                {
                    foreach (var c in all)
                        checks[c] = await client.CheckConnectionAsync(c.Name, c.Area, cancel);
                }
                var works = checks.Values.All(c => c.Works);
                if (parsed.GetValue(ServiceCommand.Json))
                {
                    ServiceCommand.WriteJson(
                        all.Select(c => new
                            {
                                c.Name,
                                c.Area,
                                c.Type,
                                c.Settings,
                                c.UsedBy,
                                Check = checks.GetValueOrDefault(c),
                            })
                            .ToList()
                    );
                    return works ? ExitCodes.Succeeded : ExitCodes.Failed;
                }
                if (all.Count == 0)
                    Console.WriteLine("there are no connections; declare them in connections.yaml");
                var width = all.Select(c => Words.InArea(c.Area, c.Name).Length).DefaultIfEmpty().Max();
                foreach (var c in all)
                {
                    Console.WriteLine(
                        $"{Words.InArea(c.Area, c.Name).PadRight(width)}  {c.Type, -10}  "
                            + $"{string.Join(", ", c.Settings.Select(s => $"{s.Key} {s.Value}"))}"
                    );
                    if (c.UsedBy.Count > 0)
                    {
                        Console.WriteLine(
                            $"{new string(' ', width)}  used by "
                                + $"{string.Join(", ", c.UsedBy.Select(u => $"{u.Chain} {u.Step}"))}"
                        );
                    }
                    if (checks.TryGetValue(c, out var check))
                    {
                        Console.WriteLine(
                            string.Create(
                                CultureInfo.InvariantCulture,
                                $"{new string(' ', width)}  "
                                    + $"{(check.Works ? "✓ works" : "⨯ does not work")}: "
                                    + $"{check.Found} ({check.Ms:0} ms)"
                            )
                        );
                    }
                }
                return works ? ExitCodes.Succeeded : ExitCodes.Failed;
            },
            Which,
            Check
        );

    static readonly Option<string?> Folder = new("--folder")
    {
        Description = "The folder of the workspace that may use it, and those below; / for all. Default: where it is",
    };

    public static Command Secret()
    {
        var command = new Command("secret", "Sets, lists and removes secrets; nobody can read one afterwards")
        {
            ServiceCommand.Create(
                "set",
                "Sets a secret to what comes on standard input",
                async (parsed, client, cancel) =>
                {
                    var name = parsed.GetValue(Name)!;
                    if (!Console.IsInputRedirected)
                        Console.Error.Write($"value of {name} (it is not shown): ");
                    var value = Console.IsInputRedirected
                        ? (await Console.In.ReadToEndAsync(cancel)).TrimEnd('\r', '\n')
                        : Hidden();
                    await client.SetSecretAsync(name, value, parsed.GetValue(Folder)?.Trim('/'), cancel);
                    Console.WriteLine($"{name} is set");
                    return ExitCodes.Succeeded;
                },
                Name,
                Folder
            ),
            ServiceCommand.Create(
                "remove",
                "Takes a secret away",
                async (parsed, client, cancel) =>
                {
                    await client.RemoveSecretAsync(parsed.GetValue(Name)!, cancel);
                    Console.WriteLine($"{parsed.GetValue(Name)} is gone");
                    return ExitCodes.Succeeded;
                },
                Name
            ),
            ServiceCommand.Create("list", "Shows which secrets are set or asked for", async (parsed, client, cancel) =>
            {
                var all = await client.SecretsAsync(cancel);
                if (parsed.GetValue(ServiceCommand.Json))
                {
                    ServiceCommand.WriteJson(all);
                    return ExitCodes.Succeeded;
                }
                if (all.Count == 0)
                    Console.WriteLine("there are no secrets, and no connection asks for one");
                var width = all.Select(s => s.Name.Length).DefaultIfEmpty().Max();
                foreach (var s in all)
                {
                    var state =
                        !s.IsSet ? "⨯ not set"
                        : !s.Readable ? "⨯ set with another key; set it again"
                        : s.By is null ? "✓ in a file"
                        : string.Create(
                            CultureInfo.InvariantCulture,
                            $"✓ set by {s.By}, {s.Changed:yyyy-MM-dd HH:mm} UTC"
                        ) + (s.Area == "" ? "" : $", for {s.Area}");
                    Console.WriteLine(
                        $"{s.Name.PadRight(width)}  {state}"
                            + $"{(s.UsedBy.Count > 0 ? $"; used by {string.Join(", ", s.UsedBy)}" : "")}"
                    );
                }
                return ExitCodes.Succeeded;
            }),
        };
        return command;
    }

    static string Hidden()
    {
        var value = new System.Text.StringBuilder();
        while (Console.ReadKey(intercept: true) is var key && key.Key != ConsoleKey.Enter)
        {
            if (key.Key == ConsoleKey.Backspace)
                value.Length = Math.Max(0, value.Length - 1);
            else if (key.KeyChar != 0)
                value.Append(key.KeyChar);
        }
        Console.Error.WriteLine();
        return value.ToString();
    }
}
