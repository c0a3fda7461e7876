using System.CommandLine;
using GateChain.Cli.Terminal;
using GateChain.Client;
using Spectre.Console;

namespace GateChain.Cli.Commands;

/// <summary><c>gatechain nodes</c> and <c>gatechain drain NODE</c></summary>
static class NodeCommands
{
    static readonly Argument<string> Node = new("NODE") { Description = "The node's name" };
    static readonly Option<bool> Off = new("--off") { Description = "Has it go on instead" };
    static readonly Option<bool> Work = new("--work") { Description = "Shows what each of them is at, too" };

    public static Command Nodes() =>
        ServiceCommand.Create(
            "nodes",
            "Shows the nodes that share the service's database: how they are, and what they are at",
            async (parsed, client, cancel) =>
            {
                var nodes = await client.NodesAsync(cancel);
                if (parsed.GetValue(ServiceCommand.Json))
                {
                    ServiceCommand.WriteJson(nodes);
                    return ExitCodes.Succeeded;
                }
                Write(nodes, parsed.GetValue(Work));
                return ExitCodes.Succeeded;
            },
            Work
        );

    static void Write(NodesInfo nodes, bool withWork)
    {
        if (!nodes.Shared)
        {
            Console.WriteLine("this service shares its database with no other; to do so: gatechain serve --join");
            return;
        }
        var table = Tables.Create(
            new("node"),
            new("state"),
            new("heard"),
            new("runs", IsNumber: true),
            new("attempts", IsNumber: true),
            new("labels", IsLong: true),
            new("does"),
            new("version"),
            new("address")
        );
        foreach (var node in nodes.Nodes)
        {
            var does =
                node.Leads ? "what one does for all"
                : node.OwnsRuns ? ""
                : "attempts only";
            table.AddRow(
                Tables.Cell(node.Name + (node.IsThis ? " (asked)" : "")),
                Tables.Cell(node.State),
                Tables.Cell($"{Math.Max(0, (DateTimeOffset.UtcNow - node.Seen).TotalSeconds):0} s ago"),
                Tables.Cell($"{node.Runs}"),
                Tables.Cell(node.Attempts is { } attempts ? $"{attempts}" : "?"),
                Tables.Cell(string.Join(", ", node.Labels)),
                Tables.Cell(does),
                Tables.Cell(node.Version),
                Tables.Cell(node.Address)
            );
        }
        Tables.Write(table);
        foreach (var node in nodes.Nodes.Where(n => withWork && n.Work.Count > 0))
        {
            Console.WriteLine($"\n{node.Name} is at");
            foreach (var work in node.Work)
                Console.WriteLine($"  run {work.Run}  {work.Step}{(work.ForOther ? "  (a run of another node)" : "")}");
        }
    }

    public static Command Drain() =>
        ServiceCommand.Create(
            "drain",
            "Has a node hand over what only waits, take nothing new, and end when the rest is through",
            async (parsed, client, cancel) =>
            {
                var name = parsed.GetValue(Node)!;
                if (parsed.GetValue(Off))
                {
                    await client.UndrainAsync(name, cancel);
                    Console.WriteLine($"{name} goes on");
                    return ExitCodes.Succeeded;
                }
                var nodes = await client.DrainAsync(name, cancel);
                if (nodes.Nodes.FirstOrDefault(n => n.Name == name) is { } node)
                {
                    Console.WriteLine(
                        $"{name} takes nothing new, hands over what only waits, and ends when the rest is through: "
                            + $"{node.Runs} runs, {node.Attempts ?? 0} attempts. Look with: gatechain nodes"
                    );
                }
                return ExitCodes.Succeeded;
            },
            Node,
            Off
        );
}
