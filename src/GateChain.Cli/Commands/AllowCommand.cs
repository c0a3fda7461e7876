using System.CommandLine;
using GateChain.Cli.Terminal;
using GateChain.Client;
using Spectre.Console;

namespace GateChain.Cli.Commands;

/// <summary><c>gatechain allow</c></summary>
static class AllowCommand
{
    static readonly Argument<string?> Folder = new("FOLDER")
    {
        Description = "The folder, with all below; / for the whole workspace. Without it, the rules are listed",
        Arity = ArgumentArity.ZeroOrOne,
    };
    static readonly Option<bool> Commands = new("--commands") { Description = "command steps may run programs" };
    static readonly Option<string[]> Program = new("--program")
    {
        Description = "Only this program, as the step's run names it; again for more",
    };
    static readonly Option<string[]> Plugin = new("--plugin")
    {
        Description = "This kind of one's own may be used; again for more, “all” for all",
    };
    static readonly Option<string[]> Host = new("--host")
    {
        Description = "Steps may go to this host only, *.larkmoor.example for all below; again for more",
    };
    static readonly Option<bool> Reset = new("--reset") { Description = "What holds in the folder above holds again" };

    public static Command Create() =>
        ServiceCommand.Create(
            "allow",
            "Says what steps of a folder may use: programs, plug-ins, hosts; replaces what was said before",
            async (parsed, client, cancel) =>
            {
                if (parsed.GetValue(Folder) is not { } folder)
                    return await ListAsync(parsed, client, cancel);
                var path = folder.Trim('/');
                if (parsed.GetValue(Reset))
                {
                    await client.RemoveRulesAsync(path, cancel);
                }
                else
                {
                    var programs = parsed.GetValue(Program) ?? [];
                    var plugins = parsed.GetValue(Plugin) ?? [];
                    var hosts = parsed.GetValue(Host) ?? [];
                    await client.SetRulesAsync(
                        new(
                            path,
                            parsed.GetValue(Commands) || programs.Length > 0,
                            programs.Length > 0 ? programs : null,
                            plugins.Contains("all") ? null : plugins,
                            hosts.Length > 0 ? hosts : null
                        ),
                        cancel
                    );
                }
                return await ListAsync(parsed, client, cancel);
            },
            Folder,
            Commands,
            Program,
            Plugin,
            Host,
            Reset
        );

    static async Task<int> ListAsync(ParseResult parsed, GateChainClient client, CancellationToken cancel)
    {
        var rules = await client.RulesAsync(cancel);
        if (parsed.GetValue(ServiceCommand.Json))
        {
            ServiceCommand.WriteJson(rules);
            return ExitCodes.Succeeded;
        }
        static string Names(IReadOnlyList<string>? names) =>
            names is null ? "all"
            : names.Count == 0 ? "none"
            : string.Join(", ", names);
        if (rules.All(r => r.Folder.Length > 0))
            Console.WriteLine("elsewhere: no programs, no plug-ins, all hosts (once there are accounts)");
        if (rules.Count == 0)
            return ExitCodes.Succeeded;
        var table = Tables.Create(
            new("folder"),
            new("programs", IsLong: true),
            new("plug-ins", IsLong: true),
            new("hosts", IsLong: true)
        );
        foreach (var rule in rules)
        {
            table.AddRow(
                Tables.Cell(Words.Folder(rule.Folder)),
                Tables.Cell(rule.AllowCommands ? Names(rule.Programs) : "none"),
                Tables.Cell(Names(rule.Plugins)),
                Tables.Cell(Names(rule.Hosts))
            );
        }
        Tables.Write(table);
        return ExitCodes.Succeeded;
    }
}
